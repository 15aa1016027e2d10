import { acos } from '../math/index';
import type { Frames } from '../frames/index';

/** Largest difference between the last frame and the first of a loop, in any joint's rotation (radians). */
export function loopGap(frames: Frames): number {
  const width = 4 * frames.joints.length;
  const last = (frames.count - 1) * width;
  let most = 0;
  for (let q = 0; q < width; q += 4) {
    let dot = 0;
    for (let k = 0; k < 4; k++) dot += frames.rotations[q + k]! * frames.rotations[last + q + k]!;
    most = Math.max(most, 2 * acos(Math.min(1, Math.abs(dot))));
  }
  return most;
}
