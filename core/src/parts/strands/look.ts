import { cos, mulberry32, sin } from '../../math/index';
import { meshTriangles, type Character } from '../../character/index';
import type { Look } from './document';
import { even, placedOn, type Placed } from './scatter';
import { lengthOfGuide } from './groom';
import { restPlaces } from './layout';

/** Points that a drawn strand has: without curls, for each turn of a curl, and at most. */
const PLAIN = 9;
const A_TURN = 7;
const MOST = 65;

/** How many points each strand of a look is drawn with: enough for its curls to be round. */
export function drawnPoints({ curl, turns, curlFrom, curlTo }: Look): number {
  if (!(curl > 0) || !(curlTo > curlFrom)) return PLAIN;
  return Math.min(MOST, Math.max(PLAIN, 1 + Math.ceil((A_TURN * turns) / (curlTo - curlFrom))));
}
/** Guides that a strand goes between. */
const NEAR = 3;
/** A strand stands within so many times the distance of guides from one. */
const SPREAD = 0.9;
/** How far the strands of a single guide stand about it, as a share of its length. */
const TUFT = 0.12;
/** Guides that leave the skin more than this apart (cosine) are not mixed: a parting. */
const PARTED = 0.3;
/** Random numbers of each strand: two of its straying, its length, its shade, the start of its curl. */
const CHANCES = 5;

/** The strands between guides, found once: what of them changes with neither look nor motion. */
export interface LookPlan {
  readonly strands: number;
  /** Vertices of the triangle each stands on and their shares, 3 each. */
  readonly corners: Int32Array;
  readonly shares: Float32Array;
  /** Guides it goes between and their shares, the nearest first, 3 each. */
  readonly guides: Int32Array;
  readonly weights: Float32Array;
  readonly chances: Float32Array;
  /** The first point of each guide among all, and one more. */
  readonly first: Int32Array;
  /** Length of guides on the mean, m. */
  readonly length: number;
  /** Vertices of the mesh that strands stand on, rising. */
  readonly vertices: Int32Array;
}

const distance2 = (a: ArrayLike<number>, b: ArrayLike<number>): number =>
  (a[0]! - b[0]!) ** 2 + (a[1]! - b[1]!) ** 2 + (a[2]! - b[2]!) ** 2;

/** Spreads strands over the skin about guides (places of their points at rest, m), the same for a seed. */
export function planLook(
  character: Character,
  node: number,
  metresPerUnit: number,
  guides: readonly Float64Array[],
  { strands: count, spread: wide }: Pick<Look, 'strands' | 'spread'>,
  seed = 1,
): LookPlan {
  const places = restPlaces(character, node, metresPerUnit);
  const { indices } = meshTriangles(character, node);
  const length = guides.reduce((s, g) => s + lengthOfGuide(g), 0) / Math.max(1, guides.length);
  const gaps = guides.map((g, k) =>
    guides.reduce((m, q, j) => (j === k ? m : Math.min(m, distance2(g, q))), Infinity),
  );
  const spread =
    wide *
    (guides.length > 1 ? SPREAD * (gaps.reduce((s, d) => s + Math.sqrt(d), 0) / gaps.length) : TUFT * length);
  const reaches = (p: ArrayLike<number>, by: number) =>
    guides.some((g) => distance2(g, p) < (by * spread) ** 2);
  const where = even(places, indices, (corners) => {
    const at = [0, 1, 2].map((a) => corners.reduce((s, v) => s + places[3 * v + a]! / 3, 0));
    const size = Math.sqrt(Math.max(...corners.map((v) => distance2(at, places.subarray(3 * v, 3 * v + 3)))));
    return reaches(at, 1 + size / spread) ? 1 : 0;
  });
  const next = mulberry32(seed);
  const found: Placed[] = [];
  const most = guides.length > 0 && where.whole > 0 ? count : 0;
  for (let tries = 0; found.length < most && tries < 40 * most + 200; tries++) {
    const p = placedOn(places, where, next);
    if (reaches(p.at, 1)) found.push(p);
  }
  const strands = found.length;
  const first = new Int32Array(guides.length + 1);
  guides.forEach((g, k) => (first[k + 1] = first[k]! + g.length / 3));
  const plan = {
    ...{ strands, first, length: length || 1 },
    corners: Int32Array.from(found.flatMap((p) => p.corners)),
    shares: Float32Array.from(found.flatMap((p) => p.shares)),
    guides: new Int32Array(NEAR * strands),
    weights: new Float32Array(NEAR * strands),
    chances: Float32Array.from({ length: CHANCES * strands }, () => 2 * next() - 1),
    vertices: Int32Array.from(new Set(found.flatMap((p) => p.corners))).sort(),
  };
  found.forEach((p, s) => mix(plan, s, p.at, guides));
  return plan;
}

