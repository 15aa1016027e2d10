import type { ClothStep } from '../../kernel/cloth/fields';
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

/** Numbers of arrays that {@link ClothStep} has: they are made at one place, ordinary or in an arena. */
export type Make = (size: number) => Float64Array;

/** Fields that say where each path's edges and points stand. */
export function pathFields(paths: readonly Path[], make: Make): Pick<ClothStep, 'path' | 'pointAt' | 'rows'> {
  const [path, pointAt] = [make(4 * paths.length), make(paths.reduce((n, p) => n + p.points.length, 0))];
  let [edges, points] = [0, 0];
  paths.forEach((p, k) => {
    path.set([edges, points, p.edges.length, Number(p.closed)], 4 * k);
    pointAt.set(p.points, points);
    edges += p.edges.length;
    points += p.points.length;
  });
  const most = paths.reduce((n, p) => Math.max(n, p.points.length), 0);
  return { path, pointAt, rows: make(7 * most + 7) };
}

/** Lengths of all paths' edges, and how much they give, m/N. */
export function lengthFields(
  sheet: Sheet,
  paths: readonly Path[],
  { stretch, compression, shear = 1, diagonal = null }: SheetMatter,
  make: Make,
): Pick<ClothStep, 'length' | 'gives' | 'giving'> {
  const all = paths.flatMap((p) => Array.from(p.edges, (e) => [e, p.closed ? HEM : 1] as const));
  const fill = (of: (e: number, hem: number) => number) => {
    const out = make(all.length);
    all.forEach(([e, hem], k) => (out[k] = of(e, hem)));
    return out;
  };
  const softness = (stiffness: number) => (e: number, hem: number) => {
    const skews = diagonal ? 1 - diagonal[e]! * (1 - shear) : 1;
    const k = stiffness * sheet.share[e]! * hem * skews;
    return k > 0 ? 1 / k : 0;
  };
  return {
    length: fill((e) => sheet.length[e]!),
    gives: fill(softness(stretch)),
    giving: fill(softness(compression)),
  };
}

interface BendNeeds {
  readonly sheet: Sheet;
  readonly paths: readonly Path[];
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
  const points = paths.reduce((n, p) => n + p.points.length, 0);
  const out = {
    bends: make(3 * points),
    curve: make(2 * points),
    aims: make(3 * points),
    factors: make(3 * points),
  };
  const crossed = new Uint8Array(sheet.points);
  for (const p of paths) if (!p.closed) for (const v of p.points.subarray(1, -1)) crossed[v]!++;
  let from = 0;
  for (const path of paths) {
    if (!path.closed && path.edges.length >= 2) bendPath(needs, path, crossed, out, from);
    from += path.points.length;
  }
  return out;
}

function bendPath(
  { sheet, normals, rigidity, stiffer, flat, mass, w, perStep }: BendNeeds,
  path: Path,
  crossed: Uint8Array,
  out: Pick<ClothStep, 'bends' | 'curve' | 'factors'>,
  from: number,
): void {
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
    out.bends.set([a, c, k], 3 * (from + j));
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
    out.curve.set([dot(n), dot(across) / size], 2 * (from + j));
  }
  factor(d, e1, e2, out.factors.subarray(3 * from, 3 * (from + m)));
}

/** LDLᵀ of a symmetric pentadiagonal matrix: for each row its two factors below the diagonal, and 1/D. */
function factor(d: Float64Array, e1: Float64Array, e2: Float64Array, out: Float64Array): void {
  const big = new Float64Array(d.length);
  for (let j = 0; j < d.length; j++) {
    const l2 = j > 1 ? e2[j - 2]! / big[j - 2]! : 0;
    const l1 = j > 0 ? (e1[j - 1]! - (j > 1 ? l2 * big[j - 2]! * out[3 * j - 3]! : 0)) / big[j - 1]! : 0;
    big[j] = d[j]! - (j > 1 ? l2 * l2 * big[j - 2]! : 0) - (j > 0 ? l1 * l1 * big[j - 1]! : 0);
    out.set([l1, l2, 1 / big[j]!], 3 * j);
  }
}
