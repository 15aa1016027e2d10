import type { Pose } from '../../character/index';
import type { Frames } from '../../frames/index';
import type { Env, MomentRow, PartRun, PartSource, RunNeeds } from '../kind';
import type { PendulumPart } from './document';
import type { PendulumDriver } from './drive';
import type { PendulumLayout } from './layout';

const nothing = (): undefined => undefined;

/** Columns that a pose is written to. */
type PoseRows = Pick<MomentRow, 'rotations' | 'translations' | 'scales' | 'weights'>;

/**
 * A pendulum among the things that step. It has no state: what it does is known for every moment, and is in the
 * source's pose already. So it only writes its columns.
 */
export function makePendulumRun(
  { part, index }: RunNeeds<PendulumPart, PendulumLayout, PartSource>,
  env: Env,
): PartRun {
  const { track } = env;
  const driver = track.drivers.get(part.id) as PendulumDriver;

  /** Copies what the pose has into row `row` of some columns. */
  function copy(pose: Pose, frames: Frames, rows: PoseRows, row: number): void {
    const { joints, scaled, morphs } = frames.parts[index]!;
    for (let k = joints.from; k < joints.from + joints.length; k++) {
      const node = frames.joints[k]!;
      const at = row * frames.joints.length + k;
      for (let a = 0; a < 4; a++) rows.rotations[4 * at + a] = pose.r[4 * node + a]!;
      for (let a = 0; a < 3; a++) rows.translations[3 * at + a] = pose.t[3 * node + a]!;
    }
    for (let k = scaled.from; k < scaled.from + scaled.length; k++)
      for (let a = 0; a < 3; a++)
        rows.scales[3 * (row * frames.scaled.length + k) + a] = pose.s[3 * frames.scaled[k]! + a]!;
    for (let k = morphs.from; k < morphs.from + morphs.length; k++) {
      const { node, target } = frames.morphs[k]!;
      rows.weights[row * frames.morphs.length + k] = pose.morphs.get(node)![target]!;
    }
  }

  /** Input, both places and every output at a frame, and how far the first place is from the input. */
  function read(frames: Frames, f: number): void {
    const frame = track.first + f;
    const { from } = frames.parts[index]!.readouts;
    const { answer } = driver;
    const values = [answer.felt(frame), answer.at(1, frame), answer.at(2, frame)];
    values.push(...part.outputs.map((o) => driver.valueOf(o, frame)));
    values.forEach((v, k) => (frames.readouts[f * frames.readoutNames.length + from + k] = v));
    const cell = f * frames.parts.length + index;
    const span = spanOf(answer.felt, track.first, track.frames);
    frames.offSource[cell] = span > 0 ? (100 * Math.abs(values[1]! - values[0]!)) / span : 0;
    const first = frames.joints[frames.parts[index]!.joints.from];
    const { world } = track.poseAt(f);
    if (first !== undefined)
      for (let a = 0; a < 3; a++) frames.tips[3 * cell + a] = world[16 * first + 12 + a]!;
  }

  return {
    index,
    begin: nothing,
    advance: nothing,
    gather: nothing,
    moving: [],
    asides: () => [],
    slips: [],
    loaded: nothing,
    recalled: nothing,
    still: () => true,
    speed: () => 0,
    travel: nothing,
    calm: nothing,
    points: null,
    anchorAt: () => null,
    bodies: [],
    note: nothing,
    write: (frames, f) => {
      copy(track.poseAt(f).pose, frames, frames, f);
      read(frames, f);
    },
    writeAt: (row, frames, _, { pose }) => copy(pose, frames, row, 0),
  };
}

const known = new WeakMap<(frame: number) => number, number>();

/** Largest less smallest value of a signal over the frames of a range; found once for each signal. */
export function spanOf(signal: (frame: number) => number, first: number, frames: number): number {
  const before = known.get(signal);
  if (before !== undefined) return before;
  let [low, high] = [Infinity, -Infinity];
  for (let f = 0; f < frames; f++) {
    const v = signal(first + f);
    low = Math.min(low, v);
    high = Math.max(high, v);
  }
  known.set(signal, high - low);
  return high - low;
}
