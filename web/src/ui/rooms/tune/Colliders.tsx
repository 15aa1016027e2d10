import { useMemo } from 'react';
import { Euler, MathUtils, Quaternion } from 'three';
import { Collider, ColliderId, inOrder, type ColliderShape } from '@oscillum/core/model';
import { regionsOf } from '@oscillum/core/sheets';
import type { Shot } from '@oscillum/core/shot';
import { change } from '../../../state/edits';
import { selectShot, useAppDispatch, useAppSelector, type Thunk } from '../../../state/store';
import { groupName } from '../../../state/lanes';
import { mirrorCollider } from '../../../state/touch';
import { viewSlice } from '../../../state/view';
import { useDesk } from '../../kit/desk';
import { sayTrouble } from '../../kit/say';
import { intoView } from '../../kit/intoView';
import { freshId, lastOrder } from '../../../state/fresh';
import { JointRow } from '../../kit/JointRow';
import { CheckRow, ChoiceRow, NumberRow, VectorRow } from '../../kit/Rows';

const SHAPES: Record<Exclude<ColliderShape['kind'], 'mesh'>, ColliderShape> = {
  sphere: { kind: 'sphere', radius: 0.1 },
  capsule: { kind: 'capsule', radius: 0.1, length: 0.3 },
  box: { kind: 'box', size: [0.3, 0.3, 0.3] },
  ground: { kind: 'ground' },
};

/** Turns as people read them: degrees about x, y and z, one after the other. */
const toDegrees = (q: readonly number[]): [number, number, number] => {
  const e = new Euler().setFromQuaternion(new Quaternion(q[0], q[1], q[2], q[3]));
  return [e.x, e.y, e.z].map((a) => MathUtils.radToDeg(a)) as [number, number, number];
};
const fromDegrees = (v: readonly number[]): [number, number, number, number] => {
  const [x, y, z] = v.map((a) => MathUtils.degToRad(a)) as [number, number, number];
  return new Quaternion()
    .setFromEuler(new Euler(x, y, z))
    .normalize()
    .toArray() as [number, number, number, number];
};

/** What chains touch: shapes fitted to the body or added by hand, and what moves them. */
export function Colliders({ run }: { run: (t: Thunk) => void }) {
  const shot = useAppSelector(selectShot)!;
  const { simulation, character } = useDesk();
  const dispatch = useAppDispatch();
  const open = useAppSelector((s) => (s.view.thing?.kind === 'collider' ? s.view.thing.id : ''));
  const setOpen = (id: string) =>
    dispatch(viewSlice.actions.thingChosen(id ? { kind: 'collider', id } : null));
  const edit: Edit = (name, id, recipe) =>
    run(change(name, (d) => void (d.colliders[id] && recipe(d.colliders[id] as Shot['colliders'][string]))));
  const meshes = character.nodes.flatMap((n, node) => (n.mesh >= 0 ? [{ node, name: n.name }] : []));
  const add = (kind: ColliderShape['kind']) => {
    const id = freshId('c');
    const collider = Collider.parse({
      id: ColliderId.parse(id),
      name: kind[0]!.toUpperCase() + kind.slice(1),
      order: lastOrder(shot.colliders),
      shape: kind === 'mesh' ? { kind, ...meshes[0]!, part: null } : SHAPES[kind],
    });
    run(change(`Add a ${kind}`, (d) => void (d.colliders[id] = collider)));
    setOpen(id);
  };
  const fit = () =>
    void simulation
      .fitColliders(shot)
      .then((found) =>
        dispatch(
          change(`Fit ${found.length} colliders`, (d) => {
            for (const c of found) d.colliders[c.id] = c;
          }),
        ),
      )
      .catch((e: unknown) => sayTrouble(e instanceof Error ? e.message : String(e)));
  const all = inOrder(shot.colliders);
  return (
    <>
      <h3>Colliders</h3>
      {all.length === 0 && <p className="muted small">Nothing to touch yet. Fit the body, or add a shape.</p>}
      <div className="presses">
        <button className="press" onClick={fit}>
          Fit the body
        </button>
        {(['sphere', 'capsule', 'box', 'ground', ...(meshes.length ? (['mesh'] as const) : [])] as const).map(
          (kind) => (
            <button key={kind} className="mini" onClick={() => add(kind)}>
              + {kind}
            </button>
          ),
        )}
      </div>
      {groupsOf(all).map(([group, list]) => (
        <div key={group} role="group" aria-label={group}>
          {list.length > 1 && all.length > FEW && <p className="muted small group-name">{group}</p>}
          {list.map((c) => (
            <details key={c.id} ref={open === c.id ? intoView : null} open={open === c.id} className="thing">
              <summary
                onClick={(e) => {
                  e.preventDefault();
                  setOpen(open === c.id ? '' : c.id);
                }}
              >
                <b>{c.name}</b>{' '}
                <span className="muted">
                  {c.free ? 'free' : c.attachedTo ? `on ${c.attachedTo.name}` : 'still'}
                </span>
              </summary>
              <ColliderRows collider={c} meshes={meshes} edit={edit} run={run} />
            </details>
          ))}
        </div>
      ))}
    </>
  );
}

