import { pointToBody } from '../kernel/search/space';
import { quatRotate } from '../math/index';
import { givesWay, pushBody, finishBody, toWorld, velocityAt, type Body } from './bodies';
import { nearestOnSegment } from './shapes';

/** m/s: slower hits do not bounce, so that what lies still stays still. */
const LEAST_BOUNCE = 0.15;
const PASSES = 30;
/** Share of an overlap taken out in a step. */
const RECOVER = 0.2;
/** Gaps up to this share of a body's bound are minded, so that a resting body keeps its contacts. */
const MARGIN = 0.02;

interface Touch {
  a: Body;
  b: Body;
  /** World place, normal from b to a, gap at the start of the step. */
  x: number;
  y: number;
  z: number;
  nx: number;
  ny: number;
  nz: number;
  gap: number;
  friction: number;
  bounce: number;
  /**
   * Speed along the normal at the moment of touching, what gravity adds after it, and when that is, s into the step.
   */
  hit: number;
  after: number;
  /** Half of what gravity adds over the step: places move by the mean speed. */
  mean: number;
  late: number;
  /** Impulses so far. */
  load: number;
  rub: [number, number, number];
}

const local = new Float64Array(6);
const near = new Float64Array(5);
const spot = new Float64Array(3);
const normal = new Float64Array(3);
const va = new Float64Array(3);
const vb = new Float64Array(3);

/** Places of a body that stand for its surface, in its own space, and the radius round each. */
function samples(body: Body): { at: readonly (readonly number[])[]; radius: number } {
  const s = body.shape;
  if (s.kind === 'sphere') return { at: [[0, 0, 0]], radius: s.radius };
  if (s.kind === 'capsule')
    return {
      at: [
        [0, -s.half, 0],
        [0, s.half, 0],
      ],
      radius: s.radius,
    };
  if (s.kind !== 'box') return { at: [], radius: 0 };
  const at: number[][] = [];
  for (let k = 0; k < 8; k++) at.push(s.half.map((h, c) => (k & (1 << c) ? h : -h)));
  return { at, radius: 0 };
}

/** Touches of the sample places of `a` with the shape of `b`; `sign` turns the normal when the free body is b. */
function find(out: Touch[], a: Body, b: Body, h: number, flipped: boolean): void {
  const { at, radius } = samples(a);
  for (const p of at) {
    toWorld(spot, a.before, p);
    pointToBody(local, 0, b.before, 0, spot, 0);
    pointToBody(local, 3, b.before, 0, spot, 0);
    nearestOnSegment(near, b.shape, local);
    const gap = near[1]! - radius;
    let way = 0;
    for (let c = 0; c < 3; c++) {
      const d = a.now[c]! - a.before[c]! - (b.now[c]! - b.before[c]!);
      way += d * d;
    }
    const spins =
      ((a.free?.spin.reduce((m, x) => m + Math.abs(x), 0) ?? 0) +
        (b.free?.spin.reduce((m, x) => m + Math.abs(x), 0) ?? 0)) *
      h;
    if (gap > Math.sqrt(way) + spins * a.bound + MARGIN * a.bound) continue;
    quatRotate(normal, 0, b.before, 3, near, 2);
    const sign = flipped ? -1 : 1;
    const [one, two] = flipped ? [b, a] : [a, b];
    const touch: Touch = {
      a: one,
      b: two,
      x: spot[0]! - radius * normal[0]!,
      y: spot[1]! - radius * normal[1]!,
      z: spot[2]! - radius * normal[2]!,
      nx: sign * normal[0]!,
      ny: sign * normal[1]!,
      nz: sign * normal[2]!,
      gap,
      friction: Math.sqrt(a.friction * b.friction),
      bounce: Math.max(a.bounce, b.bounce),
      hit: 0,
      after: 0,
      mean: 0,
      late: 0,
      load: 0,
      rub: [0, 0, 0],
    };
    const end = closing(touch, h);
    let start = end;
    for (const [body, by] of [
      [touch.a, 1],
      [touch.b, -1],
    ] as const) {
      const { free } = body;
      if (!free) continue;
      const d = [0, 1, 2].map((c) => free.velocity[c]! - free.start[c]!);
      start -= by * (d[0]! * touch.nx + d[1]! * touch.ny + d[2]! * touch.nz);
    }
    touch.mean = (end - start) / 2;
    const mean = (start + end) / 2;
    touch.late = mean < 0 && gap > 0 ? Math.min(h, -gap / mean) : 0;
    touch.hit = start + ((end - start) * touch.late) / h;
    touch.after = end - touch.hit;
    out.push(touch);
  }
}

