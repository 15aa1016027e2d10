import { nearestTo } from '../../kernel/search/shapes';
import { toBody, toWorld, type Body } from '../bodies';
import { SHAPE, sizesOf, type Shape } from '../shapes';

/** A body in a step of the sheet, which may be a part of a longer one of the shot. */
export interface StepBody extends Body {
  /** The body over the shot's whole step, and the shares of it at which this step starts and ends. */
  readonly whole: Body;
  from: number;
  to: number;
}

/** A body that a sheet's own step has to itself. */
export const wholeStep = (body: Body): StepBody => ({ ...body, whole: body, from: 0, to: 1 });

/** Where a body stands to one point of a sheet: what {@link Probe.gap} and {@link Probe.depth} leave behind. */
export interface Found {
  /** Unit normal of the body at the place nearest to the point, out of it. */
  readonly normal: Float64Array;
  /** How far the step carries that place, m. */
  readonly carried: Float64Array;
}

/** One body as the points of a sheet feel it. Distances are signed, m: negative inside. `o` is 3 times the point. */
export interface Probe {
  readonly body: StepBody;
  /**
   * Puts it where it stands in the coming step of points at `x`; `fresh` is the first of a frame.
   */
  ready(fresh: boolean, x: Float64Array): void;
  /** By how much less the point can be away from it than a step ago, m: asked once a step. */
  shrinks(i: number, x: Float64Array, gone: number): number;
  /** Whether the point can be measured without a look all round. */
  knows(i: number): boolean;
  /** How far the point is from it at least; exact when that is below `reach`. */
  far(i: number, x: Float64Array, reach: number, pressed: boolean): number;
  /** Distance of the point less `thickness`, with normal and move. A point does not come out at the other side. */
  gap(i: number, x: Float64Array, old: Float64Array, thickness: number): number;
  /** Distance of the point at the end of the step, with the normal. Looks for it everywhere when `anew`. */
  depth(i: number, x: Float64Array, anew: boolean): number;
  readonly found: Found;
  /** All that it remembers from step to step. */
  readonly memory: readonly Float64Array[];
}

const place = new Float64Array(4);
const nearest = new Float64Array(5);
const segment = new Float64Array(6);

/** Signed distance of a place in the shape's own space, and the normal (into `place`: distance, x y z). */
function distanceTo(
  shape: Exclude<Shape, { kind: 'mesh' }>,
  size: readonly [number, number, number],
  x: number,
  y: number,
  z: number,
): void {
  segment[0] = segment[3] = x;
  segment[1] = segment[4] = y;
  segment[2] = segment[5] = z;
  nearestTo(nearest, SHAPE[shape.kind], size[0], size[1], size[2], segment);
  for (let a = 0; a < 4; a++) place[a] = nearest[1 + a]!;
}

/** Turns the normal in `place` from the body's own space into the world's. */
function turned(out: Float64Array, placed: Float64Array): void {
  const x = placed[3]!;
  const y = placed[4]!;
  const z = placed[5]!;
  const w = placed[6]!;
  const vx = place[1]!;
  const vy = place[2]!;
  const vz = place[3]!;
  const tx = 2 * (y * vz - z * vy);
  const ty = 2 * (z * vx - x * vz);
  const tz = 2 * (x * vy - y * vx);
  out[0] = vx + w * tx + y * tz - z * ty;
  out[1] = vy + w * ty + z * tx - x * tz;
  out[2] = vz + w * tz + x * ty - y * tx;
}

/** A body that keeps its shape. */
export class RigidProbe implements Probe {
  readonly found: Found = { normal: new Float64Array(3), carried: new Float64Array(3) };
  readonly memory: readonly Float64Array[] = [];
  private readonly size: readonly [number, number, number];
  private moved = 0;
  private readonly local = new Float64Array(3);
  private readonly was = new Float64Array(3);

  constructor(
    readonly body: StepBody,
    private readonly shape: Exclude<Shape, { kind: 'mesh' }>,
  ) {
    this.size = sizesOf(shape);
  }

  ready(): void {
    const { before, now, bound, fixed } = this.body;
    this.moved = 0;
    if (fixed) return;
    const travel = Math.sqrt(
      (now[0]! - before[0]!) ** 2 + (now[1]! - before[1]!) ** 2 + (now[2]! - before[2]!) ** 2,
    );
    // The chord of a turn is twice the sine of half its angle.
    const dot = before[3]! * now[3]! + before[4]! * now[4]! + before[5]! * now[5]! + before[6]! * now[6]!;
    const turn = 2 * Math.sqrt(Math.max(0, 1 - dot * dot));
    this.moved = travel + (bound === Infinity ? 0 : turn * bound);
  }

  shrinks(_: number, __: Float64Array, gone: number): number {
    return gone + this.moved;
  }

  knows(): boolean {
    return true;
  }

  far(i: number, x: Float64Array, reach: number): number {
    const away = beyond(this.body, x, 3 * i);
    return away > reach ? away : this.measure(x, 3 * i);
  }

  private measure(x: Float64Array, o: number): number {
    toBody(this.local, this.body.now, x[o]!, x[o + 1]!, x[o + 2]!);
    distanceTo(this.shape, this.size, this.local[0]!, this.local[1]!, this.local[2]!);
    return place[0]!;
  }

  depth(i: number, x: Float64Array): number {
    const d = this.measure(x, 3 * i);
    turned(this.found.normal, this.body.now);
    return d;
  }

  gap(i: number, x: Float64Array, old: Float64Array, thickness: number): number {
    const { local, was, body, shape, size } = this;
    const o = 3 * i;
    toBody(local, body.now, x[o]!, x[o + 1]!, x[o + 2]!);
    toBody(was, body.before, old[o]!, old[o + 1]!, old[o + 2]!);
    const run = (local[0]! - was[0]!) ** 2 + (local[1]! - was[1]!) ** 2 + (local[2]! - was[2]!) ** 2;
    let px = local[0]!;
    let py = local[1]!;
    let pz = local[2]!;
    if (run > 0.25 * thickness * thickness) {
      // Fast: it may not pass the plane it was before.
      distanceTo(shape, size, was[0]!, was[1]!, was[2]!);
      const start = place[0]!;
      const behind =
        start + place[1]! * (px - was[0]!) + place[2]! * (py - was[1]!) + place[3]! * (pz - was[2]!);
      if (start > 0 && behind < 0) {
        px -= behind * place[1]!;
        py -= behind * place[2]!;
        pz -= behind * place[3]!;
      }
    }
    distanceTo(shape, size, px, py, pz);
    const gap =
      place[0]! +
      place[1]! * (local[0]! - px) +
      place[2]! * (local[1]! - py) +
      place[3]! * (local[2]! - pz) -
      thickness;
    turned(this.found.normal, body.now);
    // The place on the body, in its own space, and how far the step carries it.
    const { carried } = this.found;
    for (let a = 0; a < 3; a++) local[a]! -= (gap + thickness) * place[1 + a]!;
    toWorld(carried, body.now, local);
    toWorld(was, body.before, local);
    for (let a = 0; a < 3; a++) carried[a]! -= was[a]!;
    return gap;
  }
}

/** How far a point is outside the ball about a body, m. */
export function beyond({ now, bound }: Body, x: Float64Array, o: number): number {
  if (bound === Infinity) return -Infinity;
  const dx = x[o]! - now[0]!;
  const dy = x[o + 1]! - now[1]!;
  const dz = x[o + 2]! - now[2]!;
  return Math.sqrt(dx * dx + dy * dy + dz * dz) - bound;
}
