import { quatConjugate, quatMultiply, quatNormalise, quatRotate } from '../math/index';
import { keepSign, type Loop, type Moving, type PartSource } from '../parts/index';

/** What shows whether the clip repeats: sampled places, and the turn of what they hang from. */
type Path = NonNullable<PartSource['path']>;

/** Largest distance, as a share of the paths' lengths, that a pose may be off to count as the same. */
const SAME_POSE = 1e-4;

/**
 * Looks whether the last frame, or the one after it, is the first one again, carried by a rigid travel (`lasts`: frames
 * of the clip from there on), or, where the clip is repeated, the end of its first time (`once`): the same turn and
 * step for every chain's source.
 */
export function findLoop(
  paths: readonly Path[],
  rows: number,
  frames: number,
  lasts: number,
  once: number | null = null,
): Loop | null {
  if (paths.length === 0) return null;
  // A travel without a turn first: a body that turns to and fro is like itself, turned, at many moments.
  for (const turns of [false, true]) {
    for (const period of [...(once !== null && once < frames ? [once] : []), frames - 1, frames]) {
      // The clip stands still after its end.
      if (period < 1 || period > lasts + 1e-3) continue;
      const travel = travelOf(paths[0]!, 1, 1 + period, turns);
      const same = paths.every((c) => agrees(c, travel, 1, 1 + period, rows));
      if (same && paths.every((c) => goesOn(c, travel, period, rows))) return { period, travel };
    }
  }
  return null;
}

const turned = new Float64Array(4);
const carried = new Float64Array(3);

/** The travel of what a chain hangs from, from row a to row b, with its turn or without. */
function travelOf(c: Path, a: number, b: number, turns: boolean): Float64Array {
  const out = new Float64Array(7);
  const size = c.points.length / (c.body.length / 4);
  out[6] = 1;
  if (turns) {
    quatConjugate(turned, 0, c.body, 4 * a);
    quatMultiply(out, 3, c.body, 4 * b, turned, 0);
    quatNormalise(out, 3);
  }
  quatRotate(out, 0, out, 3, c.points, a * size);
  for (let k = 0; k < 3; k++) out[k] = c.points[b * size + k]! - out[k]!;
  return out;
}

function agrees(c: Path, travel: Float64Array, a: number, b: number, rows: number): boolean {
  const size = c.points.length / rows;
  let length = 0;
  for (let k = 3; k < size; k++) length += Math.abs(c.points[a * size + k]! - c.points[a * size + k - 3]!);
  for (let p = 0; p < size; p += 3) {
    quatRotate(carried, 0, travel, 3, c.points, a * size + p);
    for (let k = 0; k < 3; k++)
      if (Math.abs(carried[k]! + travel[k]! - c.points[b * size + p + k]!) > SAME_POSE * length) return false;
  }
  return true;
}

/**
 * Whether the end of the loop goes over into its beginning without a jerk: the bend of the tip's path at the seam is
 * not much more than the sharpest within.
 */
function goesOn(c: Path, travel: Float64Array, period: number, rows: number): boolean {
  const size = c.points.length / rows;
  const tip = size - 3;
  const at = (k: number, a: number) => c.points[k * size + tip + a]!;
  let sharpest = 0;
  let length = 0;
  for (let k = 2; k <= period; k++) {
    let sum = 0;
    for (let a = 0; a < 3; a++) {
      sum += (at(k - 1, a) - 2 * at(k, a) + at(k + 1, a)) ** 2;
      length = Math.max(length, Math.abs(at(k, a) - c.points[k * size + a]!));
    }
    sharpest = Math.max(sharpest, Math.sqrt(sum));
  }
  // The step out of the first frame, carried to the end, beside the step into the last.
  let seam = 0;
  for (let a = 0; a < 3; a++) carried[a] = at(2, a) - at(1, a);
  quatRotate(carried, 0, travel, 3, carried, 0);
  for (let a = 0; a < 3; a++) seam += (carried[a]! - (at(1 + period, a) - at(period, a))) ** 2;
  return Math.sqrt(seam) <= 2 * sharpest + 1e-4 * length;
}

/** The rows before and after the range of a loop are those of its other end, carried by the travel back and on. */
export function wrapRows({ list, places, turns }: Moving, width: number, loop: Loop, rows: number): void {
  const carryRow = (to: number, from: number, travel: Float64Array) => {
    for (const p of places) {
      quatRotate(carried, 0, travel, 3, list, from * width + p);
      for (let k = 0; k < 3; k++) list[to * width + p + k] = carried[k]! + travel[k]!;
    }
    for (const q of turns) {
      quatMultiply(list, to * width + q, travel, 3, list, from * width + q);
      keepSign(list, to * width + q, (to === 0 ? 1 : to - 1) * width + q);
    }
  };
  carryRow(0, loop.period, inverseTravel(loop.travel));
  // Rows past the period, in order: the range's last frame may be the first again.
  for (let k = 1 + loop.period; k < rows; k++) carryRow(k, k - loop.period, loop.travel);
}

/** The travel that undoes another. */
export function inverseTravel(travel: Float64Array): Float64Array {
  const out = new Float64Array(7);
  quatConjugate(out, 3, travel, 3);
  quatRotate(out, 0, out, 3, travel, 0);
  for (let k = 0; k < 3; k++) out[k] = -out[k]!;
  return out;
}
