import { useState } from 'react';
import {
  Collider,
  ColliderId,
  Force,
  ForceId,
  inOrder,
  type ColliderShape,
  type Shot,
} from '@oscillum/core/model';
import { change, setShot } from '../../state/edits';
import { selectShot, useAppDispatch, useAppSelector, type Thunk } from '../../state/store';
import { useDesk, usePicture } from '../common/desk';
import { sayTrouble } from '../common/say';
import { CheckRow, ChoiceRow, jointChoices, NumberRow, VectorRow } from './Rows';

/** What belongs to the shot and not to one chain: time, gravity and air, colliders, forces. */
export function World({ run }: { run: (t: Thunk) => void }) {
  const shot = useAppSelector(selectShot)!;
  const { frames } = usePicture();
  const start = frames?.start;
  return (
    <>
      <h3>Time of the shot</h3>
      <ChoiceRow
        label="Begins"
        value={shot.start}
        choices={[
          ['wait', 'after waiting on the first pose'],
          ['run up', 'after running up to it'],
          ['settled', 'settled in the first pose'],
        ]}
        onSet={(v) => run(setShot('Set how it begins', { start: v }))}
      />
      <NumberRow
        label="Pre-roll frames"
        whole
        value={shot.preRoll}
        says="Frames simulated before the range begins."
        onSet={(preRoll) => run(setShot('Set pre-roll', { preRoll }))}
      />
      <NumberRow
        label="Substeps"
        whole
        value={shot.substeps}
        says="Steps a frame is cut into. More is finer and slower."
        onSet={(substeps) => run(setShot('Set substeps', { substeps }))}
      />
      <CheckRow
        label="Loops"
        value={shot.loop}
        says="Finds the motion that repeats exactly over the range."
        onSet={(loop) => run(setShot(loop ? 'Close the loop' : 'Open the loop', { loop }))}
      />
      {shot.loop && start?.loop && (
        <p className="muted small" role="status">
          {start.loop.found
            ? `The loop closes: found after ${start.loop.laps} laps.`
            : start.loop.why === 'clip'
              ? 'The clip does not end as it begins over this range, so there is no loop to close.'
              : `The motion does not come to repeat: it still differs by ${start.loop.gap.toPrecision(2)} after ${start.loop.laps} laps.`}
        </p>
      )}
      {start?.settled && (
        <p className="muted small" role="status">
          {start.settled.still
            ? `At rest after ${start.settled.seconds.toFixed(1)} s.`
            : 'It did not come to rest in 30 s; it begins as it was then.'}
        </p>
      )}
      <h3>Gravity and air</h3>
      <VectorRow
        label="Gravity"
        unit="m/s²"
        value={shot.gravity}
        onSet={(gravity) => run(setShot('Set gravity', { gravity }))}
      />
      <NumberRow
        label="Air density"
        unit="kg/m³"
        value={shot.airDensity}
        onSet={(airDensity) => run(setShot('Set air density', { airDensity }))}
      />
      <Colliders run={run} />
      <Forces run={run} />
    </>
  );
}

const freshId = (letter: string) => `${letter}${crypto.randomUUID().slice(0, 8)}`;
const lastOrder = (things: Record<string, { order: number }>) =>
  Object.values(things).reduce((n, t) => Math.max(n, t.order), -1) + 1;

const SHAPES: Record<Exclude<ColliderShape['kind'], 'mesh'>, ColliderShape> = {
  sphere: { kind: 'sphere', radius: 0.1 },
  capsule: { kind: 'capsule', radius: 0.1, length: 0.3 },
  box: { kind: 'box', size: [0.3, 0.3, 0.3] },
  ground: { kind: 'ground' },
};

