import type { ClothStep } from '../../kernel/cloth/fields';
import type { Arena } from '../arena';
import type { Path, Sheet } from '../../sheets/index';

/** What a sheet is made of. */
export interface SheetMatter {
  /** kg/m² */
  readonly weight: number;
  /** N/m, 0 for as hard as can be: against lengthening and against shortening. */
  readonly stretch: number;
  readonly compression: number;
  /** Share of that stiffness that what runs across the threads has, and how far each edge does (0..1; null: none). */
  readonly shear?: number;
  readonly diagonal?: Float64Array | null;
  /** Bends back to flat rather than to its shape at rest. */
  readonly flat?: boolean;
  /** Bending rigidity, N m: the weight times the cube of the bending length. */
  readonly rigidity: number;
  /** Share of the bending length at each point; null for all of it everywhere. */
  readonly stiffer?: Float64Array | null;
}

/** Closed rims are so many times as stiff as the rest: they carry what hangs from them. */
const HEM = 10;
/** Mass that stands for a point that is held, kg. */
const HELD = 1e12;

/** Makes zeroed arrays of a step: ordinary ones, or in an arena. */
export interface Make {
  numbers(size: number): Float64Array;
  ints(size: number): Int32Array;
}

export const makeIn = (arena: Arena | null): Make =>
  arena
    ? { numbers: (n) => arena.alloc(n), ints: (n) => arena.allocInts(n) }
    : { numbers: (n) => new Float64Array(n), ints: (n) => new Int32Array(n) };

/** A path and where its numbers stand: of its point or edge j at 4 (slot + j) + lane, for a closed one at from + j. */
interface PlacedPath {
  readonly path: Path;
  readonly slot: number;
  readonly lane: number;
  readonly from: number;
}

/** All paths of a sheet in groups of four that share no point; see {@link ClothStep}. */
export interface Grouped {
  readonly placed: readonly PlacedPath[];
  /** First slot of each group and the edges of its longest path; edges of each path. */
  readonly group: readonly number[];
  readonly lanes: readonly number[];
  /** Where each closed path begins, and how many points it has. */
  readonly rim: readonly number[];
  readonly slots: number;
  /** Numbers of an array that has one by slot. */
  readonly size: number;
}

/** Puts paths in groups: each is filled with the next ones that share no point with it. */
export function groupPaths(paths: readonly Path[], points: number): Grouped {
  const placed: PlacedPath[] = [];
  const [group, lanes, rim] = [[], [], []] as number[][] as [number[], number[], number[]];
  const stamp = new Int32Array(points).fill(-1);
  const open = paths.filter((p) => !p.closed);
  const used = new Uint8Array(open.length);
  let slots = 0;
  open.forEach((first, i) => {
    if (used[i]) return;
    const g = group.length / 2;
    const own: Path[] = [];
    for (let k = i; k < open.length && own.length < 4; k++) {
      const path = open[k]!;
      if (used[k] || path.points.some((v) => stamp[v] === g)) continue;
      used[k] = 1;
      path.points.forEach((v) => (stamp[v] = g));
      own.push(path);
    }
    const longest = own.reduce((m, p) => Math.max(m, p.edges.length), first.edges.length);
    own.forEach((path, lane) => placed.push({ path, slot: slots, lane, from: 0 }));
    lanes.push(...[0, 1, 2, 3].map((lane) => own[lane]?.edges.length ?? 0));
    group.push(slots, longest);
    slots += longest + 1;
  });
  let size = 4 * slots;
  for (const path of paths) {
    if (!path.closed) continue;
    placed.push({ path, slot: 0, lane: 0, from: size });
    rim.push(size, path.edges.length);
    size += path.edges.length;
  }
  return { placed, group, lanes, rim, slots, size };
}

/** Fields that say where each path's edges and points stand. */
export function pathFields(
  { placed, group, lanes, rim, size }: Grouped,
  points: number,
  make: Make,
): Pick<ClothStep, 'groups' | 'rims' | 'group' | 'lanes' | 'rim' | 'pointAt' | 'rows'> {
  const ints = (from: readonly number[]) => {
    const out = make.ints(from.length);
    out.set(from);
    return out;
  };
  const pointAt = make.ints(size).fill(points);
  for (const p of placed)
    for (let j = 0; j < p.path.points.length; j++) {
      if (p.path.closed && j === p.path.edges.length) break;
      pointAt[placeOf(p, j)] = p.path.points[j]!;
    }
  const most = placed.reduce((n, { path }) => Math.max(n, path.points.length), 0);
  return {
    ...{ groups: group.length / 2, rims: rim.length / 2 },
    ...{ group: ints(group), lanes: ints(lanes), rim: ints(rim), pointAt },
    rows: make.numbers(20 * most + 20),
  };
}

/** Where a number of point or edge j of a path stands. */
export const placeOf = ({ path, slot, lane, from }: PlacedPath, j: number): number =>
  path.closed ? from + j : 4 * (slot + j) + lane;

/** Lengths of all paths' edges, and how much they give, m/N. */
export function lengthFields(
  sheet: Sheet,
  { placed, size }: Grouped,
  { stretch, compression, shear = 1, diagonal = null }: SheetMatter,
  make: Make,
): Pick<ClothStep, 'length' | 'gives' | 'giving'> {
  // What is no edge gives without end, so that nothing is pushed by it.
  const fill = (none: number, of: (e: number, hem: number) => number) => {
    const out = make.numbers(size).fill(none);
    for (const p of placed)
      p.path.edges.forEach(
        (e, j) => (out[placeOf(p, j)] = of(e, p.path.closed && sheet.faces[e]! > 0 ? HEM : 1)),
      );
    return out;
  };
  const softness = (stiffness: number) => (e: number, hem: number) => {
    const skews = diagonal ? 1 - diagonal[e]! * (1 - shear) : 1;
    const k = stiffness * sheet.share[e]! * hem * skews;
    return k > 0 ? 1 / k : 0;
  };
  return {
    length: fill(0, (e) => sheet.length[e]!),
    gives: fill(Infinity, softness(stretch)),
    giving: fill(Infinity, softness(compression)),
  };
}

