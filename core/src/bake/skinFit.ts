import { fitRigid } from './rigid';
import { INFLUENCES, sharesOf } from './shares';

/** Vertices that move, and what may carry them. Places are m; a move is a 3 × 4 matrix, row after row. */
export interface SkinTask {
  readonly vertices: number;
  readonly frames: number;
  /** Where each vertex is before anything carries it. */
  readonly rest: Float64Array;
  /** Where each has to be, frame after frame. */
  readonly places: ArrayLike<number>;
  /** Joints that there are: how each moves what it carries, joint after joint in each frame. */
  readonly had: { readonly count: number; readonly moves: Float64Array };
  /** Whether a vertex keeps the joints and shares it has: 4 of each a vertex, numbered as `had`. */
  readonly kept: Uint8Array;
  readonly joints: ArrayLike<number>;
  readonly shares: ArrayLike<number>;
}

/** Vertices carried by the joints there were and by new ones, which are numbered after those. */
export interface SkinFit {
  /** 4 a vertex; shares sum to 1. */
  readonly joints: Uint16Array;
  readonly shares: Float32Array;
  /** What each new joint carries has its middle here at rest: 3 numbers each, m. */
  readonly middles: Float64Array;
  /** How each new joint moves what it carries, as {@link SkinTask.had} of the others. */
  readonly moves: Float64Array;
}

/** What is left over, m: RMS over all vertices and frames, and the largest. */
export interface LeftOver {
  readonly rms: number;
  readonly largest: number;
  /** The frame on which a vertex is farthest off, and what is left of each vertex's place there, m. */
  readonly worst: number;
  readonly left: Float64Array;
}

const CANDIDATES = 8;
/** Rounds of grouping, and of weights and moves in turns. */
const GROUPINGS = 3;
const ROUNDS = 6;

/**
 * Fits weights and new joints to vertices that move: groups that move as one, then weights (constrained least squares,
 * at most 4 a vertex) and rigid moves (Procrustes) in turns. After Le and Deng, Smooth skinning decomposition with
 * rigid bones, 2012. There are fewer new joints than asked when there are fewer vertices to carry.
 */
export function fitSkin(task: SkinTask, wanted: number): SkinFit {
  const { vertices, had, kept, rest } = task;
  const free = Array.from({ length: vertices }, (_, v) => v).filter((v) => !kept[v]);
  const count = Math.min(wanted, free.length);
  let group = groupsOf(task, free, count);
  for (let k = 0; k < GROUPINGS; k++) {
    const moves = allMoves(task, poseNew(task, oneEach(task, group), count), count);
    group = nearestOf(task, free, errorsOf(task, free, moves, count), count);
  }
  let fit = oneEach(task, group);
  let moves = poseNew(task, fit, count);
  for (let k = 0; k < ROUNDS; k++) {
    fit = weigh(task, free, allMoves(task, moves, count), count);
    moves = poseNew(task, fit, count, moves);
  }
  const middles = new Float64Array(3 * count);
  const sums = new Float64Array(count);
  for (const v of free)
    for (let q = 0; q < INFLUENCES; q++) {
      const b = fit.joints[INFLUENCES * v + q]! - had.count;
      const w = fit.shares[INFLUENCES * v + q]!;
      if (b < 0 || w === 0) continue;
      sums[b]! += w;
      for (let a = 0; a < 3; a++) middles[3 * b + a]! += w * rest[3 * v + a]!;
    }
  for (let k = 0; k < middles.length; k++) middles[k]! /= sums[Math.floor(k / 3)]! || 1;
  return { ...fit, middles, moves };
}

/** Groups of vertices about places that are far from each other: −1 for those that keep what they have. */
function groupsOf({ vertices, rest }: SkinTask, free: readonly number[], count: number): Int32Array {
  const group = new Int32Array(vertices).fill(-1);
  const far = new Float64Array(vertices).fill(Infinity);
  let next = free[0] ?? 0;
  for (let b = 0; b < count; b++) {
    let [farthest, at] = [-1, next];
    for (const v of free) {
      let d = 0;
      for (let a = 0; a < 3; a++) d += (rest[3 * v + a]! - rest[3 * next + a]!) ** 2;
      if (d < far[v]!) {
        far[v] = d;
        group[v] = b;
      }
      if (far[v]! > farthest) [farthest, at] = [far[v]!, v];
    }
    next = at;
  }
  return group;
}

/** Each vertex of a group carried by its joint alone. */
function oneEach({ vertices, had, joints, shares }: SkinTask, group: Int32Array) {
  const out = { joints: Uint16Array.from(joints), shares: Float32Array.from(shares) };
  for (let v = 0; v < vertices; v++) {
    if (group[v]! < 0) continue;
    for (let q = 0; q < INFLUENCES; q++) {
      out.joints[INFLUENCES * v + q] = q === 0 ? had.count + group[v]! : 0;
      out.shares[INFLUENCES * v + q] = q === 0 ? 1 : 0;
    }
  }
  return out;
}

