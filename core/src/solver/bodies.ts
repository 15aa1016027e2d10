import { pointToBody } from '../kernel/search/space';
import { quatMultiply, quatNormalise, quatRotate } from '../math/index';
import { boundOf, type Shape } from './shapes';

/** A collider in motion: where it is at the start and at the end of the step, m and unit quaternions. */
export interface Body {
  readonly shape: Shape;
  /** Radius about its origin that holds all of it; for a mesh it changes with it. */
  bound: number;
  /** x y z, then the turn x y z w. */
  readonly before: Float64Array;
  readonly now: Float64Array;
  /** Both, one after the other: they are views of it. */
  readonly places: Float64Array;
  /** Whether it stands where it was first put for good. */
  fixed: boolean;
  readonly friction: number;
  readonly bounce: number;
  readonly free: FreeMotion | null;
  /** The link of another chain that this body stands for, or null. */
  readonly link: LinkBody | null;
  /** The soft body whose surface it is, or null. */
  readonly soft: SoftBodySkin | null;
}

/** The surface of a soft body as something others touch. */
export interface SoftBodySkin {
  /** Lowest and highest corner of the box about it, m. */
  readonly box: Float64Array;
  /** How readily the place of it that is nearest gives way, 1/kg. */
  gives(x: number, y: number, z: number): number;
  /** An impulse on that place that waits for its next step, N s. */
  push(x: number, y: number, z: number, px: number, py: number, pz: number): void;
  /**
   * The same, given over its next few steps, of what does not know how readily it gives way: what carries that place
   * is made no faster by it than `most`, m/s, beside its own weight.
   */
  lean(x: number, y: number, z: number, px: number, py: number, pz: number, most: number): void;
  /** For what is as light as what touches it. */
  readonly light?: LightSkin;
}

/** A surface that is as light as what touches it: it gives way to all that meets it in a step at once. */
export interface LightSkin {
  /** Nothing meets it yet. */
  begin(): void;
  /** A mass (kg) meets it at a place. */
  meet(x: number, y: number, z: number, mass: number): void;
  /** Whether it stands between two places of a list (m, at those numbers of it). */
  crosses(list: Float64Array, from: number, to: number): boolean;
  /** How readily a place gives way to a mass (kg) when all that meets it presses by its weight, 1/kg. */
  gives(x: number, y: number, z: number, mass: number): number;
}

/** A link of a chain as something other chains touch. */
export interface LinkBody {
  /** Inverse masses of its two ends, 1/kg. */
  readonly gives: Float64Array;
  /** Impulses on its two ends that wait for the chain's next step, N s. */
  readonly push: Float64Array;
}

/** The state of a collider that the simulation moves. */
export interface FreeMotion {
  readonly mass: number;
  /** About its own axes, kg m². */
  readonly inertia: Float64Array;
  /** m/s and rad/s, in the world. */
  readonly velocity: Float64Array;
  readonly spin: Float64Array;
  /** Velocity at the start of the step, before gravity, and half of what gravity has added to it since. */
  readonly start: Float64Array;
  readonly half: Float64Array;
  /** Impulse and turning impulse gathered during a step, N s and N m s. */
  readonly impulse: Float64Array;
  readonly twist: Float64Array;
}

/** Moments of inertia of a solid of even density about its own axes, kg m². */
function inertiaOf(shape: Shape, mass: number): Float64Array {
  if (shape.kind === 'box') {
    const [x, y, z] = shape.half.map((h) => 4 * h * h) as [number, number, number];
    return Float64Array.from([y + z, x + z, x + y], (s) => (mass * s) / 12);
  }
  if (shape.kind === 'capsule') {
    const r = shape.radius;
    const l = 2 * shape.half;
    const tube = (mass * l) / (l + (4 / 3) * r);
    const balls = mass - tube;
    const along = tube * (r * r) * 0.5 + balls * 0.4 * r * r;
    const across =
      tube * (0.25 * r * r + (l * l) / 12) + balls * (0.4 * r * r + 0.375 * r * l + 0.25 * l * l);
    return Float64Array.from([across, along, across]);
  }
  const r = shape.kind === 'sphere' ? shape.radius : shape.kind === 'mesh' ? shape.surface.bound() : 1;
  return new Float64Array(3).fill(0.4 * mass * r * r);
}

