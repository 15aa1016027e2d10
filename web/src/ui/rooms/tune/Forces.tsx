import { Force, ForceId, inOrder } from '@oscillum/core/model';
import type { Shot } from '@oscillum/core/shot';
import { change } from '../../../state/edits';
import { selectShot, useAppDispatch, useAppSelector, type Thunk } from '../../../state/store';
import { viewSlice } from '../../../state/view';
import { intoView } from '../../kit/intoView';
import { freshId, lastOrder } from '../../kit/fresh';
import { GustStrip } from './GustStrip';
import { KeysText } from '../../kit/ListText';
import { CheckRow, NumberRow, VectorRow } from '../../kit/Rows';

/** Wind, bursts and attractors, and which parts they act on. */
export function Forces({ run }: { run: (t: Thunk) => void }) {
  const shot = useAppSelector(selectShot)!;
  const dispatch = useAppDispatch();
  const open = useAppSelector((s) => (s.view.thing?.kind === 'force' ? s.view.thing.id : ''));
  const setOpen = (id: string) => dispatch(viewSlice.actions.thingChosen(id ? { kind: 'force', id } : null));
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
              <GustStrip wind={f} />
              {row(f, 'gust', 'Gusts', '× speed')}
              {row(f, 'gustFrequency', 'Gusts a second', 'Hz')}
              {row(f, 'turbulence', 'Turbulence', '× speed')}
              {row(f, 'swirl', 'Swirl size', 'm')}
              {row(f, 'seed', 'Seed', '', true)}
              <KeysText
                label="Keys of speed, m/s"
                keys={f.speedKeys}
                onSet={(keys) =>
                  edit('Key the wind', f.id, (x) => void (x.kind === 'wind' && (x.speedKeys = keys)))
                }
              />
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
              <KeysText
                label="Keys of strength, m/s²"
                keys={f.strengthKeys}
                onSet={(keys) =>
                  edit(
                    'Key the attractor',
                    f.id,
                    (x) => void (x.kind === 'attractor' && (x.strengthKeys = keys)),
                  )
                }
              />
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
