import { LABELS, troubleIn, type FileCheck, type HandOffFile } from '@oscillum/core/handoff';
import type { HandOffResult } from '../../../sim/messages';
import { useDesk } from '../../kit/desk';
import { saveFile } from '../../kit/saveFile';

const TYPES: Record<HandOffFile['format'], string> = {
  glb: 'model/gltf-binary',
  bvh: 'text/plain',
  usda: 'text/plain',
  csv: 'text/csv',
  json: 'application/json',
  'points.usda': 'text/plain',
  'points.csv': 'text/csv',
  'cards.glb': 'model/gltf-binary',
  'hair.glb': 'model/gltf-binary',
};

export const size = (bytes: number): string =>
  bytes < 1e6 ? `${(bytes / 1024).toFixed(0)} KiB` : `${(bytes / 2 ** 20).toFixed(1)} MiB`;

const isFine = ({ faults, checks }: HandOffResult): boolean =>
  faults.length === 0 && checks.every((c) => c.fine);

/** The files that were written, to be taken. */
export function Ready({ result }: { result: HandOffResult }) {
  const { files, zip } = result;
  const fine = isFine(result);
  return (
    <div className={`notice${fine ? '' : ' bad'}`} role="status" data-fine={fine}>
      <b>
        {fine
          ? `Ready: ${files.length === 1 ? files[0]!.name : `${files.length} files`}`
          : 'Written, but not as it should be: see below the choices'}
      </b>{' '}
      <span className="muted small" title={files.map((f) => `${f.name}, ${size(f.bytes.length)}`).join('\n')}>
        {size(files.reduce((n, f) => n + f.bytes.length, 0))}
      </span>
      <Downloads files={files} zip={zip} />
    </div>
  );
}

/** What was written: keys before and after, and how the files compare when they are read back. */
export function Result({ result }: { result: HandOffResult }) {
  const { clips, checks, faults, notes } = result;
  return (
    <div className={`notice result${isFine(result) ? '' : ' bad'}`}>
      <ClipTable clips={clips} />
      <FitTable clips={clips} />
      {checks.length > 0 && <CheckTable checks={checks} />}
      {faults.map((f) => (
        <span key={f}>The validator says: {f}</span>
      ))}
      {notes.map((n) => (
        <span key={n} className="muted">
          {n}
        </span>
      ))}
    </div>
  );
}

/** Keys of each clip before and after, and how far the thinned curves are off. */
function ClipTable({ clips }: Pick<HandOffResult, 'clips'>) {
  return (
    <table>
      <thead>
        <tr>
          <th>Clip</th>
          <th>Keys</th>
          <th>Largest error</th>
        </tr>
      </thead>
      <tbody>
        {clips.map((c) => (
          <tr key={c.clip}>
            <td title={c.missed.join('\n')}>
              {c.clip}
              {c.missed.length > 0 && <span className="muted"> {c.missed.length} left out</span>}
            </td>
            <td>
              {c.after === c.before ? (
                c.after
              ) : (
                <>
                  {c.before} → <b>{c.after}</b>
                  <div className="progress" aria-hidden>
                    <i style={{ width: `${(100 * c.after) / c.before}%` }} />
                  </div>
                </>
              )}
            </td>
            <td title={c.joint && `${c.joint}; tip of ${c.part}`}>
              {c.after === c.before ? '0' : `${c.degrees.toFixed(2)}°, ${c.millimetres.toFixed(1)} mm`}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** What vertices that move one by one became, and how far that is off. */
function FitTable({ clips }: Pick<HandOffResult, 'clips'>) {
  const { character } = useDesk();
  const fits = clips.flatMap((c) => c.fits.map((f) => ({ ...f, clip: c.clip })));
  if (fits.length === 0) return null;
  return (
    <table aria-label="Fits">
      <thead>
        <tr>
          <th>Points of</th>
          <th>Became</th>
          <th>Error, mostly · largest</th>
        </tr>
      </thead>
      <tbody>
        {fits.map((f) => (
          <tr key={`${f.clip} ${f.node}`} title={f.clip}>
            <td>{character.nodes[f.node]?.name}</td>
            <td>
              {f.joints > 0 ? `${f.joints} helper joints` : `${f.shapes} morph targets`}, {size(f.bytes)}
            </td>
            <td>
              {f.rms.toFixed(1)} · {f.largest.toFixed(1)} mm
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** How the files compare with what was baked when they are read back. */
function CheckTable({ checks }: Pick<HandOffResult, 'checks'>) {
  return (
    <table aria-label="Check">
      <thead>
        <tr>
          <th>Read back</th>
          <th>Joints</th>
          <th>Largest difference</th>
        </tr>
      </thead>
      <tbody>
        {groupsOf(checks).map(({ name, list, worst }) => (
          <tr key={name} title={list.map(detail).join('\n')}>
            <td>
              {name}
              {list.length > 1 && <span className="muted"> {list.length} clips</span>}
            </td>
            <td>{worst.joints}</td>
            <td>
              {list.every((c) => c.fine) ? '✓ ' : '✗ '}
              {worst.share < 1e-7 ? 'none' : `${Number((100 * worst.share).toPrecision(1))} % of the rig`}
              {!worst.fine && `: ${troubleIn(worst, true)}`}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Downloads({ files, zip }: Pick<HandOffResult, 'files' | 'zip'>) {
  return (
    <span className="pair" style={{ flexWrap: 'wrap' }}>
      {zip && (
        <button className="press" onClick={() => saveFile(zip, `${stemOf(files)}.zip`, 'application/zip')}>
          Download all as zip
        </button>
      )}
      {(files.length <= 6 ? files : []).map((f) => (
        <button
          key={f.name}
          className={zip ? 'soft' : 'press'}
          title={`${f.name}, ${size(f.bytes.length)}`}
          onClick={() => saveFile(f.bytes, f.name, TYPES[f.format])}
        >
          {zip && files.filter((x) => x.format === f.format).length > 1
            ? f.name
            : `Download ${LABELS[f.format]}`}
        </button>
      ))}
    </span>
  );
}

const detail = (c: FileCheck): string =>
  `${c.clip}: ${c.joints} joints, ${c.frames} frames, ${(1000 * c.distance).toPrecision(2)} mm at ${c.joint || 'none'}, frame ${c.frame}`;

/** Checks of files of one format by one reader, and the worst of them. */
function groupsOf(checks: readonly FileCheck[]) {
  const nameOf = (c: FileCheck) => `${c.file.replace(/^.*\./, '').toUpperCase()} by ${c.by}`;
  return [...new Set(checks.map(nameOf))].map((name) => {
    const list = checks.filter((c) => nameOf(c) === name);
    const bad = list.filter((c) => !c.fine);
    const worst = (bad.length > 0 ? bad : list).reduce((w, c) => (c.share > w.share ? c : w));
    return { name, list, worst };
  });
}

const stemOf = (files: readonly HandOffFile[]): string => files[0]!.name.replace(/(-baked).*$/, '$1');