export function makeBody(
  shape: Shape,
  friction: number,
  bounce: number,
  free: {
    readonly mass: number;
    readonly velocity: readonly number[];
    readonly spin: readonly number[];
  } | null,
  link: LinkBody | null = null,
  soft: SoftBodySkin | null = null,
): Body {
  const places = Float64Array.of(0, 0, 0, 0, 0, 0, 1, 0, 0, 0, 0, 0, 0, 1);
  return {
    shape,
    bound: boundOf(shape),
    places,
    before: places.subarray(0, 7),
    now: places.subarray(7),
    fixed: false,
    friction,
    bounce,
    link,
    soft,
    free: free && {
      mass: free.mass,
      inertia: inertiaOf(shape, free.mass),
      velocity: Float64Array.from(free.velocity),
      spin: Float64Array.from(free.spin),
      start: Float64Array.from(free.velocity),
      half: new Float64Array(3),
      impulse: new Float64Array(3),
      twist: new Float64Array(3),
    },
  };
}

const arm = new Float64Array(3);
const own = new Float64Array(4);
const back = new Float64Array(4);

/** Turns a vector by the inverse of the body's turn, then scales by the inverse inertia, and back: I⁻¹ v. */
export function applyInverseInertia(out: Float64Array, body: Body, v: ArrayLike<number>): void {
  const { now } = body;
  back[0] = -now[3]!;
  back[1] = -now[4]!;
  back[2] = -now[5]!;
  back[3] = now[6]!;
  quatRotate(own, 0, back, 0, v, 0);
  for (let c = 0; c < 3; c++) own[c]! /= body.free!.inertia[c]!;
  quatRotate(out, 0, now, 3, own, 0);
}

/** Share along a link body from its root end, of the place nearest to (x, y, z). */
function shareAlong(body: Body, x: number, y: number, z: number): number {
  const { half } = body.shape as { half: number };
  toBody(own, body.now, x, y, z);
  return half > 0 ? Math.min(1, Math.max(0, 0.5 + own[1]! / (2 * half))) : 0.5;
}

/** Gathers an impulse (N s) at a place in the world. */
export function pushBody(
  body: Body,
  x: number,
  y: number,
  z: number,
  px: number,
  py: number,
  pz: number,
): void {
  const { free, now, link } = body;
  body.soft?.push(x, y, z, px, py, pz);
  if (link) {
    const t = shareAlong(body, x, y, z);
    link.push[0]! += (1 - t) * px;
    link.push[1]! += (1 - t) * py;
    link.push[2]! += (1 - t) * pz;
    link.push[3]! += t * px;
    link.push[4]! += t * py;
    link.push[5]! += t * pz;
  }
  if (!free) return;
  const ax = x - now[0]!,
    ay = y - now[1]!,
    az = z - now[2]!;
  free.impulse[0]! += px;
  free.impulse[1]! += py;
  free.impulse[2]! += pz;
  free.twist[0]! += ay * pz - az * py;
  free.twist[1]! += az * px - ax * pz;
  free.twist[2]! += ax * py - ay * px;
}

/** How readily a place on the body gives way along a unit direction, 1/kg; 0 for what does not. */
export function givesWay(
  body: Body,
  x: number,
  y: number,
  z: number,
  nx: number,
  ny: number,
  nz: number,
): number {
  const { free, now, link, soft } = body;
  if (soft) return soft.gives(x, y, z);
  if (link) {
    const t = shareAlong(body, x, y, z);
    return (1 - t) * (1 - t) * link.gives[0]! + t * t * link.gives[1]!;
  }
  if (!free) return 0;
  const ax = x - now[0]!,
    ay = y - now[1]!,
    az = z - now[2]!;
  arm[0] = ay * nz - az * ny;
  arm[1] = az * nx - ax * nz;
  arm[2] = ax * ny - ay * nx;
  const tx = arm[0],
    ty = arm[1],
    tz = arm[2];
  applyInverseInertia(arm, body, arm);
  return 1 / free.mass + arm[0] * tx + arm[1] * ty + arm[2] * tz;
}

/** Velocity of the body at a place, m/s, from its motion over the step (h, s) or its own state when free. */
export function velocityAt(out: Float64Array, body: Body, x: number, y: number, z: number, h: number): void {
  const { before, now, free } = body;
  if (body.fixed) {
    out[0] = out[1] = out[2] = 0;
    return;
  }
  if (free) {
    const ax = x - now[0]!,
      ay = y - now[1]!,
      az = z - now[2]!;
    out[0] = free.velocity[0]! + free.spin[1]! * az - free.spin[2]! * ay;
    out[1] = free.velocity[1]! + free.spin[2]! * ax - free.spin[0]! * az;
    out[2] = free.velocity[2]! + free.spin[0]! * ay - free.spin[1]! * ax;
    return;
  }
  carry(arm, before, now, x, y, z);
  out[0] = (x - arm[0]!) / h;
  out[1] = (y - arm[1]!) / h;
  out[2] = (z - arm[2]!) / h;
}

