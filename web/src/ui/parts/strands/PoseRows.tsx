import { useState } from 'react';
import { fitPose, layOutStrands, type FittedPose } from '@oscillum/core/simulate';
import type { StrandPose, StrandsPart } from '@oscillum/core/strands';
import { comb, changeStrands } from '../../../state/parts/strands/edits';
import { selectShot, useAppSelector } from '../../../state/store';
import { viewSlice } from '../../../state/view';
import { useDesk } from '../../kit/desk';
import { NumberRow } from '../../kit/Rows';
import { say, sayTrouble } from '../../kit/say';
import type { PanelProps } from '../kind';

interface Props extends Pick<PanelProps<StrandsPart>, 'run'> {
  readonly part: StrandsPart;
}

const NUMBERS = [
  ['hold', 'Stays for', 'Frames for which it stays as it is combed'],
  ['easeIn', 'Comes in', 'Frames in which it comes to the pose'],
  ['easeOut', 'Goes in', 'Frames in which it goes from it'],
] as const;

const degrees = (x: number): string => `${x.toFixed(1)}°`;

/** Frames on which a hand has combed how it stands, and hold and bend that are fitted to one of them. */
export function PoseRows({ part, run }: Props) {
  const frame = useAppSelector((s) => Math.round(s.view.frame));
  const edit = (name: string, recipe: (p: StrandsPart) => void) =>
    run(changeStrands([part.id], name, recipe));
  return (
    <>
      <div className="presses">
        <button
          className="mini"
          title="Brush how it stands on this frame: it comes to that pose and goes from it again"
          onClick={() =>
            run((dispatch) => {
              dispatch(comb(part.id));
              dispatch(viewSlice.actions.combSet({ pose: true }));
            })
          }
        >
          comb a pose on frame {frame}
        </button>
      </div>
      {part.poses.map((pose, i) => (
        <div key={pose.frame} role="group" aria-label={`Pose on frame ${pose.frame}`}>
          <h4>Combed on frame {pose.frame}</h4>
          {pose.groom.points.join() !== part.groom.points.join() && (
            <p className="muted small">It was combed with other guides, and does nothing.</p>
          )}
          {NUMBERS.map(([key, label, says]) => (
            <NumberRow
              key={key}
              {...{ label, says, unit: 'frames' }}
              value={pose[key]}
              onSet={(v) =>
                edit('Set a pose', (p) => void (p.poses[i]![key] = Math.min(10_000, Math.max(0, v))))
              }
            />
          ))}
          <div className="presses">
            <Fit part={part} pose={pose} run={run} />
            <button
              className="mini"
              aria-label={`Remove the pose on frame ${pose.frame}`}
              onClick={() => edit('Remove a pose', (p) => void p.poses.splice(i, 1))}
            >
              remove it
            </button>
          </div>
        </div>
      ))}
    </>
  );
}

/** Finds a hold and a bend with which it hangs as it is combed on a frame. */
function Fit({ part, pose, run }: Props & { pose: StrandPose }) {
  const shot = useAppSelector(selectShot)!;
  const { character, stage } = useDesk();
  const frame = useAppSelector((s) => Math.round(s.view.frame));
  const [found, setFound] = useState<FittedPose | null>(null);
  const fit = () => {
    const posed = stage.current?.hair.standing(part.id)?.posed;
    if (!posed) return;
    const { metresPerUnit, upAxis } = shot.character;
    const needs = { posed, upAxis, gravity: shot.gravity, frame: pose.frame };
    const layout = layOutStrands(character, part, metresPerUnit);
    const fitted = fitPose(character, part, layout, needs, pose.groom);
    setFound(fitted);
    if (!fitted) return sayTrouble('That pose was combed with other guides.');
    if (fitted.after > fitted.before - 0.05)
      return sayTrouble(
        part.keepsGroom && fitted.before > 1
          ? `Nothing hangs nearer to it: ${degrees(fitted.before)} off. Raise Droop, or let it sag.`
          : `It hangs as near to it as it can: ${degrees(fitted.before)} off.`,
      );
    const { hold, bend, before, after } = fitted;
    run(
      changeStrands([part.id], 'Fit to a pose', (p) => {
        Object.assign(p.settings, { hold, bend });
        delete p.keys.hold;
        delete p.keys.bend;
      }),
    );
    say(`Hold ${hold} Hz and bend ${bend} Hz: it hangs ${degrees(after)} off, ${degrees(before)} before.`);
  };
  return (
    <>
      <button
        className="mini"
        disabled={frame !== pose.frame}
        title={
          frame === pose.frame
            ? 'Takes the pose as an example: finds the hold and the bend with which it hangs so'
            : `Go to frame ${pose.frame} for this`
        }
        onClick={fit}
      >
        fit hold and bend to it
      </button>
      {found && <span className="muted small">{degrees(found.after)} off on the mean</span>}
    </>
  );
}
