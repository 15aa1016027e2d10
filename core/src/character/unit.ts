import type { Character } from './character';
import { rigSize } from './size';

/** What a unit of a file is, mostly: names and metres. */
const UNITS = [
  ['1 m', 1],
  ['1 cm', 0.01],
  ['1 mm', 0.001],
  ['1 inch', 0.0254],
  ['1 foot', 0.3048],
  ['10 cm', 0.1],
] as const;

/** Sizes (m) that figures mostly have, and the one they are most likely to have. */
const LEAST = 0.05;
const MOST = 40;
const LIKELY = 1.7;
/** Lengths (m) of a chain below and above which its scale is questioned. */
const SHORT = 0.01;
const LONG = 50;

/** A unit that would make more sense of a rig. */
export interface LikelyUnit {
  readonly name: string;
  readonly metres: number;
}

/**
 * The unit that the file of a rig of this size (in its units) is likely to be in, when it is questionable with the
 * present one: a chain of this length (m) is under 1 cm or over 50 m (null asks for the rig alone), and the rig's size
 * is unusual with it. Null when it is fine.
 */
export function questionUnit(
  units: number,
  metresPerUnit: number,
  length: number | null = null,
): LikelyUnit | null {
  const size = units * metresPerUnit;
  if (length !== null && length >= SHORT && length <= LONG) return null;
  if (size >= LEAST && size <= MOST) return null;
  const off = (metres: number) => Math.max((units * metres) / LIKELY, LIKELY / (units * metres));
  const [name, metres] = [...UNITS].sort((a, b) => off(a[1]) - off(b[1]))[0]!;
  return off(metres) < off(metresPerUnit) ? { name, metres } : null;
}

/** What a unit of a file is, m, and how that is known, to be said. */
export interface FileUnit {
  readonly metres: number;
  readonly why: string;
}

/**
 * The unit of a file by its name and its size. BVH says nothing of its unit: a figure between 0.3 and 4 m is meant, in
 * the unit that makes it so. The others are in metres by their standard.
 */
export function unitFrom(fileName: string, character: Character): FileUnit {
  if (!/\.bvh$/i.test(fileName)) return { metres: 1, why: 'metres, as its format says' };
  const size = rigSize(character);
  const fit = (
    [
      [0.01, 'centimetres'],
      [1, 'metres'],
      [0.001, 'millimetres'],
    ] as const
  ).find(([metres]) => size * metres >= 0.3 && size * metres <= 4);
  const across = `a figure ${Number(size.toPrecision(3))} units across`;
  return fit
    ? { metres: fit[0], why: `${fit[1]}, by ${across}` }
    : { metres: 0.01, why: `centimetres, though ${across} may be in another unit` };
}