function Colliders({ run }: { run: (t: Thunk) => void }) {
  const shot = useAppSelector(selectShot)!;
  const { simulation, character } = useDesk();
  const dispatch = useAppDispatch();
  const [open, setOpen] = useState('');
  const edit = (name: string, id: string, recipe: (c: Shot['colliders'][string]) => void) =>
    run(change(name, (d) => void (d.colliders[id] && recipe(d.colliders[id] as Shot['colliders'][string]))));
  const meshes = character.nodes.flatMap((n, node) => (n.mesh >= 0 ? [{ node, name: n.name }] : []));
  const add = (kind: ColliderShape['kind']) => {
    const id = freshId('c');
    const collider = Collider.parse({
      id: ColliderId.parse(id),
      name: kind[0]!.toUpperCase() + kind.slice(1),
      order: lastOrder(shot.colliders),
      shape: kind === 'mesh' ? { kind, ...meshes[0]! } : SHAPES[kind],
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
      {all.map((c) => (
        <details key={c.id} open={open === c.id} className="thing">
          <summary
            onClick={(e) => {
              e.preventDefault();
              setOpen(open === c.id ? '' : c.id);
            }}
          >
            <b>{c.name}</b>{' '}
            <span className="muted">{c.free ? 'free' : c.rides ? `on ${c.rides.name}` : 'still'}</span>
          </summary>
          <CheckRow
            label="Muted"
            value={c.muted}
            onSet={(muted) => edit('Mute collider', c.id, (x) => void (x.muted = muted))}
          />
          {c.shape.kind === 'mesh' && (
            <ChoiceRow
              label="Mesh"
              value={String(c.shape.node)}
              choices={meshes.map((m) => [String(m.node), m.name] as const)}
              onSet={(v) =>
                edit('Choose mesh', c.id, (x) => {
                  x.shape = { kind: 'mesh', ...meshes.find((m) => String(m.node) === v)! };
                })
              }
            />
          )}
          {c.shape.kind !== 'mesh' && (
            <ChoiceRow
              label="Rides"
              value={c.rides ? String(c.rides.node) : ''}
              choices={jointChoices(character, 'nothing: stands still')}
              onSet={(v) =>
                edit('Set what it rides', c.id, (x) => {
                  x.rides = v === '' ? null : { node: Number(v), name: character.nodes[Number(v)]!.name };
                })
              }
            />
          )}
          {'radius' in c.shape && (
            <NumberRow
              label="Radius"
              unit="m"
              value={c.shape.radius}
              onSet={(v) =>
                edit('Set radius', c.id, (x) => void ('radius' in x.shape && (x.shape.radius = v)))
              }
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
              onSet={(v) =>
                edit('Set size', c.id, (x) => void (x.shape.kind === 'box' && (x.shape.size = v)))
              }
            />
          )}
          <VectorRow
            label="Place"
            unit="m"
            value={c.t}
            onSet={(v) => edit('Move collider', c.id, (x) => void (x.t = v))}
          />
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
          {c.shape.kind !== 'mesh' && c.shape.kind !== 'ground' && (
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
          <button
            className="plain muted"
            onClick={() => run(change('Remove collider', (d) => void delete d.colliders[c.id]))}
          >
            Remove
          </button>
        </details>
      ))}
    </>
  );
}

function Forces({ run }: { run: (t: Thunk) => void }) {
  const shot = useAppSelector(selectShot)!;
  const [open, setOpen] = useState('');
  const edit = (name: string, id: string, recipe: (f: Shot['forces'][string]) => void) =>
    run(change(name, (d) => void (d.forces[id] && recipe(d.forces[id] as Shot['forces'][string]))));
  const add = (kind: Force['kind']) => {
    const id = freshId('f');
    const force = Force.parse({
      id: ForceId.parse(id),
      name: kind[0]!.toUpperCase() + kind.slice(1),
      order: lastOrder(shot.forces),
      kind,
      ...(kind === 'burst' && { frame: shot.range.first + 10 }),
    });
    run(change(`Add ${kind}`, (d) => void (d.forces[id] = force)));
    setOpen(id);
  };
  /** A row for a number of a force. */
  const row = (f: Force, key: string, label: string, unit = '', whole = false) => (
    <NumberRow
      key={key}
      label={label}
      unit={unit}
      whole={whole}
      value={(f as unknown as Record<string, number>)[key]!}
      onSet={(v) =>
        edit(`Set ${label.toLowerCase()}`, f.id, (x) => {
          (x as unknown as Record<string, number>)[key] = v;
        })
      }
    />
  );
  return (
    <>
      <h3>Forces</h3>
      <div className="presses">
        {(['wind', 'burst', 'attractor'] as const).map((kind) => (
          <button key={kind} className="mini" onClick={() => add(kind)}>
            + {kind}
          </button>
        ))}
      </div>
      {inOrder(shot.forces).map((f) => (
        <details key={f.id} open={open === f.id} className="thing">
          <summary
            onClick={(e) => {
              e.preventDefault();
              setOpen(open === f.id ? '' : f.id);
            }}
          >
            <b>{f.name}</b>{' '}
            <span className="muted">{f.parts === 'all' ? 'on all parts' : `on ${f.parts.length} parts`}</span>
          </summary>
          <CheckRow
            label="Muted"
            value={f.muted}
            onSet={(muted) => edit('Mute force', f.id, (x) => void (x.muted = muted))}
          />
          {f.kind === 'wind' && (
            <>
              <VectorRow
                label="Direction"
                unit=""
                value={f.direction}
                onSet={(v) =>
                  edit('Turn the wind', f.id, (x) => void (x.kind === 'wind' && (x.direction = v)))
                }
              />
              {row(f, 'speed', 'Speed', 'm/s')}
              {row(f, 'gust', 'Gusts', '× speed')}
              {row(f, 'gustFrequency', 'Gusts a second', 'Hz')}
              {row(f, 'turbulence', 'Turbulence', '× speed')}
              {row(f, 'swirl', 'Swirl size', 'm')}
              {row(f, 'seed', 'Seed', '', true)}
            </>
          )}
          {f.kind !== 'wind' && (
            <VectorRow
              label="Place"
              unit="m"
              value={f.t}
              onSet={(v) => edit('Move force', f.id, (x) => void (x.kind !== 'wind' && (x.t = v)))}
            />
          )}
          {f.kind === 'burst' && (
            <>
              {row(f, 'frame', 'At frame', '', true)}
              {row(f, 'frames', 'Lasts', 'frames')}
              {row(f, 'speed', 'Speed', 'm/s')}
              {row(f, 'radius', 'Reach', 'm')}
            </>
          )}
          {f.kind === 'attractor' && (
            <>
              {row(f, 'strength', 'Strength', 'm/s²')}
              {row(f, 'radius', 'Reach', 'm')}
            </>
          )}
          <div className="minds" role="group" aria-label={`Parts that ${f.name} acts on`}>
            {Object.values(shot.parts).map((p) => (
              <CheckRow
                key={p.id}
                label={p.name}
                value={f.parts === 'all' || f.parts.includes(p.id)}
                onSet={(on) =>
                  edit('Set what it acts on', f.id, (x) => {
                    const ids = Object.values(shot.parts).map((q) => q.id);
                    const now = x.parts === 'all' ? ids : x.parts;
                    const next = on ? [...now, p.id] : now.filter((id) => id !== p.id);
                    x.parts = next.length === ids.length ? 'all' : next;
                  })
                }
              />
            ))}
          </div>
          <button
            className="plain muted"
            onClick={() => run(change('Remove force', (d) => void delete d.forces[f.id]))}
          >
            Remove
          </button>
        </details>
      ))}
    </>
  );
}