/** Squared errors over all frames when a joint carries a vertex alone: vertex after vertex, all joints in each. */
function errorsOf(task: SkinTask, free: readonly number[], moves: Float64Array, count: number): Float64Array {
  const { frames, rest, places, vertices, had } = task;
  const all = had.count + count;
  const out = new Float64Array(free.length * all);
  for (let f = 0; f < frames; f++)
    for (let i = 0; i < free.length; i++) {
      const v = 3 * free[i]!;
      const o = 3 * vertices * f + v;
      const [x, y, z] = [rest[v]!, rest[v + 1]!, rest[v + 2]!];
      const px = places[o]!;
      const py = places[o + 1]!;
      const pz = places[o + 2]!;
      for (let b = 0, m = 12 * all * f; b < all; b++, m += 12) {
        const dx = moves[m]! * x + moves[m + 1]! * y + moves[m + 2]! * z + moves[m + 3]! - px;
        const dy = moves[m + 4]! * x + moves[m + 5]! * y + moves[m + 6]! * z + moves[m + 7]! - py;
        const dz = moves[m + 8]! * x + moves[m + 9]! * y + moves[m + 10]! * z + moves[m + 11]! - pz;
        out[i * all + b]! += dx * dx + dy * dy + dz * dz;
      }
    }
  return out;
}

/** The group of the new joint that carries each vertex best; a joint that carries none gets the worst carried one. */
function nearestOf(
  { vertices, had }: SkinTask,
  free: readonly number[],
  errors: Float64Array,
  count: number,
): Int32Array {
  const all = had.count + count;
  const group = new Int32Array(vertices).fill(-1);
  const size = new Int32Array(count);
  const least = new Float64Array(free.length);
  free.forEach((v, i) => {
    let best = 0;
    const at = i * all + had.count;
    for (let b = 1; b < count; b++) if (errors[at + b]! < errors[at + best]!) best = b;
    group[v] = best;
    least[i] = errors[at + best]!;
    size[best]!++;
  });
  for (let b = 0; b < count; b++) {
    if (size[b] !== 0) continue;
    let worst = -1;
    for (let i = 0; i < free.length; i++)
      if (size[group[free[i]!]!]! > 1 && (worst < 0 || least[i]! > least[worst]!)) worst = i;
    if (worst < 0) continue;
    size[group[free[worst]!]!]!--;
    group[free[worst]!] = b;
    size[b] = 1;
    least[worst] = 0;
  }
  return group;
}

/** How all joints move what they carry, old and new, frame after frame. */
function allMoves({ frames, had }: SkinTask, turns: Float64Array, count: number): Float64Array {
  const all = had.count + count;
  const out = new Float64Array(12 * all * frames);
  for (let f = 0; f < frames; f++) {
    out.set(had.moves.subarray(12 * had.count * f, 12 * had.count * (f + 1)), 12 * all * f);
    out.set(turns.subarray(12 * count * f, 12 * count * (f + 1)), 12 * (all * f + had.count));
  }
  return out;
}

/** What each new joint carries: its vertices, with their shares. */
function carriedBy(
  { vertices, had, kept }: SkinTask,
  fit: Pick<SkinFit, 'joints' | 'shares'>,
  count: number,
) {
  const lists = Array.from({ length: count }, () => ({ v: [] as number[], w: [] as number[] }));
  for (let v = 0; v < vertices; v++)
    for (let q = 0; q < INFLUENCES && !kept[v]; q++) {
      const b = fit.joints[INFLUENCES * v + q]! - had.count;
      const w = fit.shares[INFLUENCES * v + q]!;
      if (b < 0 || w === 0) continue;
      lists[b]!.v.push(v);
      lists[b]!.w.push(w);
    }
  return lists;
}

/**
 * How the new joints have to move what they carry with these shares: a rigid move for each in each frame, bettered
 * from those there are.
 */
export function poseNew(
  task: SkinTask,
  fit: Pick<SkinFit, 'joints' | 'shares'>,
  count: number,
  from: Float64Array | null = null,
): Float64Array {
  const { frames, vertices, rest } = task;
  const out = new Float64Array(12 * count * frames);
  const lists = carriedBy(task, fit, count);
  const left = new Float64Array(3 * vertices);
  for (let f = 0; f < frames; f++) {
    const at = 12 * count * f;
    const own = out.subarray(at, at + 12 * count);
    if (from) own.set(from.subarray(at, at + own.length));
    else if (f === 0) for (let b = 0; b < count; b++) own.set([1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0], 12 * b);
    else own.set(out.subarray(at - 12 * count, at));
    remainder(task, fit, f, own, left);
    // One joint after the other, each with what the others leave; twice, since each changes what is left.
    for (let sweep = 0; sweep < 2; sweep++)
      lists.forEach(({ v, w }, b) => {
        const move = own.subarray(12 * b, 12 * b + 12);
        carry(left, rest, v, w, move, 1);
        fitRigid(move, rest, left, v, w);
        carry(left, rest, v, w, move, -1);
      });
  }
  return out;
}

