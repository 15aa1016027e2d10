import type { SoftBody } from '../../solver/soft/index';

/** Names of its readouts: its volume and that of its worst cell, as shares of what they want to be. */
export const BODY_READOUTS = ['volume', 'least volume'] as const;

/** The values of these; `wanted` is how many times its volume it wants to have. */
export function volumesOf({ ratio }: SoftBody, fill: Float64Array, wanted: number): [number, number] {
  let [full, all, least] = [0, 0, Infinity];
  for (let c = 0; c < fill.length; c++) {
    full += fill[c]! * ratio[c]!;
    all += fill[c]!;
    least = Math.min(least, ratio[c]!);
  }
  return [full / all / wanted, least / wanted];
}

/** J. */
export function kineticOf({ mass, v }: SoftBody): number {
  let sum = 0;
  for (let i = 0; i < mass.length; i++)
    sum += 0.5 * mass[i]! * (v[3 * i]! ** 2 + v[3 * i + 1]! ** 2 + v[3 * i + 2]! ** 2);
  return sum;
}