/** Where the material at a place of the world, as the body stands in `to`, was when it stood in `from`. */
function carry(
  out: Float64Array,
  from: Float64Array,
  to: Float64Array,
  x: number,
  y: number,
  z: number,
): void {
  toBody(own, to, x, y, z);
  toWorld(out, from, own);
}

/** A place of the world in the space of a placement (7 numbers). */
export function toBody(out: Float64Array, placed: Float64Array, x: number, y: number, z: number): void {
  out[0] = x;
  out[1] = y;
  out[2] = z;
  pointToBody(out, 0, placed, 0, out, 0);
}

/** A place in the space of a placement in the world. */
export function toWorld(out: Float64Array, placed: Float64Array, own: ArrayLike<number>): void {
  quatRotate(out, 0, placed, 3, own, 0);
  for (let c = 0; c < 3; c++) out[c]! += placed[c]!;
}

/** Drag coefficient of a ball (White, Viscous Fluid Flow). */
const BALL_DRAG = 0.47;

const turn = new Float64Array(4);

/** Moves a free body through a step of h seconds under an acceleration, before what it touches is known. */
export function predictBody(body: Body, h: number, gravity: ArrayLike<number>, airDensity: number): void {
  const { free, before, now } = body;
  if (!free) return;
  before.set(now);
  free.start.set(free.velocity);
  for (let c = 0; c < 3; c++) {
    free.velocity[c]! += h * gravity[c]!;
    free.impulse[c] = 0;
    free.twist[c] = 0;
  }
  // Air holds it back as it holds a ball of its size, solved with the step.
  const { velocity } = free;
  const speed = Math.sqrt(velocity[0]! ** 2 + velocity[1]! ** 2 + velocity[2]! ** 2);
  const held =
    1 / (1 + (h * airDensity * BALL_DRAG * 0.5 * Math.PI * body.bound * body.bound * speed) / free.mass);
  for (let c = 0; c < 3; c++) {
    velocity[c]! *= held;
    free.half[c] = (velocity[c]! - free.start[c]!) / 2;
  }
  moveFree(body, h);
}

/** `now` from `before` and the velocities over h seconds. */
export function moveFree(body: Body, h: number): void {
  const { before, now } = body;
  const { velocity, spin, half } = body.free!;
  // The mean of the speeds at both ends of the step, as gravity changes them evenly.
  for (let c = 0; c < 3; c++) now[c] = before[c]! + h * (velocity[c]! - half[c]!);
  turn[0] = 0.5 * h * spin[0]!;
  turn[1] = 0.5 * h * spin[1]!;
  turn[2] = 0.5 * h * spin[2]!;
  turn[3] = 1;
  quatNormalise(turn, 0);
  quatMultiply(now, 3, turn, 0, before, 3);
  quatNormalise(now, 3);
}

/** Says that a body stood where it stands: it has not moved in the step. */
export function restBody({ before, now, shape }: Body): void {
  before.set(now);
  if (shape.kind === 'mesh') shape.surface.earlier.set(shape.surface.vertices);
}

/** Carries a free body by a rigid travel: place and turn, 7 numbers. */
export function carryBody(body: Body, travel: Float64Array): void {
  const { free, now, before } = body;
  if (!free) return;
  toWorld(now, travel, now);
  quatMultiply(now, 3, travel, 3, now, 3);
  before.set(now);
  for (const list of [free.velocity, free.spin]) quatRotate(list, 0, travel, 3, list, 0);
}

/** Gives a free body what was gathered, and moves it by the motion it has then; with h = 0 only gives. */
export function finishBody(body: Body, h: number): void {
  const { free } = body;
  if (!free) return;
  for (let c = 0; c < 3; c++) free.velocity[c]! += free.impulse[c]! / free.mass;
  applyInverseInertia(arm, body, free.twist);
  for (let c = 0; c < 3; c++) {
    free.spin[c]! += arm[c]!;
    free.impulse[c] = 0;
    free.twist[c] = 0;
  }
  if (h > 0) moveFree(body, h);
}
