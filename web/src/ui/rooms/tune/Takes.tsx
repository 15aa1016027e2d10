import { amountText } from '../../kit/amount';
import { partsInOrder, type Take, type TakeMeasure } from '@oscillum/core/shot';
import type { Picture } from '../../../sim/picture';
import { changeTake, keepTake, removeTake, returnToTake } from '../../../state/takes';
import { selectShot, useAppDispatch, useAppSelector, type Thunk } from '../../../state/store';
import { viewSlice } from '../../../state/view';
import { usePicture } from '../../kit/desk';
import { useTyping } from '../../kit/Fields';

/** What the picture says of each part, for the table and to keep with a take. */
function measuresOf({ frames, advice }: Picture): Record<string, TakeMeasure> {
  if (!frames) return {};
  const most = (list: Float32Array, chain: number) => {
    let x = 0;
    for (let f = 0; f < frames.done; f++) x = Math.max(x, list[f * frames.parts.length + chain]!);
    return x;
  };
  const number = (x: number | undefined) => (x !== undefined && Number.isFinite(x) ? x : null);
  return Object.fromEntries(
    frames.parts.map(({ partId }, chain) => {
      const feel = advice?.feels[partId];
      return [
        partId,
        {
          offSourceDegrees: most(frames.offSource, chain),
          tipMetres: most(frames.tipOffSource, chain),
          lag: number(feel?.lag),
          overshoot: number(feel?.overshoot),
          settle: number(feel?.settle),
        },
      ];
    }),
  );
}

const COLUMNS = [
  ['offSourceDegrees', 'off source', 'degrees', 'The most on the shot'],
  ['lag', 'lag', 'frames', 'After the standard quick turn'],
  ['overshoot', 'over', '%', 'After the standard quick turn'],
  ['settle', 'settle', 'frames', 'After the standard quick turn'],
] as const;

/** Takes: keep the present settings, look at others while it plays, come back to one. */
export function Takes({ run }: { run: (t: Thunk) => void }) {
  const shot = useAppSelector(selectShot)!;
  const dispatch = useAppDispatch();
  const looked = useAppSelector((s) => s.view.take);
  const chosen = useAppSelector((s) => s.view.parts);
  const picture = usePicture();
  const takes = Object.values(shot.takes).sort((a, b) => a.order - b.order);
  const whole = !picture.running && picture.advice !== null;
  const parts = partsInOrder(shot).filter((p) => chosen.length === 0 || chosen.includes(p.id));
  const look = (id: string | null) => dispatch(viewSlice.actions.takeShown(id));
  const now = looked === null ? measuresOf(picture) : null;
  return (
    <>
      <div className="presses" style={{ marginTop: 6 }}>
        <button
          className="press"
          disabled={!whole || looked !== null}
          title={whole ? 'Keeps these settings and what they measure' : 'Wait until the shot is simulated'}
          onClick={() => run(keepTake(measuresOf(picture)))}
        >
          Keep a take
        </button>
        {looked !== null && (
          <button className="mini" onClick={() => look(null)}>
            back to the present
          </button>
        )}
      </div>
      {takes.length === 0 ? (
        <p className="muted small">
          A take keeps the settings as they are now. Keep one, try another idea, then look from one to the
          other while it plays (X) and come back to the better.
        </p>
      ) : (
        takes.map((t) => <TakeRow key={t.id} take={t} looked={looked === t.id} look={look} run={run} />)
      )}
      {takes.length > 0 && parts.length > 0 && (
        <table className="measures" aria-label="Measures of the takes">
          <thead>
            <tr>
              <th scope="col">Take</th>
              {COLUMNS.map(([key, name, unit, says]) => (
                <th key={key} scope="col" title={says}>
                  {name}
                  <br />
                  {unit}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {parts.map((p) =>
              [...(now ? [{ id: '', name: 'now', measures: now }] : []), ...takes].map((t, i) => (
                <tr key={`${p.id} ${t.id}`} data-first={i === 0}>
                  <th scope="row">
                    {i === 0 && <b>{p.name}</b>}
                    <span className="muted">{t.name}</span>
                  </th>
                  {COLUMNS.map(([key]) => {
                    const v = t.measures[p.id]?.[key];
                    return <td key={key}>{v === null || v === undefined ? '–' : amountText(v, 1)}</td>;
                  })}
                </tr>
              )),
            )}
          </tbody>
        </table>
      )}
    </>
  );
}

function TakeRow({
  take,
  looked,
  look,
  run,
}: {
  take: Take;
  looked: boolean;
  look: (id: string | null) => void;
  run: (t: Thunk) => void;
}) {
  const dispatch = useAppDispatch();
  const ghosted = useAppSelector((s) => s.view.overlaidTake === take.id);
  const name = useTyping((text) => {
    if (text.trim() && text !== take.name)
      run(changeTake(take.id, 'Rename a take', (t) => void (t.name = text)));
    return true;
  });
  const note = useTyping((text) => {
    if (text !== take.note)
      run(changeTake(take.id, 'Note on a take', (t) => void (t.note = text.slice(0, 2000))));
    return true;
  });
  return (
    <div className="take" data-looked={looked}>
      <input aria-label="Name of the take" value={name.typed ?? take.name} {...name.box} />
      <button
        className="mini"
        aria-pressed={looked}
        title="Shows this take instead of the present settings"
        onClick={() => look(looked ? null : take.id)}
      >
        Show
      </button>
      <button
        className="mini"
        aria-pressed={ghosted}
        title="Draws its chains over what is shown, dashed"
        onClick={() => dispatch(viewSlice.actions.takeOverlaid(ghosted ? null : take.id))}
      >
        Overlay
      </button>
      <button
        className="mini"
        title="Makes it the present settings; undo takes that back"
        onClick={() => run(returnToTake(take.id))}
      >
        Restore
      </button>
      <button className="plain" aria-label={`Remove ${take.name}`} onClick={() => run(removeTake(take.id))}>
        ×
      </button>
      <input
        className="note"
        aria-label={`Note on ${take.name}`}
        placeholder="a note"
        value={note.typed ?? take.note}
        {...note.box}
      />
    </div>
  );
}