interface BendNeeds {
  readonly sheet: Sheet;
  readonly paths: Grouped;
  /** Unit normals at rest, 3 numbers a point. */
  readonly normals: Float64Array;
  /** N m */
  readonly rigidity: number;
  readonly stiffer: Float64Array | null;
  readonly flat: boolean;
  readonly mass: Float64Array;
  readonly w: Float64Array;
  /** 9/(4 h²) */
  readonly perStep: number;
}

/**
 * Second differences along paths, E = ½ Σ B A |κ − κ₀|², with the constant pentadiagonal factors of an implicit step.
 * κ₀ is said along the normal and across the path, so that it turns with the sheet: what is made curved rests curved.
 */
export function bendFields(
  needs: BendNeeds,
  make: Make,
): Pick<ClothStep, 'bends' | 'curve' | 'aims' | 'factors'> {
  const { sheet, paths } = needs;
  const out = {
    bends: make.numbers(12 * paths.slots),
    curve: make.numbers(8 * paths.slots),
    aims: make.numbers(12 * paths.slots),
    factors: make.numbers(12 * paths.slots),
  };
  const crossed = new Uint8Array(sheet.points);
  const open = paths.placed.filter(({ path }) => !path.closed);
  for (const { path } of open) for (const v of path.points.subarray(1, -1)) crossed[v]!++;
  for (const p of open) if (p.path.edges.length >= 2) bendPath(needs, p, crossed, out);
  return out;
}

/** Puts numbers where a path's own stand in a slot. */
function putIn(list: Float64Array, { slot, lane }: PlacedPath, j: number, numbers: readonly number[]): void {
  numbers.forEach((v, q) => (list[4 * (numbers.length * (slot + j) + q) + lane] = v));
}

function bendPath(
  { sheet, normals, rigidity, stiffer, flat, mass, w, perStep }: BendNeeds,
  placed: PlacedPath,
  crossed: Uint8Array,
  out: Pick<ClothStep, 'bends' | 'curve' | 'factors'>,
): void {
  const { path } = placed;
  const { points } = path;
  const m = points.length;
  const [d, e1, e2] = [new Float64Array(m), new Float64Array(m), new Float64Array(m)];
  points.forEach((v, j) => (d[j] = w[v] === 0 ? HELD : perStep * mass[v]!));
  const { rest: x, area, length } = sheet;
  for (let j = 1; j < m - 1; j++) {
    const v = points[j]!;
    const [l1, l2] = [length[path.edges[j - 1]!]!, length[path.edges[j]!]!];
    const [a, c] = [2 / (l1 * (l1 + l2)), 2 / (l2 * (l1 + l2))];
    // Three directions at a point share out what a plate bends by in all.
    const stiff = rigidity * (stiffer ? stiffer[v]! ** 3 : 1);
    const k = stiff * area[v]! * Math.min(1, 8 / (3 * crossed[v]!));
    putIn(out.bends, placed, j, [a, c, k]);
    const b = -a - c;
    d[j - 1]! += k * a * a;
    d[j]! += k * b * b;
    d[j + 1]! += k * c * c;
    e1[j - 1]! += k * a * b;
    e1[j]! += k * b * c;
    e2[j - 1]! += k * a * c;
    if (flat) continue;
    const [p, o, q] = [3 * points[j - 1]!, 3 * v, 3 * points[j + 1]!];
    const bend = [0, 1, 2].map((i) => a * (x[p + i]! - x[o + i]!) + c * (x[q + i]! - x[o + i]!));
    const n = normals.subarray(o, o + 3);
    const along = [0, 1, 2].map((i) => x[q + i]! - x[p + i]!) as [number, number, number];
    const across = [
      n[1]! * along[2] - n[2]! * along[1],
      n[2]! * along[0] - n[0]! * along[2],
      n[0]! * along[1] - n[1]! * along[0],
    ];
    const size = Math.sqrt(across.reduce((s, v) => s + v * v, 1e-30));
    const dot = (u: ArrayLike<number>) => bend[0]! * u[0]! + bend[1]! * u[1]! + bend[2]! * u[2]!;
    putIn(out.curve, placed, j, [dot(n), dot(across) / size]);
  }
  factor(d, e1, e2).forEach((row, j) => putIn(out.factors, placed, j, row));
}

/** LDLᵀ of a symmetric pentadiagonal matrix: for each row its two factors below the diagonal, and 1/D. */
function factor(d: Float64Array, e1: Float64Array, e2: Float64Array): [number, number, number][] {
  const big = new Float64Array(d.length);
  const out: [number, number, number][] = [];
  for (let j = 0; j < d.length; j++) {
    const l2 = j > 1 ? e2[j - 2]! / big[j - 2]! : 0;
    const l1 = j > 0 ? (e1[j - 1]! - (j > 1 ? l2 * big[j - 2]! * out[j - 1]![0] : 0)) / big[j - 1]! : 0;
    big[j] = d[j]! - (j > 1 ? l2 * l2 * big[j - 2]! : 0) - (j > 0 ? l1 * l1 * big[j - 1]! : 0);
    out.push([l1, l2, 1 / big[j]!]);
  }
  return out;
}