/** Speed of a away from b along the normal at the place of touch, m/s; leaves the relative velocity in `va`. */
function closing(t: Touch, h: number): number {
  velocityAt(va, t.a, t.x, t.y, t.z, h);
  velocityAt(vb, t.b, t.x, t.y, t.z, h);
  for (let c = 0; c < 3; c++) va[c]! -= vb[c]!;
  return va[0]! * t.nx + va[1]! * t.ny + va[2]! * t.nz;
}

function push(t: Touch, px: number, py: number, pz: number): void {
  pushBody(t.a, t.x, t.y, t.z, px, py, pz);
  pushBody(t.b, t.x, t.y, t.z, -px, -py, -pz);
}

/**
 * Contacts of free bodies with each other and with the rest, as impulses: projected Gauss–Seidel on speeds with Coulomb
 * friction (Erleben 2007), each touch allowed to close its own gap and no more. Boxes touch with their corners and are
 * touched on their faces; edges against edges are not looked for. Call after {@link predictBody}.
 */
export function collideBodies(bodies: readonly Body[], h: number): void {
  const touches: Touch[] = [];
  for (let i = 0; i < bodies.length; i++) {
    const a = bodies[i]!;
    if (!a.free) continue;
    for (let j = 0; j < bodies.length; j++) {
      const b = bodies[j]!;
      if (i === j || (b.free && j < i)) continue;
      find(touches, a, b, h, false);
      if (a.shape.kind === 'box') find(touches, b, a, h, true);
    }
  }
  if (touches.length === 0) return;
  for (let pass = 0; pass < PASSES; pass++) {
    for (const t of touches) {
      const speed = closing(t, h);
      const allowed = (t.gap > 0 ? -t.gap / h : (-RECOVER * t.gap) / h) + t.mean;
      const bounced = t.hit < -LEAST_BOUNCE && t.hit * h < -t.gap ? -t.bounce * t.hit + t.after : -Infinity;
      const gives =
        givesWay(t.a, t.x, t.y, t.z, t.nx, t.ny, t.nz) + givesWay(t.b, t.x, t.y, t.z, t.nx, t.ny, t.nz);
      const before = t.load;
      t.load = Math.max(0, t.load + (Math.max(allowed, bounced) - speed) / gives);
      const p = t.load - before;
      // Sticking means no way along the surface: the mean speed of the step is 0, not that of its end.
      const slow = speed - t.mean;
      const half = (c: number) => (t.a.free?.half[c] ?? 0) - (t.b.free?.half[c] ?? 0);
      const rx = va[0]! - half(0) - slow * t.nx,
        ry = va[1]! - half(1) - slow * t.ny,
        rz = va[2]! - half(2) - slow * t.nz;
      push(t, p * t.nx, p * t.ny, p * t.nz);
      apply(t);
      const slide = Math.sqrt(rx * rx + ry * ry + rz * rz);
      if (slide < 1e-12) continue;
      const across =
        givesWay(t.a, t.x, t.y, t.z, rx / slide, ry / slide, rz / slide) +
        givesWay(t.b, t.x, t.y, t.z, rx / slide, ry / slide, rz / slide);
      const old = [...t.rub] as const;
      t.rub = [old[0] - rx / across, old[1] - ry / across, old[2] - rz / across];
      const rub = Math.sqrt(t.rub[0] ** 2 + t.rub[1] ** 2 + t.rub[2] ** 2);
      const most = t.friction * t.load;
      if (rub > most) for (let c = 0; c < 3; c++) t.rub[c]! *= most / rub;
      push(t, t.rub[0] - old[0], t.rub[1] - old[1], t.rub[2] - old[2]);
      apply(t);
    }
  }
  // What bounced met the other on its way through the step: it came that far at its old speed.
  for (const body of bodies) if (body.free) finishBody(body, h);
  for (const t of touches) {
    if (t.load === 0 || t.hit * h >= -t.gap || t.bounce === 0 || t.gap <= 0) continue;
    const change = closing(t, h) - t.hit - t.after;
    for (const [body, sign] of [
      [t.a, -1],
      [t.b, 1],
    ] as const) {
      if (!body.free) continue;
      const share =
        1 / body.free.mass / ((t.a.free ? 1 / t.a.free.mass : 0) + (t.b.free ? 1 / t.b.free.mass : 0));
      body.now[0]! += sign * share * t.late * change * t.nx;
      body.now[1]! += sign * share * t.late * change * t.ny;
      body.now[2]! += sign * share * t.late * change * t.nz;
    }
  }
}

/** Gives both bodies at once what was gathered. */
function apply(t: Touch): void {
  finishBody(t.a, 0);
  finishBody(t.b, 0);
}
