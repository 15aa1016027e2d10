import { mulberry32 } from './random';
import { cos, sin } from './trig';

/** Smooth random number in −1..1 at a time, by the cubic through random values at whole numbers. */
export function smoothNoise(seed: number, t: number): number {
  const i = Math.floor(t);
  const u = t - i;
  const at = (k: number) => 2 * mulberry32((seed * 7919 + k * 104729) >>> 0)() - 1;
  const s = u * u * (3 - 2 * u);
  return at(i) * (1 - s) + at(i + 1) * s;
}

const MODES = 12;

/**
 * A swirling field without sources or sinks: the sum of plane waves whose amplitudes lie across their directions, so
 * its divergence is exactly 0 (Kraichnan 1970; the aim of curl noise, Bridson et al. 2007). Mean square speed 1, waves
 * of one half to two sizes of a swirl (m).
 */
export function makeSwirl(
  seed: number,
  size: number,
): (out: Float64Array, x: number, y: number, z: number) => void {
  const random = mulberry32(seed);
  const waves = new Float64Array(7 * MODES);
  for (let k = 0; k < MODES; k++) {
    const direction = () => {
      const z = 2 * random() - 1;
      const a = 2 * Math.PI * random();
      const r = Math.sqrt(1 - z * z);
      return [r * cos(a), r * sin(a), z] as const;
    };
    const n = direction();
    const a = direction();
    const wave = (2 * Math.PI) / (size * (0.5 + 1.5 * random()));
    // Amplitude: across n, of even strength.
    const across = [n[1] * a[2] - n[2] * a[1], n[2] * a[0] - n[0] * a[2], n[0] * a[1] - n[1] * a[0]];
    const l = Math.sqrt(across[0]! * across[0]! + across[1]! * across[1]! + across[2]! * across[2]!) || 1;
    for (let c = 0; c < 3; c++) {
      waves[7 * k + c] = n[c]! * wave;
      waves[7 * k + 3 + c] = (across[c]! / l) * Math.sqrt(2 / MODES);
    }
    waves[7 * k + 6] = 2 * Math.PI * random();
  }
  return (out, x, y, z) => {
    out[0] = out[1] = out[2] = 0;
    for (let w = 0; w < 7 * MODES; w += 7) {
      const c = cos(waves[w]! * x + waves[w + 1]! * y + waves[w + 2]! * z + waves[w + 6]!);
      for (let k = 0; k < 3; k++) out[k]! += c * waves[w + 3 + k]!;
    }
  };
}
