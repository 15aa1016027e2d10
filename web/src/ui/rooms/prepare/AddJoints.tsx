import { useState } from 'react';
import { alongPath, type StrandPath } from '@oscillum/core/character';
import { PartId, type JointRef } from '@oscillum/core/model';
import { chainSettingsFor, makeChainPart } from '@oscillum/core/chain';
import type { Shot } from '@oscillum/core/shot';
import { libraryApi } from '../../../api/library';
import { change } from '../../../state/edits';
import { selectShot, useAppDispatch, useAppSelector, type Thunk } from '../../../state/store';
import { viewSlice } from '../../../state/view';
import { useDesk } from '../../kit/desk';
import { NumberBox } from '../../kit/Fields';
import { sentenceOfAny } from '../../kit/say';
import { CheckRow, ChoiceRow, jointChoices, Row } from '../../kit/Rows';
import { lastOrder } from '../../kit/fresh';

const { strandSet } = viewSlice.actions;

/** Joints for a mesh that has none where it should move: rows found or clicked, then a copy of the character with them. */
export function AddJoints() {
  const { character, simulation } = useDesk();
  const dispatch = useAppDispatch();
  const shot = useAppSelector(selectShot)!;
  const strand = useAppSelector((s) => s.view.strand);
  const selected = useAppSelector((s) => s.view.joints.at(-1));
  const [rows, setRows] = useState(1);
  const [smoothing, setSmoothing] = useState(2);
  const [reach, setReach] = useState<number | null>(null);
  const [name, setName] = useState('');
  const [chains, setChains] = useState(true);
  const [busy, setBusy] = useState(false);
  const [trouble, setTrouble] = useState('');
  const [upload] = libraryApi.useUploadMutation();
  const meshes = character.nodes.flatMap((n, node) =>
    n.mesh >= 0 ? [{ node, name: character.meshes[n.mesh]!.name || n.name }] : [],
  );
  if (meshes.length === 0) return null;
  if (!strand)
    return (
      <>
        <h3>A mesh without joints</h3>
        <button
          className="soft"
          onClick={() =>
            dispatch(
              strandSet({
                mesh: meshes[0]!.node,
                parent: selected ?? character.joints[0] ?? -1,
                joints: 4,
                rows: [],
                clicking: false,
              }),
            )
          }
        >
          Add joints to a mesh
        </button>
      </>
    );
  const put = (part: Partial<typeof strand>) => dispatch(strandSet({ ...strand, ...part }));
  const title = name.trim() || meshes.find((m) => m.node === strand.mesh)!.name;
  const { metresPerUnit, upAxis } = shot.character;
  const plan = {
    mesh: strand.mesh,
    parent: strand.parent,
    name: title,
    joints: strand.joints,
    rows: strand.rows,
    smoothing,
    reach,
  };
  const work = async (run: () => Promise<void>) => {
    setBusy(true);
    setTrouble('');
    try {
      await run();
    } catch (e) {
      setTrouble(sentenceOfAny(e));
    } finally {
      setBusy(false);
    }
  };
  const find = () =>
    work(async () => {
      const paths = await simulation.findStrands(strand.mesh, strand.parent, rows, metresPerUnit, upAxis);
      put({ rows: paths, clicking: false });
      if (paths.length === 0) setTrouble('No row was found on this mesh. Click points along it instead.');
    });
  const make = () =>
    work(async () => {
      const made = await simulation.addJoints(plan, metresPerUnit, upAxis);
      const fileName = shot.character.fileName.replace(/(\.[^.]*)?$/, `, ${title} jointed.glb`).slice(-300);
      const file = new File([made.bytes], fileName, { type: 'model/gltf-binary' });
      const { hash } = await upload(file).unwrap();
      dispatch(takeCopy(title, { hash, fileName }, made.rows, chains ? strand.rows : null));
      dispatch(strandSet(null));
    });
  const usable = strand.rows.filter((r) => r.length > 1).length;
  return (
    <>
      <h3>A mesh without joints</h3>
      <ChoiceRow
        label="Mesh"
        value={String(strand.mesh)}
        choices={meshes.map((m) => [String(m.node), m.name] as const)}
        onSet={(v) => put({ mesh: Number(v), rows: [] })}
      />
      <ChoiceRow
        label="Hangs from"
        value={String(strand.parent)}
        choices={jointChoices(character, 'choose a joint').filter(([v]) => v !== '')}
        onSet={(v) => put({ parent: Number(v) })}
      />
      <Row label="Rows, joints each">
        <span className="pair">
          <NumberBox
            label="Rows on each piece"
            whole
            value={rows}
            onSet={(n) => setRows(Math.min(64, Math.max(1, n)))}
          />
          ×
          <NumberBox
            label="Joints in a row"
            whole
            value={strand.joints}
            onSet={(joints) => put({ joints: Math.min(100, Math.max(1, joints)) })}
          />
        </span>
      </Row>
      <div className="presses">
        <button className="mini" disabled={busy || strand.parent < 0} onClick={() => void find()}>
          Drop rows root to tip
        </button>
        <button
          className="mini"
          aria-pressed={strand.clicking}
          title="Click points on the mesh from root to tip"
          onClick={() =>
            put({ clicking: !strand.clicking, rows: strand.clicking ? strand.rows : [...strand.rows, []] })
          }
        >
          {strand.clicking ? 'Row is done' : 'Click a row'}
        </button>
        {strand.rows.length > 0 && (
          <button className="mini" onClick={() => put({ rows: withoutLast(strand.rows) })}>
            Take back
          </button>
        )}
      </div>
      <p className="muted small" role="status">
        {strand.clicking
          ? `Click points along the strand, root first: ${strand.rows.at(-1)?.length ?? 0} so far.`
          : usable > 0
            ? `${usable} ${usable === 1 ? 'row' : 'rows'}, ${usable * strand.joints} joints.`
            : 'Drop rows along the mesh, or click points along a strand.'}
      </p>
      <Row label="Name">
        <input
          aria-label="Name of the joints"
          placeholder={title}
          value={name}
          maxLength={100}
          onChange={(e) => setName(e.target.value)}
          onKeyDown={(e) => e.stopPropagation()}
        />
      </Row>
      <Row label="Smoothing, rounds">
        <NumberBox
          label="Smoothing"
          whole
          value={smoothing}
          onSet={(n) => setSmoothing(Math.min(50, Math.max(0, n)))}
        />
      </Row>
      <Row
        label="Reach, m"
        says="Vertices farther from every row stay as they are. Empty moves the whole mesh."
      >
        <NumberBox
          label="Reach"
          unit="m"
          value={reach}
          placeholder="whole mesh"
          onSet={(v) => setReach(v > 0 ? v : null)}
        />
      </Row>
      <CheckRow label="Make chains of them" value={chains} onSet={setChains} />
      <div className="presses">
        <button className="press" disabled={busy || usable === 0} onClick={() => void make()}>
          {busy ? 'Working…' : 'Add the joints'}
        </button>
        <button className="plain muted" onClick={() => dispatch(strandSet(null))}>
          Never mind
        </button>
      </div>
      <p className="muted small">
        The result is a copy of the character; the file you opened stays as it is.
      </p>
      {trouble && (
        <p className="trouble" role="alert">
          {trouble}
        </p>
      )}
    </>
  );
}

