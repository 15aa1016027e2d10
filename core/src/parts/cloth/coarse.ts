import { coarserTriangles } from '../../character/index';
import { makeSheet, type Sheet } from '../../sheets/index';
import type { ClothLayout, Detail } from './layout';
import type { TiedPoints } from './tiedPoints';

/** Share of the triangles that a coarse cloth has, and points below which a cloth is coarse enough. */
const SHARE = 0.25;
const FEW = 300;
/** Rounds in which what lies between coarse points is evened out. */
const ROUNDS = 2;

/** A cloth of about a quarter of the triangles, with the same settings; the same where it has few or comes apart. */
export function coarsen(layout: ClothLayout): ClothLayout {
  const { sheet, held, shares } = layout;
  if (sheet.points < FEW) return layout;
  const corners = coarserTriangles(sheet.rest, sheet.triangles, SHARE);
  const lines = linesOf(sheet);
  const pick = Int32Array.from(new Set([...corners, ...lines])).sort();
  if (pick.length < 4 || pick.length > 0.6 * sheet.points) return layout;
  const at = new Map(Array.from(pick, (p, k) => [p, k]));
  const rest = new Float64Array(3 * pick.length);
  pick.forEach((p, k) => rest.set(sheet.rest.subarray(3 * p, 3 * p + 3), 3 * k));
  const coarse = makeSheet(
    rest,
    Array.from(corners, (p) => at.get(p)!),
    lines.map((p) => at.get(p)!),
  );
  // What holds it must hold some of what is left.
  if (held.includes(1) && !pick.some((p) => held[p])) return layout;
  const of = (list: Float64Array) => Float64Array.from(pick, (p) => list[p]!);
  return {
    ...layout,
    sheet: coarse,
    held: Uint8Array.from(pick, (p) => held[p]!),
    diagonal: null,
    ties: layout.ties.map((tie) => coarseTie(tie, at)),
    shares: Object.fromEntries(Object.entries(shares).map(([k, list]) => [k, of(list)])),
    detail: { sheet, held, pick, ...betweenOf(sheet, held, pick) },
  };
}

/** The ends of the lines of a sheet: strings are kept whole. */
const linesOf = ({ edges, faces }: Sheet): number[] =>
  Array.from(edges).filter((_, k) => faces[k >> 1] === 0);

/** The points of a tie that a coarse cloth has; `at` gives the coarse point of each that is picked. */
function coarseTie({ tie, points, local }: TiedPoints, at: ReadonlyMap<number, number>): TiedPoints {
  const kept = Array.from(points, (p, k) => [at.get(p), k] as const).filter(([p]) => p !== undefined);
  return {
    tie,
    points: Int32Array.from(kept, ([p]) => p!),
    local: Float64Array.from(kept.flatMap(([, k]) => [...local.subarray(3 * k, 3 * k + 3)])),
  };
}

function betweenOf(
  sheet: Sheet,
  held: Uint8Array,
  pick: Int32Array,
): Omit<Detail, 'sheet' | 'held' | 'pick'> {
  const { points, edges } = sheet;
  const lists = Array.from({ length: points }, (): number[] => []);
  for (let e = 0; e < edges.length; e += 2) {
    lists[edges[e]!]!.push(edges[e + 1]!);
    lists[edges[e + 1]!]!.push(edges[e]!);
  }
  const known = Uint8Array.from(held);
  for (const p of pick) known[p] = 1;
  const between: number[] = [];
  const queue = Array.from({ length: points }, (_, p) => p).filter((p) => known[p]);
  for (let k = 0; k < queue.length; k++)
    for (const q of lists[queue[k]!]!)
      if (!known[q]) {
        known[q] = 1;
        between.push(q);
        queue.push(q);
      }
  const from = new Int32Array(points + 1);
  lists.forEach((list, p) => (from[p + 1] = from[p]! + list.length));
  const rank = new Int32Array(points).fill(-1);
  between.forEach((p, i) => (rank[p] = i));
  return { between: Int32Array.from(between), rank, from, beside: Int32Array.from(lists.flat()) };
}

/**
 * Fills in how far the points between the coarse ones are off (3 numbers a point): each as its neighbours on the
 * mean, from the coarse points on.
 */
function fillBetween({ between, rank, from, beside }: Detail, off: Float64Array): void {
  // In the first round only what is filled in already counts: the coarse points and what came before.
  for (let round = 0; round <= ROUNDS; round++)
    for (let i = 0; i < between.length; i++) {
      const p = between[i]!;
      let x = 0;
      let y = 0;
      let z = 0;
      let n = 0;
      const end = from[p + 1]!;
      for (let k = from[p]!; k < end; k++) {
        const q = beside[k]!;
        if (round === 0 && rank[q]! >= i) continue;
        const o = 3 * q;
        x += off[o]!;
        y += off[o + 1]!;
        z += off[o + 2]!;
        n++;
      }
      const per = n > 0 ? 1 / n : 0;
      const o = 3 * p;
      off[o] = x * per;
      off[o + 1] = y * per;
      off[o + 2] = z * per;
    }
}

/**
 * How far each point of the whole sheet is shown from its skin (3 numbers each): `x` and `own` are where its points
 * are and where its skin has them, those of the coarse sheet where there is a detail.
 */
export function shownOff(
  off: Float64Array,
  detail: Detail | null,
  x: Float64Array,
  own: Float64Array,
  amount: number,
): void {
  if (!detail) {
    for (let k = 0; k < off.length; k++) off[k] = amount * (x[k]! - own[k]!);
    return;
  }
  off.fill(0);
  detail.pick.forEach((p, k) => {
    for (let a = 0; a < 3; a++) off[3 * p + a] = amount * (x[3 * k + a]! - own[3 * k + a]!);
  });
  fillBetween(detail, off);
}
