import { reachFrom, type PaintMesh } from './mesh';

/** What a brush does where it goes. */
export const BRUSHES = ['paint', 'erase', 'soften', 'level'] as const;
export type BrushKind = (typeof BRUSHES)[number];

export interface Brush {
  readonly kind: BrushKind;
  /** What it paints, a share from 0 to 1. */
  readonly value: number;
  /** Along the surface, in the unit of the mesh's places. */
  readonly radius: number;
  /** 0..1 */
  readonly strength: number;
  /** 0 has a hard edge; 1 falls off from the middle. */
  readonly falloff: number;
  /** The point across the middle of each point, or null to paint one side alone. */
  readonly partners: Int32Array | null;
}

/** How strongly a brush acts at a distance from its middle, 0..1. */
export function fallOff({ radius, strength, falloff }: Brush, distance: number): number {
  const t = radius > 0 ? distance / radius : 0;
  const edge = 1 - falloff;
  if (t <= edge) return strength;
  const u = Math.min(1, (t - edge) / Math.max(falloff, 1e-9));
  return strength * (1 - u * u * (3 - 2 * u));
}

/**
 * One stroke over a map of shares, a point each. Going over a place twice in a stroke does not paint it twice;
 * softening goes on while the brush moves.
 */
export class Stroke {
  private readonly before: Float64Array;
  private readonly acted: Float64Array;
  private aim: number | null = null;

  constructor(
    private readonly mesh: PaintMesh,
    readonly values: Float64Array,
    private readonly brush: Brush,
  ) {
    this.before = Float64Array.from(values);
    this.acted = new Float64Array(values.length);
  }

  /** Puts the brush down at a point. */
  dab(point: number): void {
    const { mesh, brush, values } = this;
    // Level spreads what it was put down on first.
    this.aim ??= { paint: brush.value, erase: 0, level: values[point]!, soften: 0 }[brush.kind];
    const mirrored = brush.partners?.[point] ?? -1;
    for (const middle of mirrored >= 0 && mirrored !== point ? [point, mirrored] : [point]) {
      const reached = reachFrom(mesh, middle, brush.radius);
      if (brush.kind === 'soften') this.soften(reached);
      else for (const p of reached) this.act(p, fallOff(brush, mesh.distance[p]!));
    }
  }

  private act(p: number, by: number): void {
    const { acted, before, values } = this;
    acted[p] = Math.max(acted[p]!, by);
    values[p] = before[p]! + acted[p]! * (this.aim! - before[p]!);
  }

  private soften(reached: readonly number[]): void {
    const { mesh, values, brush } = this;
    const next = reached.map((p) => {
      const by = fallOff(brush, mesh.distance[p]!);
      return values[p]! + by * (meanBeside(mesh, values, p) - values[p]!);
    });
    reached.forEach((p, k) => (values[p] = next[k]!));
  }
}

/** Mean of a point's neighbours; its own value when it has none. */
function meanBeside({ from, beside }: PaintMesh, values: Float64Array, p: number): number {
  const [a, b] = [from[p]!, from[p + 1]!];
  if (a === b) return values[p]!;
  let sum = 0;
  for (let k = a; k < b; k++) sum += values[beside[k]!]!;
  return sum / (b - a);
}

/** The whole map made softer once. */
export const softened = (mesh: PaintMesh, values: Float64Array): Float64Array =>
  values.map((v, p) => (v + meanBeside(mesh, values, p)) / 2);

/** High values grown over their neighbours, or low ones. */
export const grown = ({ from, beside }: PaintMesh, values: Float64Array, high: boolean): Float64Array =>
  values.map((v, p) => {
    let out = v;
    for (let k = from[p]!; k < from[p + 1]!; k++)
      out = high ? Math.max(out, values[beside[k]!]!) : Math.min(out, values[beside[k]!]!);
    return out;
  });

export const inverted = (values: Float64Array): Float64Array => values.map((v) => 1 - v);

/** One side copied to the other: points with x above the middle give theirs to their partners, or those below. */
export const mirrored = (
  { sheet }: PaintMesh,
  values: Float64Array,
  partners: Int32Array,
  middle: number,
  above: boolean,
): Float64Array =>
  values.map((v, p) => {
    const q = partners[p]!;
    const takes = above ? sheet.rest[3 * p]! < middle : sheet.rest[3 * p]! > middle;
    return q >= 0 && takes ? values[q]! : v;
  });

/** From 0 where `along` is at most `low` to 1 where it is at least `high`, evenly between. */
export const gradient = (along: Float64Array, low: number, high: number): Float64Array =>
  along.map((x) => Math.min(1, Math.max(0, high !== low ? (x - low) / (high - low) : Number(x > low))));