/** Finds the guides that a strand goes between: the nearest on the skin that leave it the same way. */
function mix(
  { guides: list, weights }: Pick<LookPlan, 'guides' | 'weights'>,
  s: number,
  at: readonly number[],
  guides: readonly Float64Array[],
): void {
  const near: { k: number; d: number }[] = [];
  for (let k = 0; k < guides.length; k++) {
    const d = distance2(guides[k]!, at);
    let i = near.length;
    if (i === 2 * NEAR && d >= near[i - 1]!.d) continue;
    for (; i > 0 && near[i - 1]!.d > d; i--);
    near.splice(i, 0, { k, d });
    if (near.length > 2 * NEAR) near.pop();
  }
  const wayOf = (g: Float64Array) => {
    const end = Math.min(g.length - 3, 6);
    const d = [0, 1, 2].map((a) => g[end + a]! - g[a]!);
    const size = Math.sqrt(d.reduce((x, y) => x + y * y, 0)) || 1;
    return d.map((x) => x / size);
  };
  const own = wayOf(guides[near[0]!.k]!);
  const kept = near
    .filter(({ k }) => wayOf(guides[k]!).reduce((x, d, a) => x + d * own[a]!, 0) > PARTED)
    .slice(0, NEAR);
  const by = kept.map(({ d }) => 1 / (d + 1e-12));
  const sum = by.reduce((x, y) => x + y, 0);
  for (let j = 0; j < NEAR; j++) {
    list[NEAR * s + j] = (kept[j] ?? kept[0]!).k;
    weights[NEAR * s + j] = j < kept.length ? by[j]! / sum : 0;
  }
}

const at = new Float64Array(3);
const guideAt = new Float64Array(3);

/** A place on a guide, a share of the way along it, less its root. */
function alongGuide(curves: Float64Array, first: Int32Array, k: number, t: number): void {
  const [lo, hi] = [first[k]!, first[k + 1]! - 1];
  const u = lo + t * (hi - lo);
  const i = Math.min(hi - 1, Math.floor(u));
  const f = u - i;
  for (let a = 0; a < 3; a++) {
    const p = curves[3 * i + a]!;
    guideAt[a] = p + f * (curves[3 * i + 3 + a]! - p) - curves[3 * lo + a]!;
  }
}

/**
 * Lays the strands of a look along guides as they are (`curves`: places of all their points, m), with the vertices of
 * the mesh as they are (`skin`). Writes `drawnPoints` places a strand, 3 numbers each.
 */