/** From this many colliders on those of like names stand under one heading. */
const FEW = 6;

/** Colliders of like names together, in the order of the first of each. */
function groupsOf(colliders: readonly Collider[]): [string, Collider[]][] {
  const out = new Map<string, Collider[]>();
  for (const c of colliders) out.set(groupName(c.name), [...(out.get(groupName(c.name)) ?? []), c]);
  return [...out];
}

type Edit = (name: string, id: string, recipe: (c: Shot['colliders'][string]) => void) => void;

interface RowsProps {
  collider: Collider;
  meshes: readonly { node: number; name: string }[];
  edit: Edit;
}

/** What a collider is and what it does to what touches it. */
function ColliderRows({ collider: c, meshes, edit, run }: RowsProps & { run: (t: Thunk) => void }) {
  const { character } = useDesk();
  /** Solids: what can move freely and stand on the other side too. */
  const solid = c.shape.kind !== 'mesh' && c.shape.kind !== 'ground';
  return (
    <>
      <CheckRow
        label="Muted"
        value={c.muted}
        onSet={(muted) => edit('Mute collider', c.id, (x) => void (x.muted = muted))}
      />
      <ShapeRows collider={c} meshes={meshes} edit={edit} />
      {c.shape.kind !== 'mesh' && <Placed collider={c} edit={edit} />}
      <NumberRow
        label="Friction"
        unit="μ"
        value={c.friction}
        onSet={(v) => edit('Set friction', c.id, (x) => void (x.friction = v))}
      />
      <NumberRow
        label="Bounce"
        value={c.bounce}
        onSet={(v) => edit('Set bounce', c.id, (x) => void (x.bounce = v))}
      />
      {solid && (
        <CheckRow
          label="Free: moves by simulation"
          value={c.free !== null}
          onSet={(v) =>
            edit('Set free', c.id, (x) => {
              x.free = v ? { mass: 0.1, velocity: [0, 0, 0], spin: [0, 0, 0] } : null;
            })
          }
        />
      )}
      {c.free && (
        <NumberRow
          label="Mass"
          unit="kg"
          value={c.free.mass}
          onSet={(v) => edit('Set mass', c.id, (x) => void (x.free && (x.free.mass = v)))}
        />
      )}
      {solid && (
        <button
          className="plain muted"
          title="The like of it on the other side of the body, on the joint of the other side's name"
          onClick={() => run(mirrorCollider(c.id, character))}
        >
          Mirror
        </button>
      )}
      <button
        className="plain muted"
        onClick={() => run(change('Remove collider', (d) => void delete d.colliders[c.id]))}
      >
        Remove
      </button>
    </>
  );
}

/** What of its mesh it takes: all, or only or all but a piece, a material, or what a joint weighs. */
function PartOfMesh({ collider: c, edit }: Omit<RowsProps, 'meshes'>) {
  const { character } = useDesk();
  const { node, part } = c.shape as Extract<ColliderShape, { kind: 'mesh' }>;
  const regions = useMemo(() => regionsOf(character, node), [character, node]);
  if (regions.length === 0) return null;
  type MeshPart = typeof part;
  const choices: { name: string; part: MeshPart }[] = [
    { name: 'all of it', part: null },
    ...[true, false].flatMap((only) =>
      regions.map((r) => ({
        name: `${only ? 'only' : 'all but'} ${r.name}`,
        part: { region: r.region, only },
      })),
    ),
  ];
  return (
    <ChoiceRow
      label="Part of it"
      value={JSON.stringify(part)}
      says="A piece, a material, or what a joint weighs by half or more"
      choices={choices.map((x) => [JSON.stringify(x.part), x.name] as const)}
      onSet={(v) =>
        edit('Choose the part of its mesh', c.id, (x) => {
          if (x.shape.kind === 'mesh') x.shape.part = JSON.parse(v) as MeshPart;
        })
      }
    />
  );
}