/** Adds what a joint carries to `left`, or takes it away. */
function carry(
  left: Float64Array,
  rest: Float64Array,
  vertices: readonly number[],
  shares: readonly number[],
  m: Float64Array,
  sign: number,
): void {
  for (let i = 0; i < vertices.length; i++) {
    const o = 3 * vertices[i]!;
    const s = sign * shares[i]!;
    const x = rest[o]!;
    const y = rest[o + 1]!;
    const z = rest[o + 2]!;
    left[o]! += s * (m[0]! * x + m[1]! * y + m[2]! * z + m[3]!);
    left[o + 1]! += s * (m[4]! * x + m[5]! * y + m[6]! * z + m[7]!);
    left[o + 2]! += s * (m[8]! * x + m[9]! * y + m[10]! * z + m[11]!);
  }
}

/** What all joints leave of each vertex's place in a frame. */
function remainder(
  { vertices, rest, places, had }: SkinTask,
  { joints, shares }: Pick<SkinFit, 'joints' | 'shares'>,
  f: number,
  moves: Float64Array,
  left: Float64Array,
): void {
  for (let v = 0; v < vertices; v++) {
    const [x, y, z] = [rest[3 * v]!, rest[3 * v + 1]!, rest[3 * v + 2]!];
    const o = 3 * (vertices * f + v);
    for (let a = 0; a < 3; a++) left[3 * v + a] = places[o + a]!;
    for (let q = 0; q < INFLUENCES; q++) {
      const w = shares[INFLUENCES * v + q]!;
      if (w === 0) continue;
      const j = joints[INFLUENCES * v + q]!;
      const [m, k] =
        j < had.count ? [had.moves, 12 * (had.count * f + j)] : ([moves, 12 * (j - had.count)] as const);
      for (let a = 0; a < 3; a++)
        left[3 * v + a]! -=
          w * (m[k + 4 * a]! * x + m[k + 4 * a + 1]! * y + m[k + 4 * a + 2]! * z + m[k + 4 * a + 3]!);
    }
  }
}

/** Shares of the joints that carry each vertex best, at most four: they sum to 1 and none is negative. */
function weigh(task: SkinTask, free: readonly number[], moves: Float64Array, count: number) {
  const { had, frames, rest, places, vertices } = task;
  const all = had.count + count;
  const errors = errorsOf(task, free, moves, count);
  const out = { joints: Uint16Array.from(task.joints), shares: Float32Array.from(task.shares) };
  const n = Math.min(CANDIDATES, all);
  const gram = new Float64Array(n * n);
  const off = new Float64Array(3 * n);
  free.forEach((v, i) => {
    const near = Array.from({ length: all }, (_, b) => b)
      .sort((a, b) => errors[i * all + a]! - errors[i * all + b]! || a - b)
      .slice(0, n);
    gram.fill(0);
    for (let f = 0; f < frames; f++) {
      const o = 3 * (vertices * f + v);
      for (let c = 0; c < n; c++) {
        const m = 12 * (all * f + near[c]!);
        for (let a = 0; a < 3; a++)
          off[3 * c + a] =
            moves[m + 4 * a]! * rest[3 * v]! +
            moves[m + 4 * a + 1]! * rest[3 * v + 1]! +
            moves[m + 4 * a + 2]! * rest[3 * v + 2]! +
            moves[m + 4 * a + 3]! -
            places[o + a]!;
      }
      for (let c = 0; c < n; c++)
        for (let d = 0; d <= c; d++)
          gram[c * n + d]! +=
            off[3 * c]! * off[3 * d]! + off[3 * c + 1]! * off[3 * d + 1]! + off[3 * c + 2]! * off[3 * d + 2]!;
    }
    const shares = sharesOf(gram, n);
    let q = INFLUENCES * v;
    out.joints.fill(0, q, q + INFLUENCES);
    out.shares.fill(0, q, q + INFLUENCES);
    for (let c = 0; c < n; c++)
      if (shares[c]! > 0) {
        out.joints[q] = near[c]!;
        out.shares[q++] = shares[c]!;
      }
  });
  return out;
}

/** What is left over when the joints move so. */
export function skinLeftOver(task: SkinTask, fit: SkinFit, moves: Float64Array): LeftOver {
  const { frames, vertices } = task;
  const count = fit.middles.length / 3;
  const left = new Float64Array(3 * vertices);
  let [sum, largest, worst] = [0, 0, 0];
  for (let f = 0; f < frames; f++) {
    remainder(task, fit, f, moves.subarray(12 * count * f, 12 * count * (f + 1)), left);
    for (let o = 0; o < left.length; o += 3) {
      const off = left[o]! ** 2 + left[o + 1]! ** 2 + left[o + 2]! ** 2;
      sum += off;
      if (off > largest) [largest, worst] = [off, f];
    }
  }
  remainder(task, fit, worst, moves.subarray(12 * count * worst, 12 * count * (worst + 1)), left);
  return { rms: Math.sqrt(sum / Math.max(1, frames * vertices)), largest: Math.sqrt(largest), worst, left };
}
