import type { Character } from '../src/character/index';
import { pointSpans, sizesOf, type Frames } from '../src/frames/index';
import { growGuides } from '../src/parts/strands/grow';
import { makeGroom, makeStrandsPart, strandSettingsFor, type StrandsPart } from '../src/parts/strands/shared';
import { parseShot, type Shot } from '../src/shot/index';
import { simulateAll } from '../src/simulate/index';
import { makeFigure, nodeNamed } from './figure';
import type { Way } from './parcel';

const POINTS = 9;
export const LONG = 0.08;
/** A tenth of a metre square that hair hangs from. */
const SIDE = 6;
const square = Array.from({ length: (SIDE + 1) ** 2 }, (_, k) => [
  0.1 * ((k % (SIDE + 1)) / SIDE - 0.5),
  0,
  0.1 * (Math.floor(k / (SIDE + 1)) / SIDE - 0.5),
]).flat();
const triangles = Array.from({ length: SIDE * SIDE }, (_, k) => {
  const q = Math.floor(k / SIDE) * (SIDE + 1) + (k % SIDE);
  return [q, q + 1, q + SIDE + 2, q, q + SIDE + 2, q + SIDE + 1];
}).flat();

/** Sixty guides that hang from a square, with settings or more of their own; where the square is, by time. */
export function hangingHair(
  settings: Partial<StrandsPart['settings']>,
  more: Partial<Shot> = {},
  way: Way = () => [0, 0, 0],
  own: Partial<Pick<StrandsPart, 'bands'>> = {},
): { character: Character; shot: Shot } {
  const { character, shot } = makeFigure({ scalp: { places: square, triangles } }, 2, 24, way);
  const mesh = nodeNamed(character, 'scalp');
  const growth = { count: 60, length: LONG, points: POINTS, lean: 0, seed: 3, mirrored: false };
  const guides = growGuides(character, mesh.node, 1, [0, -1, 0], growth, null);
  const hair = makeStrandsPart({
    ...{ id: 'hair', name: 'Hair', mesh, groom: makeGroom(guides), ...own },
    settings: { ...strandSettingsFor(LONG), hold: 0.5, bend: 1, damping: 0.3, drag: 0, ...settings },
  });
  return {
    character,
    shot: parseShot({
      ...{ ...shot, parts: { hair }, colliders: {}, range: { first: 0, last: 36 } },
      ...{ substeps: 4, preRollSeconds: 0, loop: false, ...more },
    }),
  };
}

/** How it goes. */
export function hairFrames(...of: Parameters<typeof hangingHair>): Frames {
  const { character, shot } = hangingHair(...of);
  return simulateAll(character, shot);
}

/** Places of the tips on a frame, m. */
export function tips(frames: Frames, f: number): Float64Array[] {
  const [span] = pointSpans(frames, 0);
  const wide = sizesOf(frames).points;
  const guides = (span!.to - span!.from) / POINTS;
  return Array.from({ length: guides }, (_, g) => {
    const at = 3 * (f * wide + span!.from + POINTS * g + POINTS - 1);
    return Float64Array.from(frames.points.subarray(at, at + 3));
  });
}
export const far = (a: ArrayLike<number>, b: ArrayLike<number>) =>
  Math.hypot(...[0, 1, 2].map((k) => a[k]! - b[k]!));
/** Mean distance of the tips from their middle, m. */
export function spread(of: readonly Float64Array[]): number {
  const middle = [0, 1, 2].map((a) => of.reduce((s, t) => s + t[a]!, 0) / of.length);
  return of.reduce((s, t) => s + far(t, middle), 0) / of.length;
}
