import { Force, ForceId, inOrder } from '@oscillum/core/model';
import type { Shot } from '@oscillum/core/shot';
import { change, preview, type Recipe } from '../../../state/edits';
import { selectShot, useAppDispatch, useAppSelector, type Thunk } from '../../../state/store';
import { viewSlice } from '../../../state/view';
import { intoView } from '../../kit/intoView';
import { freshId, lastOrder } from '../../../state/fresh';
import { GustStrip } from './GustStrip';
import { KeysCurve } from '../../kit/KeysCurve';
import { CheckRow, NumberRow, VectorRow } from '../../kit/Rows';

/** Wind, bursts and attractors, and which parts they act on. */
export function Forces({ run }: { run: (t: Thunk) => void }) {
  const shot = useAppSelector(selectShot)!;
  const dispatch = useAppDispatch();
  const open = useAppSelector((s) => (s.view.thing?.kind === 'force' ? s.view.thing.id : ''));
  const setOpen = (id: string) => dispatch(viewSlice.actions.thingChosen(id ? { kind: 'force', id } : null));
  const edit: Edit = (name, id, recipe, final = true) => {
    const on: Recipe = (d) => void (d.forces[id] && recipe(d.forces[id] as Shot['forces'][string]));
    run(final ? change(name, on) : preview(on));
  };
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
        <details key={f.id} ref={open === f.id ? intoView : null} open={open === f.id} className="thing">
          <summary
            onClick={(e) => {
              e.preventDefault();
              setOpen(open === f.id ? '' : f.id);
            }}
          >
            <b>{f.name}</b>{' '}
            <span className="muted">{f.parts === 'all' ? 'on all parts' : `on ${f.parts.length} parts`}</span>
          </summary>
          <ForceRows force={f} edit={edit} />
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

/** A change of one force; not final while a hand is still on it. */
type Edit = (name: string, id: string, recipe: (f: Shot['forces'][string]) => void, final?: boolean) => void;

/** A row for a number of a force. */
function Amount({
  force,
  name,
  label,
  unit = '',
  whole = false,
  edit,
}: {
  force: Force;
  name: string;
  label: string;
  unit?: string;
  whole?: boolean;
  edit: Edit;
}) {
  return (
    <NumberRow
      label={label}
      unit={unit}
      whole={whole}
      value={(force as unknown as Record<string, number>)[name]!}
      onSet={(v) =>
        edit(`Set ${label.toLowerCase()}`, force.id, (x) => {
          (x as unknown as Record<string, number>)[name] = v;
        })
      }
    />
  );
}

/** What a force is, where, and on what it acts. */
function ForceRows({ force: f, edit }: { force: Force; edit: Edit }) {
  return (
    <>
      <CheckRow
        label="Muted"
        value={f.muted}
        onSet={(muted) => edit('Mute force', f.id, (x) => void (x.muted = muted))}
      />
      {f.kind === 'wind' && <WindRows wind={f} edit={edit} />}
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
          <Amount force={f} name="frame" label="At frame" whole edit={edit} />
          <Amount force={f} name="frames" label="Lasts" unit="frames" edit={edit} />
          <Amount force={f} name="speed" label="Speed" unit="m/s" edit={edit} />
          <Amount force={f} name="radius" label="Reach" unit="m" edit={edit} />
        </>
      )}
      {f.kind === 'attractor' && (
        <>
          <Amount force={f} name="strength" label="Strength" unit="m/s²" edit={edit} />
          <Amount force={f} name="radius" label="Reach" unit="m" edit={edit} />
          <KeysCurve
            label="Strength over time"
            unit="m/s²"
            keys={f.strengthKeys}
            still={f.strength}
            limits={[-1000, 1000]}
            onSet={(keys, final) =>
              edit(
                'Key the attractor',
                f.id,
                (x) => void (x.kind === 'attractor' && (x.strengthKeys = keys)),
                final,
              )
            }
          />
        </>
      )}
      <ActsOn force={f} edit={edit} />
    </>
  );
}

function WindRows({ wind: f, edit }: { wind: Extract<Force, { kind: 'wind' }>; edit: Edit }) {
  return (
    <>
      <VectorRow
        label="Direction"
        unit=""
        value={f.direction}
        onSet={(v) => edit('Turn the wind', f.id, (x) => void (x.kind === 'wind' && (x.direction = v)))}
      />
      <Amount force={f} name="speed" label="Speed" unit="m/s" edit={edit} />
      <GustStrip wind={f} />
      <Amount force={f} name="gust" label="Gusts" unit="× speed" edit={edit} />
      <Amount force={f} name="gustFrequency" label="Gusts a second" unit="Hz" edit={edit} />
      <Amount force={f} name="turbulence" label="Turbulence" unit="× speed" edit={edit} />
      <Amount force={f} name="swirl" label="Swirl size" unit="m" edit={edit} />
      <Amount force={f} name="seed" label="Seed" whole edit={edit} />
      <KeysCurve
        label="Speed over time"
        unit="m/s"
        keys={f.speedKeys}
        still={f.speed}
        limits={[0, 200]}
        onSet={(keys, final) =>
          edit('Key the wind', f.id, (x) => void (x.kind === 'wind' && (x.speedKeys = keys)), final)
        }
      />
    </>
  );
}

/** The parts a force acts on. */
function ActsOn({ force: f, edit }: { force: Force; edit: Edit }) {
  const parts = useAppSelector((s) => selectShot(s)!.parts);
  return (
    <div className="minds" role="group" aria-label={`Parts that ${f.name} acts on`}>
      {Object.values(parts).map((p) => (
        <CheckRow
          key={p.id}
          label={p.name}
          value={f.parts === 'all' || f.parts.includes(p.id)}
          onSet={(on) =>
            edit('Set what it acts on', f.id, (x) => {
              const ids = Object.values(parts).map((q) => q.id);
              const now = x.parts === 'all' ? ids : x.parts;
              const next = on ? [...now, p.id] : now.filter((id) => id !== p.id);
              x.parts = next.length === ids.length ? 'all' : next;
            })
          }
        />
      ))}
    </div>
  );
}
