import { useMemo, useState } from 'react';
import type { Shot } from '@oscillum/core/shot';
import { loopTrouble } from '@oscillum/core/simulate';
import { clipIn, curesFor, cycleOf, PLAIN_CYCLE, withCycle } from '../../state/cycle';
import { change, preview } from '../../state/edits';
import { shotSlice } from '../../state/shot';
import { selectShot, useAppDispatch, useAppSelector, type Thunk } from '../../state/store';
import { useDesk, usePicture } from '../kit/desk';
import { NumberRow } from '../kit/Rows';

/** What a cure does, in a few words. */
const CURES = {
  missingFrame: 'adds the missing frame',
  blend: 'leads its end into its first pose',
  frames: 'fits its length to whole frames',
} as const;

type Cures = NonNullable<ReturnType<typeof curesFor>>;

/** What was found, and what cures it, shown on the stage before it is taken. */
function ShownCures({
  shown,
  cycle,
  onApply,
  onCancel,
}: {
  shown: Cures;
  cycle: Shot['cycle'];
  onApply: () => void;
  onCancel: () => void;
}) {
  return (
    <>
      <p className="notice">
        {shown.found.join(' ')} Shown now: this{' '}
        {(Object.keys(CURES) as (keyof typeof CURES)[])
          .filter((k) => shown.cycle[k] !== cycle[k])
          .map((k) => (k === 'blend' ? `${CURES[k]} over ${shown.cycle.blend} frames` : CURES[k]))
          .join(', then ')}
        , and loops it.
      </p>
      <div className="presses">
        <button className="press" onClick={onApply}>
          Apply
        </button>
        <button className="soft" onClick={onCancel}>
          Cancel
        </button>
      </div>
    </>
  );
}

/** How the clip closes, what cures it, and how many times it is played. */
export function CycleRows({ run }: { run: (t: Thunk) => void }) {
  const { character } = useDesk();
  const dispatch = useAppDispatch();
  const shot = useAppSelector((s) => s.shot.shot)!;
  const [shown, setShown] = useState<Cures | null>(null);
  const { cycle, loop } = shot;
  const finding = useFinding(shot);
  if (!finding) return null;
  const set = (name: string, next: Shot['cycle'], loops = loop) =>
    run(change(name, withCycle(character, shot, next, loops)));
  const show = () => {
    const cures = curesFor(character, shot);
    setShown(cures);
    if (cures) run(preview(withCycle(character, shot, cures.cycle, true)));
  };
  const plain = Object.entries(PLAIN_CYCLE).every(([k, v]) => k === 'repeats' || cycle[k as 'blend'] === v);
  return (
    <div role="group" aria-label="Cycle">
      <h3>Cycle</h3>
      {shown ? (
        <ShownCures
          shown={shown}
          cycle={cycle}
          onApply={() => {
            set('Close the cycle', shown.cycle, true);
            setShown(null);
          }}
          onCancel={() => {
            setShown(null);
            dispatch(shotSlice.actions.previewed(null));
          }}
        />
      ) : (
        <>
          <p className="muted small">{finding.sentence}</p>
          <div className="presses">
            {finding.cure && (
              <button className="press" onClick={show}>
                Close the cycle
              </button>
            )}
            {finding.kind === 'closes' && !loop && (
              <button
                className="press"
                title="Finds the motion that repeats exactly"
                onClick={() => set('Loop the clip', cycle, true)}
              >
                Loop it
              </button>
            )}
            {!plain && (
              <button
                className="mini"
                onClick={() =>
                  set('Play the clip as in its file', { ...PLAIN_CYCLE, repeats: cycle.repeats })
                }
              >
                as in its file
              </button>
            )}
          </div>
        </>
      )}
      <NumberRow
        label="Repeat, times"
        whole
        value={cycle.repeats}
        says="Plays the clip so many times on end, its travel carried on. The range becomes all of them."
        onSet={(n) => set('Repeat the clip', { ...cycle, repeats: Math.min(1000, Math.max(1, n)) })}
      />
    </div>
  );
}

/** How a shot's clip closes. Of its parts the clip depends on what plays baked keys. */
function useFinding(shot: Shot) {
  const { character } = useDesk();
  const { clip, cycle, fps, parts } = shot;
  return useMemo(
    () => cycleOf(character, shot),
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [character, clip, cycle, fps, clip?.baked && parts],
  );
}

/** What became of a loop that was asked for. */
export function LoopWords() {
  const { character } = useDesk();
  const start = usePicture((p) => p.frames?.start);
  const shot = useAppSelector(selectShot)!;
  if (!shot.loop || !start?.loop) return null;
  return (
    <p className={start.loop.found ? 'muted small' : 'notice small'} role="status">
      {loopTrouble(character, clipIn(character, shot), shot, start) ??
        (start.loop.blended > 0
          ? `The loop closes. Folds never come to repeat, so its last ${start.loop.blended} frames go over into its first.`
          : `The loop closes: found after ${start.loop.laps} laps.`)}
    </p>
  );
}

/** A clip that could loop and does not, with one press for it; what else keeps the loop open. */
export function LoopHint({ run }: { run: (t: Thunk) => void }) {
  const { character } = useDesk();
  const shot = useAppSelector((s) => s.shot.shot)!;
  const { cycle, loop } = shot;
  const closes = useFinding(shot)?.kind === 'closes';
  const found = usePicture((p) => p.frames?.start.loop?.found ?? true);
  if (loop) return found ? null : <LoopWords />;
  if (!closes) return null;
  return (
    <p className="muted small">
      This clip closes, but Loop is off.{' '}
      <button
        className="mini"
        onClick={() => run(change('Loop the clip', withCycle(character, shot, cycle, true)))}
      >
        Loop it
      </button>
    </p>
  );
}
