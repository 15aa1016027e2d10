import { useEffect } from 'react';
import { preview, setLoop, setSettleFrames, setShot } from '../../../state/edits';
import { selectShot, useAppDispatch, useAppSelector, type Thunk } from '../../../state/store';
import { viewSlice } from '../../../state/view';
import { usePicture } from '../../kit/desk';
import { lengthText } from '@oscillum/core/model';
import { preRollFrames } from '@oscillum/core/shot';
import { AddedMotionList } from '../../desk/AddedMotionList';
import { CycleRows, LoopWords } from '../../desk/CycleRows';
import { Colliders } from './Colliders';
import { Forces } from './Forces';
import { KeysCurve } from '../../kit/KeysCurve';
import { CheckRow, ChoiceRow, NumberRow, VectorRow } from '../../kit/Rows';
import { ALL_UI } from '../../parts';

/** m/s² */
const GRAVITIES = [
  ['Earth', 9.81],
  ['Moon', 1.62],
  ['none', 0],
] as const;

/** What belongs to the shot and not to one chain: time, gravity and air, colliders, forces. */
export function World({ run }: { run: (t: Thunk) => void }) {
  const dispatch = useAppDispatch();
  // Handles stay no longer than the panel that says what they are.
  useEffect(() => () => void dispatch(viewSlice.actions.thingChosen(null)), [dispatch]);
  return (
    <>
      <TimeRows run={run} />
      <CycleRows run={run} />
      <AirRows run={run} />
      <Colliders run={run} />
      {ALL_UI.map(({ World: Own }, i) => Own && <Own key={i} run={run} />)}
      <Forces run={run} />
      <AddedMotionList run={run} />
    </>
  );
}

/** How the shot begins, how finely it is cut, and whether it loops. */
function TimeRows({ run }: { run: (t: Thunk) => void }) {
  const shot = useAppSelector(selectShot)!;
  const start = usePicture((p) => p.frames?.start);
  return (
    <>
      <h3>Time of the shot</h3>
      <ChoiceRow
        label="Start"
        value={shot.start}
        says="What is simulated before the range begins."
        choices={[
          ['wait', 'hold the first pose'],
          ['run up', 'run up to it'],
          ['settled', 'settled in the first pose'],
        ]}
        onSet={(v) => run(setShot('Set how it begins', { start: v }))}
      />
      <NumberRow
        label="Pre-roll"
        unit="s"
        value={shot.preRollSeconds}
        says={`Simulated before the range begins: ${preRollFrames(shot)} frames at ${shot.fps} fps.`}
        onSet={(preRollSeconds) => run(setShot('Set pre-roll', { preRollSeconds }))}
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
        onSet={(loop) => run(setLoop(shot, loop))}
      />
      {!shot.loop && (
        <NumberRow
          label="Frames to settle"
          whole
          value={shot.settleFrames}
          says="Added after the clip, which holds its last pose in them. They are not baked unless asked."
          onSet={(frames) => run(setSettleFrames(shot, frames))}
        />
      )}
      <LoopWords />
      {start?.settled && (
        <p className="muted small" role="status">
          {start.settled.still
            ? `At rest after ${start.settled.seconds.toFixed(1)} s`
            : `Not at rest after ${start.settled.seconds.toFixed(1)} s; it begins as it was then`}
          : it moves by {lengthText(start.settled.speed)} a second.
        </p>
      )}
    </>
  );
}

function AirRows({ run }: { run: (t: Thunk) => void }) {
  const shot = useAppSelector(selectShot)!;
  const strength = Math.hypot(...shot.gravity);
  return (
    <>
      <h3>Gravity and air</h3>
      <VectorRow
        label="Gravity"
        unit="m/s²"
        value={shot.gravity}
        onSet={(gravity) => run(setShot('Set gravity', { gravity }))}
      />
      <div className="presses" role="group" aria-label="Kinds of gravity">
        {GRAVITIES.map(([name, size]) => (
          <button
            key={name}
            className="mini"
            aria-pressed={Math.abs(strength - size) < 1e-6}
            title={`${size} m/s² straight down`}
            onClick={() => run(setShot(`Gravity: ${name}`, { gravity: [0, -size, 0] }))}
          >
            {name}
          </button>
        ))}
      </div>
      <KeysCurve
        label="Gravity over time"
        unit="×"
        keys={shot.gravityKeys}
        still={1}
        limits={[-100, 100]}
        onSet={(gravityKeys, final) =>
          run(
            final
              ? setShot('Key gravity', { gravityKeys })
              : preview((d) => void (d.gravityKeys = gravityKeys)),
          )
        }
      />
      <NumberRow
        label="Air density"
        unit="kg/m³"
        value={shot.airDensity}
        onSet={(airDensity) => run(setShot('Set air density', { airDensity }))}
      />
    </>
  );
}
