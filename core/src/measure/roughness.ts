import { cos, sin } from '../math/index';
import type { Frames } from '../frames/index';

/**
 * Roughness: the share (0..1) of the energy of the tip's acceleration that lies above a frequency (Hz), by its discrete
 * Fourier transform. Trembling and jitter live there; a swing does not.
 */
export function roughness(frames: Frames, chain: number, fps: number, above: number): number {
  const n = frames.count - 2;
  if (n < 4) return 0;
  const c = frames.parts.length;
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
