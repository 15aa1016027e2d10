import type { Sheet } from '../../sheets/index';
import { layerSize } from './self';

/**
 * How far each point of a sheet is from the nearest point of another of its layers, as a share of the distance that
 * contact with itself keeps between them: below 1 they are in each other; Infinity where none is near. `x` holds places
 * in the unit of the sheet's rest.
 */
export function layerGaps(sheet: Sheet, x: Float64Array): Float64Array {
  const { across, beside } = layerSize(sheet);
  const out = new Float64Array(sheet.points).fill(Infinity);
  const reach = 2 * across;
  const cells = new Map<string, number[]>();
  const cellOf = (p: number, a: number) => Math.floor(x[3 * p + a]! / reach);
  const apart = (list: Float64Array, p: number, q: number) => {
    const [dx, dy, dz] = [0, 1, 2].map((a) => list[3 * p + a]! - list[3 * q + a]!) as [
      number,
      number,
      number,
    ];
    return Math.sqrt(dx * dx + dy * dy + dz * dz);
  };
  for (let p = 0; p < sheet.points; p++) {
    const [i, j, k] = [cellOf(p, 0), cellOf(p, 1), cellOf(p, 2)];
    for (let n = 0; n < 27; n++) {
      const key = `${i + (n % 3) - 1} ${j + (Math.floor(n / 3) % 3) - 1} ${k + Math.floor(n / 9) - 1}`;
      for (const q of cells.get(key) ?? []) {
        if (apart(sheet.rest, p, q) < beside) continue;
        const gap = apart(x, p, q) / across;
        out[p] = Math.min(out[p]!, gap);
        out[q] = Math.min(out[q]!, gap);
      }
    }
    const key = `${i} ${j} ${k}`;
    const here = cells.get(key);
    if (here) here.push(p);
    else cells.set(key, [p]);
  }
  return out;
}
