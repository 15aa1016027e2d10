import { restAt, type Sheet } from '../../sheets/index';
import type { Cloth } from '../../solver/cloth/index';
import type { SheetPart } from './document';
import type { SheetSource } from './source';

/** Steps of its own within one of the shot at most. */
const MOST_STEPS = 32;

/** A sheet of file units in metres. */
export function inMetres(sheet: Sheet, by: number): Sheet {
  if (by === 1) return sheet;
  return {
    ...sheet,
    rest: sheet.rest.map((x) => x * by),
    area: sheet.area.map((x) => x * by * by),
    length: sheet.length.map((x) => x * by),
  };
}

/** The sheet as it rests: as the animation has it on a frame of the track, where that is asked for. */
export function restingIn(part: SheetPart, { points }: SheetSource, sheet: Sheet, from: number): Sheet {
  if (part.rest !== 'frame') return sheet;
  const wide = 3 * sheet.points;
  const row = Math.min(points.length / wide - 2, Math.max(1, part.restFrame - from + 1));
  return restAt(sheet, points.slice(row * wide, (row + 1) * wide));
}

/**
 * Steps of its own that a cloth takes in one of h seconds: a wave across it, at √(g L), goes no farther than one of its
 * short edges in a step.
 */
export function stepsIn(sheet: Sheet, length: number, h: number, least: number): number {
  const short = Float64Array.from(sheet.length).sort()[Math.floor(sheet.length.length / 10)] ?? 1;
  const rate = Math.max(least, (2 * Math.sqrt(9.81 * length)) / (0.8 * short));
  return Math.min(MOST_STEPS, Math.max(1, Math.ceil(rate * h)));
}

/** Mean share by which edges are longer than at rest. */
export function meanStretch({ sheet, x }: Cloth): number {
  const { length, edges } = sheet;
  let sum = 0;
  for (let e = 0; e < length.length; e++) {
    const a = 3 * edges[2 * e]!;
    const b = 3 * edges[2 * e + 1]!;
    const dx = x[a]! - x[b]!;
    const dy = x[a + 1]! - x[b + 1]!;
    const dz = x[a + 2]! - x[b + 2]!;
    const longer = Math.sqrt(dx * dx + dy * dy + dz * dz) / length[e]! - 1;
    if (longer > 0) sum += longer;
  }
  return sum / Math.max(1, sheet.length.length);
}

export function kinetic({ mass, v }: Cloth): number {
  let sum = 0;
  for (let i = 0; i < mass.length; i++) {
    const x = v[3 * i]!;
    const y = v[3 * i + 1]!;
    const z = v[3 * i + 2]!;
    sum += (mass[i]! / 2) * (x * x + y * y + z * z);
  }
  return sum;
}