/** Its shape, and what it rides. */
function ShapeRows({ collider: c, meshes, edit }: RowsProps) {
  return (
    <>
      {c.shape.kind === 'mesh' && (
        <ChoiceRow
          label="Mesh"
          value={String(c.shape.node)}
          choices={meshes.map((m) => [String(m.node), m.name] as const)}
          onSet={(v) =>
            edit('Choose mesh', c.id, (x) => {
              if (x.shape.kind === 'mesh')
                Object.assign(
                  x.shape,
                  meshes.find((m) => String(m.node) === v)!,
                  { part: null },
                );
            })
          }
        />
      )}
      {c.shape.kind === 'mesh' && (
        <NumberRow
          label="Simplified to within"
          unit="m"
          value={c.shape.simplified}
          says="Fewer triangles that stay so near to the mesh as it is drawn. 0 takes it as it is."
          onSet={(v) =>
            edit('Simplify it', c.id, (x) => void (x.shape.kind === 'mesh' && (x.shape.simplified = v)))
          }
        />
      )}
      {c.shape.kind === 'mesh' && <PartOfMesh collider={c} edit={edit} />}
      {c.shape.kind !== 'mesh' && (
        <JointRow
          label="Attached to"
          value={c.attachedTo?.node ?? null}
          none="nothing: stands still"
          onSet={(joint) =>
            edit('Set what it is attached to', c.id, (x) => {
              x.attachedTo = joint;
            })
          }
        />
      )}
      {'radius' in c.shape && (
        <NumberRow
          label="Radius"
          unit="m"
          value={c.shape.radius}
          onSet={(v) => edit('Set radius', c.id, (x) => void ('radius' in x.shape && (x.shape.radius = v)))}
        />
      )}
      {c.shape.kind === 'capsule' && (
        <NumberRow
          label="Length"
          unit="m"
          value={c.shape.length}
          onSet={(v) =>
            edit('Set length', c.id, (x) => void (x.shape.kind === 'capsule' && (x.shape.length = v)))
          }
        />
      )}
      {c.shape.kind === 'box' && (
        <VectorRow
          label="Size"
          unit="m"
          value={c.shape.size}
          onSet={(v) => edit('Set size', c.id, (x) => void (x.shape.kind === 'box' && (x.shape.size = v)))}
        />
      )}
    </>
  );
}

/** Where a collider stands: for the whole shot, or by keys of its own. */
function Placed({ collider: c, edit }: { collider: Collider; edit: Edit }) {
  const frame = useAppSelector((s) => Math.round(s.view.frame));
  const dispatch = useAppDispatch();
  const keys = [...c.keys].sort((a, b) => a.frame - b.frame);
  // With keys the one at or before the frame is what is read and changed.
  const key = [...keys].reverse().find((k) => k.frame <= frame) ?? keys[0];
  const { t, r } = key ?? c;
  const set = (name: string, value: Partial<Pick<Collider, 't' | 'r'>>) =>
    edit(name, c.id, (x) => {
      const at = key && x.keys.find((k) => k.frame === key.frame);
      Object.assign(at ?? x, value);
    });
  return (
    <>
      <VectorRow label="Place" unit="m" value={t} onSet={(v) => set('Move collider', { t: v })} />
      <VectorRow
        label="Turn"
        unit="°"
        value={toDegrees(r)}
        onSet={(v) => set('Turn collider', { r: fromDegrees(v) })}
      />
      {!c.free && (
        <div className="presses" role="group" aria-label="Keys of its place">
          <button
            className="mini"
            title={`Sets a key with this place on frame ${frame}`}
            disabled={keys.some((k) => k.frame === frame)}
            onClick={() =>
              edit(`Key the collider on frame ${frame}`, c.id, (x) => {
                x.keys.push({ frame, t: [...t], r: [...r], kind: 'smooth' });
              })
            }
          >
            key frame {frame}
          </button>
          {keys.map((k) => (
            <span key={k.frame} className="chip">
              <button
                className="plain"
                aria-pressed={k === key}
                title="Go to this key"
                onClick={() => dispatch(viewSlice.actions.frameSet(k.frame))}
              >
                {k.frame}
              </button>
              <button
                className="plain"
                aria-label={`Remove the key on frame ${k.frame}`}
                onClick={() =>
                  edit(`Remove the key on frame ${k.frame}`, c.id, (x) => {
                    x.keys = x.keys.filter((y) => y.frame !== k.frame);
                  })
                }
              >
                ×
              </button>
            </span>
          ))}
        </div>
      )}
    </>
  );
}
