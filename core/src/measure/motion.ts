import { acos, cos, sin } from '../math/index';
import type { Frames } from '../simulate/index';

/** Peak acceleration of a chain's tip over the range, m/s². Needs three frames. */
export function peakAcceleration(frames: Frames, chain: number, fps: number): number {
  let most = 0;
  for (let f = 1; f + 1 < frames.count; f++)
    most = Math.max(most, accelerationAt(frames, chain, f) * fps * fps);
  return most;
}

/** Size of the second difference of the tip's place at a frame, m. */
function accelerationAt(frames: Frames, chain: number, f: number): number {
  const c = frames.chains.length;
  let sum = 0;
  for (let a = 0; a < 3; a++) {
    const at = (g: number) => frames.tips[3 * (g * c + chain) + a]!;
    sum += (at(f - 1) - 2 * at(f) + at(f + 1)) ** 2;
  }
  return Math.sqrt(sum);
}

/**
 * Roughness: the share (0..1) of the energy of the tip's acceleration that lies above a frequency (Hz), by its discrete
 * Fourier transform. Trembling and jitter live there; a swing does not.
 */
export function roughness(frames: Frames, chain: number, fps: number, above: number): number {
  const n = frames.count - 2;
  if (n < 4) return 0;
  const c = frames.chains.length;
  let high = 0;
  let all = 0;
  for (let a = 0; a < 3; a++) {
    const row = Float64Array.from({ length: n }, (_, k) => {
      const at = (g: number) => frames.tips[3 * (g * c + chain) + a]!;
      return at(k) - 2 * at(k + 1) + at(k + 2);
    });
    for (let k = 1; k <= n / 2; k++) {
      let re = 0;
      let im = 0;
      // The wave is turned step by step: one sine and cosine a frequency.
      const [cs, sn] = [cos((2 * Math.PI * k) / n), sin((2 * Math.PI * k) / n)];
      let [u, w] = [1, 0];
      for (let i = 0; i < n; i++) {
        re += row[i]! * u;
        im += row[i]! * w;
        [u, w] = [u * cs - w * sn, u * sn + w * cs];
      }
      const power = re * re + im * im;
      all += power;
      if ((k * fps) / n > above) high += power;
    }
  }
  return all > 0 ? high / all : 0;
}

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