/** One point less, or the last row less. */
function withoutLast(rows: readonly StrandPath[]): StrandPath[] {
  const last = rows.at(-1)!;
  return last.length > 1 ? [...rows.slice(0, -1), last.slice(0, -1)] : rows.slice(0, -1);
}

/** The shot goes on with the copy; `paths` are the rows to make chains of. One edit. */
function takeCopy(
  title: string,
  character: Pick<Shot['character'], 'fileName'> & { hash: string },
  rows: readonly JointRef[][],
  paths: readonly StrandPath[] | null,
): Thunk {
  return change(`Add joints: ${title}`, (d) => {
    Object.assign(d.character, character);
    if (!paths) return;
    const usable = paths.filter((p) => p.length > 1);
    rows.forEach((joints, i) => {
      const id = PartId.parse(`p${crypto.randomUUID().slice(0, 8)}`);
      const places = alongPath(usable[i]!, joints.length);
      const length = places
        .slice(1)
        .reduce((n, p, k) => n + Math.hypot(...p.map((x, a) => x - places[k]![a]!)), 0);
      d.parts[id] = makeChainPart({
        id,
        name: (rows.length > 1 ? `${title} ${i + 1}` : title).slice(0, 200),
        order: lastOrder(d.parts as Shot['parts']),
        joints,
        settings: chainSettingsFor(length),
      });
    });
  });
}
