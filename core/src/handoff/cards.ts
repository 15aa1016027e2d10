import { addStrips, containerOf, type BakedCurves } from '../formats/gltf/index';
import type { Motion, MotionJoint } from '../formats/motion/index';
import { quatConjugate, quatMultiply, quatNormalise, quatRotate } from '../math/index';
import { OscillumError } from '../model/index';

/**
 * How hair is written: strips of how many guides, on how many joints each; and how many strands curves are of, 0 for
 * its guides alone.
 */
export interface HairChoice {
  readonly cards: number;
  readonly joints: number;
  readonly strands?: number | undefined;
}
/** Strands that curves may be of at most. */
export const MOST_STRANDS = 20_000;
export const DEFAULT_HAIR: HairChoice = { cards: 200, joints: 5 };
export const MOST_CARDS = 2000;
export const MOST_CARD_JOINTS = 32;
/** Points that a mesh of 16-bit indices has. */
const MOST_VERTICES = 65_535;
/** Rings of a card for each of its joints. */
const RINGS = 2;

/** A file of cards. */
export interface Cards {
  readonly bytes: Uint8Array<ArrayBuffer>;
  readonly cards: number;
  readonly guides: number;
  /** How far the middle of a card is from its guide, mm: RMS over all rings and frames, and the farthest. */
  readonly rms: number;
  readonly largest: number;
}

type V = [number, number, number];
const minus = (a: ArrayLike<number>, i: number, b: ArrayLike<number>, j: number): V => [
  a[i]! - b[j]!,
  a[i + 1]! - b[j + 1]!,
  a[i + 2]! - b[j + 2]!,
];
const cross = (a: V, b: V): V => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];
const unit = (v: V, or: V): V => {
  const size = Math.sqrt(v[0] ** 2 + v[1] ** 2 + v[2] ** 2);
  return size > 1e-12 ? [v[0] / size, v[1] / size, v[2] / size] : or;
};

/** One guide that becomes a card: how many points it has, and where the first of them stands among all. */
export interface Guide {
  readonly curves: BakedCurves;
  readonly from: number;
  readonly points: number;
}

/** A place on a guide in a frame, a share of the way along it. */
function along({ curves, from, points }: Guide, frame: number, t: number): V {
  const wide = curves.values.length / curves.times.length;
  const u = Math.min(1, t) * (points - 1);
  const i = Math.min(points - 2, Math.floor(u));
  const o = frame * wide + 3 * (from + i);
  const f = u - i;
  return [0, 1, 2].map((a) => {
    const p = curves.values[o + a]!;
    return p + f * (curves.values[o + 3 + a]! - p);
  }) as V;
}

/** So many guides of some strands: all, or those whose roots lie farthest from each other. */
function chosen(curves: BakedCurves, most: number): Guide[] {
  let from = 0;
  const all = curves.counts.map((points) => {
    const guide = { curves, from, points };
    from += points;
    return guide;
  });
  if (most >= all.length) return all;
  const roots = all.map((g) => along(g, 0, 0));
  const near = roots.map(() => Infinity);
  const out: number[] = [0];
  while (out.length < most) {
    const last = roots[out.at(-1)!]!;
    roots.forEach(
      (r, k) =>
        (near[k] = Math.min(
          near[k]!,
          r.reduce((s, x, a) => s + (x - last[a]!) ** 2, 0),
        )),
    );
    out.push(near.indexOf(Math.max(...near)));
  }
  return out.sort((a, b) => a - b).map((k) => all[k]!);
}

/** The turn (x y z w) by the shortest way from one unit direction to another. */
function turnTo(from: V, to: V): Float64Array {
  const dot = from[0] * to[0] + from[1] * to[1] + from[2] * to[2];
  // Straight back: about any axis across.
  if (dot < -0.999999) {
    const axis = unit(cross(from, Math.abs(from[0]) < 0.9 ? [1, 0, 0] : [0, 1, 0]), [0, 0, 1]);
    return Float64Array.of(...axis, 0);
  }
  const out = Float64Array.of(...cross(from, to), 1 + dot);
  quatNormalise(out, 0);
  return out;
}

/** A chain of joints along a guide, frame by frame, in the world: place and turn from the first frame. */
export function chainOf(guide: Guide, joints: number): { places: Float64Array; turns: Float64Array } {
  const frames = guide.curves.times.length;
  const places = new Float64Array(3 * frames * joints);
  const turns = new Float64Array(4 * frames * joints);
  const way = (f: number, j: number): V =>
    unit(minus(along(guide, f, (j + 1) / joints), 0, along(guide, f, j / joints), 0), [0, -1, 0]);
  const rests = Array.from({ length: joints }, (_, j) => way(0, j));
  for (let f = 0; f < frames; f++) {
    let before: Float64Array = Float64Array.of(0, 0, 0, 1);
    for (let j = 0; j < joints; j++) {
      const at = f * joints + j;
      places.set(along(guide, f, j / joints), 3 * at);
      // It goes on from its parent's turn, so that a card does not twist.
      const carried = new Float64Array(3);
      quatRotate(carried, 0, before, 0, rests[j]!, 0);
      const own = turnTo([carried[0]!, carried[1]!, carried[2]!], way(f, j));
      quatMultiply(own, 0, own, 0, before, 0);
      turns.set(own, 4 * at);
      before = own;
    }
  }
  return { places, turns };
}

