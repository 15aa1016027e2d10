import { randomId } from '../../../api/ids';
import { useState } from 'react';
import { alongPath, type StrandPath } from '@oscillum/core/character';
import { PartId, type JointRef } from '@oscillum/core/model';
import { chainSettingsFor, makeChainPart } from '@oscillum/core/chain';
import type { Shot } from '@oscillum/core/shot';
import { libraryApi } from '../../../api/library';
import { change } from '../../../state/edits';
import { selectShot, useAppDispatch, useAppSelector, type State, type Thunk } from '../../../state/store';
import { viewSlice } from '../../../state/view';
import { useDesk } from '../../kit/desk';
import { NumberBox } from '../../kit/Fields';
import { sentenceOfAny } from '../../kit/say';
import { JointRow } from '../../kit/JointRow';
import { CheckRow, ChoiceRow, Row } from '../../kit/Rows';
import { lastOrder } from '../../../state/fresh';

const { strandSet } = viewSlice.actions;

type Strand = NonNullable<State['view']['strand']>;
type Put = (part: Partial<Strand>) => void;

/** What is asked of new joints beside their rows. */
interface Wishes {
  /** Rows to find on each piece of the mesh. */
  readonly rows: number;
  /** Rounds of averaging the weights. */
  readonly smoothing: number;
  /** m; null is the whole mesh. */
  readonly reach: number | null;
  readonly name: string;
  readonly chains: boolean;
}

/**
 * Joints for a mesh that has none where it should move: rows found or clicked, then a copy of the character with them.
 */
export function AddJoints() {
  const { character } = useDesk();
  const dispatch = useAppDispatch();
  const strand = useAppSelector((s) => s.view.strand);
  const selected = useAppSelector((s) => s.view.joints.at(-1));
  const meshes = character.nodes.flatMap((n, node) =>
    n.mesh >= 0 ? [{ node, name: character.meshes[n.mesh]!.name || n.name }] : [],
  );
  if (meshes.length === 0) return null;
  const begin = () => {
    const parent = selected ?? character.joints[0] ?? -1;
    dispatch(strandSet({ mesh: meshes[0]!.node, parent, joints: 4, rows: [], clicking: false }));
  };
  return (
    <>
      <h3>A mesh without joints</h3>
      {strand ? (
        <Plan strand={strand} meshes={meshes} />
      ) : (
        <button className="soft" onClick={begin}>
          Add joints to a mesh
        </button>
      )}
    </>
  );
}

/** Finds rows and makes the copy, one after the other, with what went wrong. */
function useWork(strand: Strand, title: string, wishes: Wishes, put: Put) {
  const { simulation } = useDesk();
  const dispatch = useAppDispatch();
  const { metresPerUnit, upAxis, fileName: original } = useAppSelector(selectShot)!.character;
  const [busy, setBusy] = useState(false);
  const [trouble, setTrouble] = useState('');
  const [upload] = libraryApi.useUploadMutation();
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
      const { mesh, parent } = strand;
      const rows = await simulation.findStrands(mesh, parent, wishes.rows, metresPerUnit, upAxis);
      put({ rows, clicking: false });
      if (rows.length === 0) setTrouble('No row was found on this mesh. Click points along it instead.');
    });
  const make = () =>
    work(async () => {
      const { mesh, parent, joints, rows } = strand;
      const { smoothing, reach } = wishes;
      const plan = { mesh, parent, name: title, joints, rows, smoothing, reach };
      const made = await simulation.addJoints(plan, metresPerUnit, upAxis);
      const fileName = original.replace(/(\.[^.]*)?$/, `, ${title} jointed.glb`).slice(-300);
      const file = new File([made.bytes], fileName, { type: 'model/gltf-binary' });
      const { hash } = await upload(file).unwrap();
      dispatch(takeCopy(title, { hash, fileName }, made.rows, wishes.chains ? rows : null));
      dispatch(strandSet(null));
    });
  return { busy, trouble, find, make };
}

type Meshes = readonly { readonly node: number; readonly name: string }[];

/** A plan for new joints, and the press that makes them. */
function Plan({ strand, meshes }: { strand: Strand; meshes: Meshes }) {
  const dispatch = useAppDispatch();
  const [wishes, setWishes] = useState<Wishes>({
    rows: 1,
    smoothing: 2,
    reach: null,
    name: '',
    chains: true,
  });
  const wish = (part: Partial<Wishes>) => setWishes((w) => ({ ...w, ...part }));
  const put: Put = (part) => dispatch(strandSet({ ...strand, ...part }));
  const title = wishes.name.trim() || meshes.find((m) => m.node === strand.mesh)!.name;
  const { busy, trouble, find, make } = useWork(strand, title, wishes, put);
  const usable = strand.rows.filter((r) => r.length > 1).length;
  return (
    <>
      <MeshRows
        strand={strand}
        meshes={meshes}
        rows={wishes.rows}
        put={put}
        setRows={(rows) => wish({ rows })}
      />
      <RowPresses strand={strand} usable={usable} busy={busy} find={find} put={put} />
      <WeightRows title={title} wishes={wishes} wish={wish} />
      <CheckRow label="Make chains of them" value={wishes.chains} onSet={(chains) => wish({ chains })} />
      <div className="presses">
        <button className="press" disabled={busy || usable === 0} onClick={() => void make()}>
          {busy ? 'Working…' : 'Add the joints'}
        </button>
        <button className="plain muted" onClick={() => dispatch(strandSet(null))}>
          Cancel
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

/** The mesh, what its rows hang from, and how many joints they get. */
function MeshRows({
  strand,
  meshes,
  rows,
  put,
  setRows,
}: {
  strand: Strand;
  meshes: Meshes;
  rows: number;
  put: Put;
  setRows: (rows: number) => void;
}) {
  return (
    <>
      <ChoiceRow
        label="Mesh"
        value={String(strand.mesh)}
        choices={meshes.map((m) => [String(m.node), m.name] as const)}
        onSet={(v) => put({ mesh: Number(v), rows: [] })}
      />
      <JointRow
        label="Hangs from"
        value={strand.parent}
        onSet={(joint) => joint && put({ parent: joint.node })}
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
    </>
  );
}

/** Rows dropped along the mesh or clicked on it. */
function RowPresses({
  strand,
  usable,
  busy,
  find,
  put,
}: {
  strand: Strand;
  usable: number;
  busy: boolean;
  find: () => Promise<void>;
  put: Put;
}) {
  return (
    <>
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
    </>
  );
}

/** What the joints are called, and how far and how softly they hold the mesh. */
function WeightRows({
  title,
  wishes: { name, smoothing, reach },
  wish,
}: {
  title: string;
  wishes: Wishes;
  wish: (part: Partial<Wishes>) => void;
}) {
  return (
    <>
      <Row label="Name">
        <input
          aria-label="Name of the joints"
          placeholder={title}
          value={name}
          maxLength={100}
          onChange={(e) => wish({ name: e.target.value })}
          onKeyDown={(e) => e.stopPropagation()}
        />
      </Row>
      <Row label="Smoothing, rounds">
        <NumberBox
          label="Smoothing"
          whole
          value={smoothing}
          onSet={(n) => wish({ smoothing: Math.min(50, Math.max(0, n)) })}
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
          onSet={(v) => wish({ reach: v > 0 ? v : null })}
        />
      </Row>
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
      const id = PartId.parse(`p${randomId(8)}`);
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
