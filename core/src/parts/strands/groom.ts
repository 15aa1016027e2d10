import { z } from 'zod';

/** Guides that a part may have, points of a guide, and points in all. */
export const MOST_GUIDES = 2000;
export const MOST_POINTS = 200;
const MOST_IN_ALL = 60_000;
const LEAST_LINK = 1e-6;

const BASE64 = /^(?:[A-Za-z0-9+/]{4})*(?:[A-Za-z0-9+/]{2}==|[A-Za-z0-9+/]{3}=)?$/;

/**
 * Guides as they are combed, at rest: how many points each has, and the places of all, base64 of 32-bit reals, the low
 * byte first, 3 a point, m. The first point of each is its root.
 */
export const Groom = z
  .strictObject({
    points: z.array(z.int().min(2).max(MOST_POINTS)).max(MOST_GUIDES),
    places: z.string().max(1_100_000).regex(BASE64, { error: 'The places of a groom cannot be read' }),
  })
  .refine((g) => g.points.reduce((n, p) => n + p, 0) <= MOST_IN_ALL, {
    error: `A groom has at most ${MOST_IN_ALL} points`,
  })
  .refine((g) => g.places.length === 16 * g.points.reduce((n, p) => n + p, 0), {
    error: 'A groom must have a place for each of its points',
  });
export type Groom = z.infer<typeof Groom>;

/** Packs guides: places of their points, 3 numbers each, m. */
export function makeGroom(guides: readonly ArrayLike<number>[]): Groom {
  const all = Float32Array.from(guides.flatMap((g) => Array.from(g)));
  const bytes = new DataView(new ArrayBuffer(4 * all.length));
  all.forEach((x, k) => bytes.setFloat32(4 * k, x, true));
  let text = '';
  for (let k = 0; k < bytes.byteLength; k++) text += String.fromCharCode(bytes.getUint8(k));
  return { points: guides.map((g) => g.length / 3), places: btoa(text) };
}

/** The guides of a groom: places of their points, 3 numbers each, m. What is no number is 0. */
export function readGroom({ points, places }: Groom): Float64Array[] {
  const text = atob(places);
  const bytes = new DataView(new ArrayBuffer(text.length));
  for (let k = 0; k < text.length; k++) bytes.setUint8(k, text.charCodeAt(k));
  let at = 0;
  return points.map((n) => {
    const out = new Float64Array(3 * n);
    for (let k = 0; k < out.length; k++, at += 4) {
      const x = bytes.getFloat32(at, true);
      out[k] = Number.isFinite(x) ? x : 0;
    }
    return out;
  });
}

/** A guide without points that stand in one place; null where fewer than two are left. */
export function cleanGuide(guide: ArrayLike<number>): Float64Array | null {
  const out: number[] = [];
  for (let o = 0; o < guide.length; o += 3) {
    const e = out.length - 3;
    const far =
      e < 0 ? Infinity : Math.sqrt([0, 1, 2].reduce((s, a) => s + (guide[o + a]! - out[e + a]!) ** 2, 0));
    if (far > LEAST_LINK) out.push(guide[o]!, guide[o + 1]!, guide[o + 2]!);
  }
  return out.length < 6 ? null : Float64Array.from(out);
}

/** How long a guide is, m. */
export function lengthOfGuide(guide: ArrayLike<number>): number {
  let sum = 0;
  for (let o = 3; o < guide.length; o += 3)
    sum += Math.sqrt([0, 1, 2].reduce((s, a) => s + (guide[o + a]! - guide[o + a - 3]!) ** 2, 0));
  return sum;
}