/** The joint that carries a ring, and the next one with its share. */
function carriedBy(t: number, joints: number): { j: number; next: number; share: number } {
  const u = Math.min(joints - 1e-9, t * joints);
  const j = Math.floor(u);
  // Half and half where two joints meet.
  const f = u - j;
  return f > 0.5 && j + 1 < joints
    ? { j, next: j + 1, share: f - 0.5 }
    : { j, next: Math.max(0, j - 1), share: f < 0.5 && j > 0 ? 0.5 - f : 0 };
}

/** Where a joint takes a place of the first frame in another. */
function taken(p: V, chain: ReturnType<typeof chainOf>, joints: number, j: number, f: number): V {
  const { places, turns } = chain;
  const out = Float64Array.from(minus(p, 0, places, 3 * j));
  quatRotate(out, 0, turns, 4 * (f * joints + j), out, 0);
  return [0, 1, 2].map((a) => out[a]! + places[3 * (f * joints + j) + a]!) as V;
}

/**
 * Hair as a GLB of its own: a strip along each guide, skinned to a chain of joints that plays its motion. Places are in
 * the world, +Y up, m. Throws OscillumError('bake.invalid') where there is too much.
 */
export function writeCards(
  strands: readonly BakedCurves[],
  fps: number,
  { cards, joints }: HairChoice,
  fileName: string,
): Cards {
  const { guides, rings } = guidesFor(strands, { cards, joints });
  const chains = guides.map((g) => chainOf(g, joints));
  const motion = motionOf(guides, chains, joints, fps);
  const strips = stripsOf(guides, chains, joints, rings);
  const bytes = addStrips(containerOf(motion, fileName), strips);
  const all = strands.reduce((n, c) => n + c.counts.length, 0);
  return { bytes, cards: guides.length, guides: all, ...errorOf(guides, chains, joints, rings) };
}

/**
 * The guides that are asked for, and how many rings the strip of each has. Throws OscillumError('bake.invalid') where
 * there is too much.
 */
export function guidesFor(
  strands: readonly BakedCurves[],
  { cards, joints }: HairChoice,
): { guides: Guide[]; rings: number } {
  const all = strands.reduce((n, c) => n + c.counts.length, 0);
  const guides = strands.flatMap((c) => chosen(c, Math.max(1, Math.round((cards * c.counts.length) / all))));
  const rings = RINGS * joints + 1;
  if (2 * rings * guides.length > MOST_VERTICES)
    throw new OscillumError(
      'bake.invalid',
      `${guides.length} cards of ${joints} joints have more corners than a mesh can count (${MOST_VERTICES})`,
      'hair',
      'Ask for fewer cards, or fewer joints each.',
    );
  return { guides, rings };
}

function motionOf(
  guides: readonly Guide[],
  chains: readonly ReturnType<typeof chainOf>[],
  joints: number,
  fps: number,
): Motion {
  const { times } = guides[0]!.curves;
  const [count, n] = [times.length, guides.length * joints];
  const t = new Float64Array(3 * count * n);
  const r = new Float64Array(4 * count * n);
  const back = new Float64Array(4);
  chains.forEach(({ places, turns }, g) => {
    for (let f = 0; f < count; f++)
      for (let j = 0; j < joints; j++) {
        const [at, own] = [f * n + g * joints + j, f * joints + j];
        if (j === 0) {
          t.set(places.subarray(3 * own, 3 * own + 3), 3 * at);
          r.set(turns.subarray(4 * own, 4 * own + 4), 4 * at);
        } else {
          quatConjugate(back, 0, turns, 4 * (own - 1));
          quatRotate(t, 3 * at, back, 0, minus(places, 3 * own, places, 3 * own - 3), 0);
          quatMultiply(r, 4 * at, back, 0, turns, 4 * own);
        }
        if (f === 0) continue;
        const dot = [0, 1, 2, 3].reduce((s, a) => s + r[4 * at + a]! * r[4 * (at - n) + a]!, 0);
        if (dot < 0) for (let a = 4 * at; a < 4 * at + 4; a++) r[a] = -r[a]!;
      }
  });
  const made: MotionJoint[] = guides.flatMap(({ curves }, g) =>
    Array.from({ length: joints }, (_, j) => {
      const at = g * joints + j;
      return {
        name: `${curves.name} ${g + 1} ${j + 1}`,
        parent: j === 0 ? -1 : at - 1,
        t: [...t.subarray(3 * at, 3 * at + 3)],
        r: [...r.subarray(4 * at, 4 * at + 4)],
        s: [1, 1, 1],
      };
    }),
  );
  const first = Math.round(times[0]! * fps);
  return { name: 'Hair', joints: made, fps, first, count, t, r, s: new Float64Array(3 * count * n).fill(1) };
}

