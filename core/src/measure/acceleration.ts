import type { Frames } from '../frames/index';

/** Peak acceleration of a chain's tip over the range, m/s². Needs three frames. */
export function peakAcceleration(frames: Frames, chain: number, fps: number): number {
  let most = 0;
  for (let f = 1; f + 1 < frames.count; f++)
    most = Math.max(most, accelerationAt(frames, chain, f) * fps * fps);
  return most;
}

/** Size of the second difference of the tip's place at a frame, m. */
function accelerationAt(frames: Frames, chain: number, f: number): number {
  const c = frames.parts.length;
  let sum = 0;
  for (let a = 0; a < 3; a++) {
    const at = (g: number) => frames.tips[3 * (g * c + chain) + a]!;
    sum += (at(f - 1) - 2 * at(f) + at(f + 1)) ** 2;
  }
  return Math.sqrt(sum);
}