export function layLook(
  out: Float32Array,
  { strands, corners, shares, guides, weights, chances, first, length }: LookPlan,
  look: Look,
  curves: Float64Array,
  skin: Float64Array,
): void {
  const points = drawnPoints(look);
  const last = points - 1;
  const before = [0, 0, 0];
  for (let s = 0; s < strands; s++) {
    const c = 3 * s;
    const [p, q, r] = [3 * corners[c]!, 3 * corners[c + 1]!, 3 * corners[c + 2]!];
    const [wp, wq, wr] = [shares[c]!, shares[c + 1]!, shares[c + 2]!];
    // One way along the skin turns with it: curls and what strays at random go by it.
    const [ex, ey, ez] = [skin[q]! - skin[p]!, skin[q + 1]! - skin[p + 1]!, skin[q + 2]! - skin[p + 2]!];
    const shorter = 1 + 0.12 * chances[CHANCES * s + 2]!;
    const nearest = 3 * first[guides[NEAR * s]!]!;
    for (let j = 0; j <= last; j++) {
      const t = Math.min(1, (j / last) * shorter);
      at[0] = wp * skin[p]! + wq * skin[q]! + wr * skin[r]!;
      at[1] = wp * skin[p + 1]! + wq * skin[q + 1]! + wr * skin[r + 1]!;
      at[2] = wp * skin[p + 2]! + wq * skin[q + 2]! + wr * skin[r + 2]!;
      for (let g = 0; g < NEAR; g++) {
        const w = weights[NEAR * s + g]!;
        if (w === 0) continue;
        alongGuide(curves, first, guides[NEAR * s + g]!, t);
        for (let a = 0; a < 3; a++) at[a]! += w * guideAt[a]!;
      }
      if (look.clump > 0) {
        alongGuide(curves, first, guides[NEAR * s]!, t);
        const by = look.clump * t * t;
        for (let a = 0; a < 3; a++) at[a]! += by * (curves[nearest + a]! + guideAt[a]! - at[a]!);
      }
      const o = 3 * (points * s + j);
      // The way that the strand itself goes, without what strays from it.
      const way = [at[0]! - before[0]!, at[1]! - before[1]!, at[2]! - before[2]!] as const;
      for (let a = 0; a < 3; a++) before[a] = at[a]!;
      if (j > 0) stray(look, t, chances, CHANCES * s, length, [ex, ey, ez], way);
      for (let a = 0; a < 3; a++) out[o + a] = at[a]!;
    }
  }
}

/** Adds curl and frizz to the place in `at`: across the way the strand goes there. */
function stray(
  look: Look,
  t: number,
  chances: Float32Array,
  c: number,
  length: number,
  e: readonly [number, number, number],
  d: readonly [number, number, number],
): void {
  const { curl, turns, curlFrom, curlTo, frizz } = look;
  if (curl === 0 && frizz === 0) return;
  const dd = d[0] * d[0] + d[1] * d[1] + d[2] * d[2] || 1;
  const along = (e[0] * d[0] + e[1] * d[1] + e[2] * d[2]) / dd;
  const u = [e[0] - along * d[0], e[1] - along * d[1], e[2] - along * d[2]] as const;
  const us = 1 / (Math.sqrt(u[0] * u[0] + u[1] * u[1] + u[2] * u[2]) || 1);
  const vs = us / Math.sqrt(dd);
  const v = [d[1] * u[2] - d[2] * u[1], d[2] * u[0] - d[0] * u[2], d[0] * u[1] - d[1] * u[0]] as const;
  const within = curlTo > curlFrom ? Math.min(1, Math.max(0, (t - curlFrom) / (curlTo - curlFrom))) : 0;
  // It grows out of the strand and goes back into it where the curl ends before the tip.
  const rises = Math.min(1, 4 * within) * (curlTo < 1 ? Math.min(1, 4 * (1 - within)) : 1);
  const turned = 2 * Math.PI * turns * within + Math.PI * chances[c + 4]!;
  const off = frizz * length * t;
  const x = curl * rises * cos(turned) + off * (chances[c]! + 0.3 * sin(19 * t + 9 * chances[c + 1]!));
  const y = curl * rises * sin(turned) + off * (chances[c + 1]! + 0.3 * cos(17 * t + 9 * chances[c]!));
  for (let a = 0; a < 3; a++) at[a]! += x * us * u[a]! + y * vs * v[a]!;
}