/** Strips on the first frame: flat against the head, as wide as guides stand apart, narrower toward the tip. */
export function stripsOf(
  guides: readonly Guide[],
  chains: readonly ReturnType<typeof chainOf>[],
  joints: number,
  rings: number,
): Parameters<typeof addStrips>[1] {
  const vertices = 2 * rings * guides.length;
  const [places, normals, colours] = [0, 1, 2].map(() => new Float64Array(3 * vertices)) as [
    Float64Array,
    Float64Array,
    Float64Array,
  ];
  const uvs = new Float64Array(2 * vertices);
  const [held, shares] = [new Float64Array(4 * vertices), new Float64Array(4 * vertices)];
  const indices: number[] = [];
  const roots = guides.map((g) => along(g, 0, 0));
  const middle = [0, 1, 2].map((a) => roots.reduce((s, r) => s + r[a]! / roots.length, 0)) as V;
  guides.forEach((guide, g) => {
    const { widths, colours: ends } = guide.curves;
    const near = roots.reduce(
      (m, r, k) =>
        k === g ? m : Math.min(m, Math.sqrt(minus(r, 0, roots[g]!, 0).reduce((s, x) => s + x * x, 0))),
      Infinity,
    );
    const wide = near < Infinity ? Math.max(widths[0], near) : widths[0];
    for (let k = 0; k < rings; k++) {
      const t = k / (rings - 1);
      const at = along(guide, 0, t);
      const way = unit(
        minus(along(guide, 0, Math.min(1, t + 0.01)), 0, along(guide, 0, Math.min(t, 0.99)), 0),
        [0, -1, 0],
      );
      const side = unit(cross(way, minus(at, 0, middle, 0)), [1, 0, 0]);
      const normal = unit(cross(side, way), [0, 0, 1]);
      const half = (wide * (1 + (widths[1] / widths[0] - 1) * t)) / 2;
      const { j, next, share } = carriedBy(t, joints);
      for (let e = 0; e < 2; e++) {
        const v = 2 * (rings * g + k) + e;
        for (let a = 0; a < 3; a++) {
          places[3 * v + a] = at[a]! + (e === 0 ? -half : half) * side[a]!;
          normals[3 * v + a] = normal[a]!;
          colours[3 * v + a] = ends[0][a]! + t * (ends[1][a]! - ends[0][a]!);
        }
        uvs.set([e, t], 2 * v);
        held.set([g * joints + j, share > 0 ? g * joints + next : 0, 0, 0], 4 * v);
        shares.set([1 - share, share, 0, 0], 4 * v);
      }
      if (k === 0) continue;
      const q = 2 * (rings * g + k);
      indices.push(q - 2, q - 1, q, q - 1, q + 1, q);
    }
  });
  const n = guides.length * joints;
  const inverses = new Float64Array(16 * n);
  // Turns are counted from the first frame, so a bind is a place alone.
  chains.forEach((chain, g) => {
    for (let j = 0; j < joints; j++) {
      const p = chain.places.subarray(3 * j, 3 * j + 3);
      inverses.set([1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, -p[0]!, -p[1]!, -p[2]!, 1], 16 * (g * joints + j));
    }
  });
  return {
    ...{ name: 'Hair cards', places, normals, colours, uvs, indices: Float64Array.from(indices) },
    ...{ joints: held, shares, inverses, nodes: Array.from({ length: n }, (_, k) => k) },
  };
}

/** How far the middles of cards, carried by their joints, are from their guides. */
export function errorOf(
  guides: readonly Guide[],
  chains: readonly ReturnType<typeof chainOf>[],
  joints: number,
  rings: number,
): { rms: number; largest: number } {
  let [sum, count, largest] = [0, 0, 0];
  guides.forEach((guide, g) => {
    const frames = guide.curves.times.length;
    for (let k = 0; k < rings; k++) {
      const t = k / (rings - 1);
      const rest = along(guide, 0, t);
      const { j, next, share } = carriedBy(t, joints);
      for (let f = 0; f < frames; f++) {
        const [a, b] = [taken(rest, chains[g]!, joints, j, f), taken(rest, chains[g]!, joints, next, f)];
        const meant = along(guide, f, t);
        const off = [0, 1, 2].reduce((s, x) => s + ((1 - share) * a[x]! + share * b[x]! - meant[x]!) ** 2, 0);
        sum += off;
        count++;
        largest = Math.max(largest, off);
      }
    }
  });
  return { rms: 1000 * Math.sqrt(sum / Math.max(1, count)), largest: 1000 * Math.sqrt(largest) };
}
