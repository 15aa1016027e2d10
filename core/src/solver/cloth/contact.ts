import { nearestTo } from '../../kernel/search/shapes';
import { toBody, toWorld, type Body } from '../bodies';
import { SHAPE, sizesOf, type Shape } from '../shapes';

/** How a sheet's points touch bodies. Arrays are one number a point. */
export interface SheetSkin {
  /** m: points keep this distance from bodies. */
  readonly thickness: number;
  /** Coulomb μ: what acts is the geometric mean of it and the body's. */
  readonly friction: number;
}

/** What came of the contacts of a step. */
export interface SheetTouches {
  /** Deepest a point stands inside a body's thickness at the end of the step, m; which one, and in which body. */
  depth: number;
  deepest: number;
  deepIn: number;
  /** Points that press, and the fastest any slides, m/s. */
  pressing: number;
  slip: number;
}

export interface SheetContacts {
  /** Finds which points may touch which bodies in the coming step, with the points as they are predicted. */
  find(x: Float64Array, old: Float64Array, w: Float64Array): void;
  /** Pushes points out, with friction: called twice a step, and carries on what it pushed before. */
  solve(x: Float64Array, old: Float64Array): void;
  finish(x: Float64Array, h: number): SheetTouches;
  /** What is inside at the start may stay so, and is let out at this many m/s without gaining speed. */
  allowInside(x: Float64Array): void;
  letOut(x: Float64Array, older: Float64Array, h: number): void;
  /** All that it remembers from step to step. */
  readonly memory: readonly Float64Array[];
}

/** Speed at which what begins inside a body comes out of it, m/s. */
const OUT_SPEED = 0.5;
/** A point this much farther than its own move and the body's is not asked again in a step, m. */
const MARGIN = 2e-3;

const place = new Float64Array(4);
const found = new Float64Array(5);
const segment = new Float64Array(6);
const normal = new Float64Array(4);

/** Signed distance of a place in the shape's own space, and the normal (into `out`: distance, x y z). */
function distanceTo(
  out: Float64Array,
  shape: Shape,
  size: readonly [number, number, number],
  x: number,
  y: number,
  z: number,
): void {
  if (shape.kind === 'mesh') return shape.surface.nearest(out, x, y, z);
  segment[0] = segment[3] = x;
  segment[1] = segment[4] = y;
  segment[2] = segment[5] = z;
  nearestTo(found, SHAPE[shape.kind], size[0], size[1], size[2], segment);
  for (let a = 0; a < 4; a++) out[a] = found[1 + a]!;
}

/** Turns a vector of the body's own space into the world's. */
function turned(out: Float64Array, placed: Float64Array, v: Float64Array, from: number): void {
  const x = placed[3]!;
  const y = placed[4]!;
  const z = placed[5]!;
  const w = placed[6]!;
  const vx = v[from]!;
  const vy = v[from + 1]!;
  const vz = v[from + 2]!;
  const tx = 2 * (y * vz - z * vy);
  const ty = 2 * (z * vx - x * vz);
  const tz = 2 * (x * vy - y * vx);
  out[0] = vx + w * tx + y * tz - z * ty;
  out[1] = vy + w * ty + z * tx - x * tz;
  out[2] = vz + w * tz + x * ty - y * tx;
}

/** One slot for each point and body that may touch: multipliers begin at zero in each step and are carried on in it. */
class Contacts implements SheetContacts {
  readonly memory: readonly Float64Array[];
  private used = 0;
  private points = new Int32Array(64);
  private which = new Int32Array(64);
  /** Push, m, and friction so far, 3 numbers a slot. */
  private push = new Float64Array(64);
  private rub = new Float64Array(3 * 64);
  /** How much farther inside than its thickness a point may be, m. */
  private readonly allowed: Float64Array;
  private readonly outward: Float64Array;
  private readonly touches: SheetTouches;
  private readonly local = new Float64Array(3);
  private readonly was = new Float64Array(3);
  private readonly way = new Float64Array(3);
  private readonly carried = new Float64Array(3);
  /** The sizes of each body's shape. */
  private readonly sizes: readonly (readonly [number, number, number])[];
  /** How far each point goes by itself in the step, m, and where each was when it was last looked at. */
  private readonly own: Float64Array;
  private readonly seen: Float64Array;
  /** How far each point is from each body at least, m: one that is far need not be measured. */
  private readonly clear: Float64Array;

  constructor(
    private readonly bodies: readonly Body[],
    private readonly touched: Float64Array,
    private readonly skin: () => SheetSkin,
  ) {
    this.allowed = new Float64Array(touched.length);
    this.outward = new Float64Array(3 * touched.length);
    this.own = new Float64Array(touched.length);
    this.seen = new Float64Array(3 * touched.length);
    this.clear = new Float64Array(bodies.length * touched.length);
    this.sizes = bodies.map((b) => sizesOf(b.shape));
    this.memory = [this.allowed, this.outward, this.seen, this.clear];
    this.touches = { depth: 0, deepest: -1, deepIn: -1, pressing: 0, slip: 0 };
  }

  find(x: Float64Array, old: Float64Array, w: Float64Array): void {
    this.used = 0;
    const { thickness } = this.skin();
    const { touched, own, way, seen, clear } = this;
    const n = touched.length;
    // Four was in this step: it becomes two, and two one.
    for (let i = 0; i < n; i++) {
      touched[i] = touched[i]! >> 1;
      const o = 3 * i;
      own[i] = distance(x, old, o);
      // How far it has gone since it was last looked at.
      const gone = distance(x, seen, o);
      for (let a = 0; a < 3; a++) seen[o + a] = x[o + a]!;
      for (let b = 0; b < this.bodies.length; b++) clear[b * n + i]! -= gone;
    }
    for (let b = 0; b < this.bodies.length; b++) {
      const body = this.bodies[b]!;
      const moved = moveOf(body);
      for (let i = 0; i < n; i++) {
        const at = b * n + i;
        clear[at]! -= moved;
        if (w[i] === 0) continue;
        const reach = thickness + moved + 2 * own[i]! + MARGIN;
        if (clear[at]! > reach) continue;
        const o = 3 * i;
        const away = beyond(body, x, o);
        if (away > reach) {
          clear[at] = away;
          continue;
        }
        toBody(way, body.now, x[o]!, x[o + 1]!, x[o + 2]!);
        distanceTo(place, body.shape, this.sizes[b]!, way[0]!, way[1]!, way[2]!);
        clear[at] = place[0]!;
        if (place[0]! <= reach) this.slot(i, b);
      }
    }
  }

  private slot(point: number, body: number): void {
    if (this.used === this.points.length) {
      const grown = <T extends Int32Array | Float64Array>(a: T): T => {
        const next = new (a.constructor as new (n: number) => T)(2 * a.length);
        next.set(a as never);
        return next;
      };
      this.points = grown(this.points);
      this.which = grown(this.which);
      this.push = grown(this.push);
      this.rub = grown(this.rub);
    }
    const k = this.used++;
    this.points[k] = point;
    this.which[k] = body;
    this.push[k] = 0;
    this.rub.fill(0, 3 * k, 3 * k + 3);
  }

  solve(x: Float64Array, old: Float64Array): void {
    const { thickness, friction } = this.skin();
    for (let k = 0; k < this.used; k++) {
      const i = this.points[k]!;
      const body = this.bodies[this.which[k]!]!;
      const gap = this.gap(body, this.sizes[this.which[k]!]!, x, old, 3 * i, thickness) + this.allowed[i]!;
      const before = this.push[k]!;
      const push = Math.max(0, before - gap);
      if (push === 0 && before === 0) continue;
      this.apply(k, i, x, old, push, before, Math.sqrt(friction * body.friction));
    }
  }

  /**
   * Distance of a point from a body, less its thickness; `normal` and `carried` (the body's own move at the place) are
   * left behind. A point that would come out at the other side within the step is measured from the side it was on.
   */
  private gap(
    body: Body,
    size: readonly [number, number, number],
    x: Float64Array,
    old: Float64Array,
    o: number,
    thickness: number,
  ): number {
    const { local, was, way } = this;
    toBody(local, body.now, x[o]!, x[o + 1]!, x[o + 2]!);
    toBody(was, body.before, old[o]!, old[o + 1]!, old[o + 2]!);
    const run = (local[0]! - was[0]!) ** 2 + (local[1]! - was[1]!) ** 2 + (local[2]! - was[2]!) ** 2;
    let px = local[0]!;
    let py = local[1]!;
    let pz = local[2]!;
    if (run > 0.25 * thickness * thickness) {
      // Fast: it may not pass the plane it was before.
      distanceTo(place, body.shape, size, was[0]!, was[1]!, was[2]!);
      const start = place[0]!;
      const behind =
        start + place[1]! * (px - was[0]!) + place[2]! * (py - was[1]!) + place[3]! * (pz - was[2]!);
      if (start > 0 && behind < 0) {
        px -= behind * place[1]!;
        py -= behind * place[2]!;
        pz -= behind * place[3]!;
      }
    }
    distanceTo(place, body.shape, size, px, py, pz);
    for (let a = 0; a < 3; a++) way[a] = place[1 + a]!;
    const gap =
      place[0]! +
      way[0]! * (local[0]! - px) +
      way[1]! * (local[1]! - py) +
      way[2]! * (local[2]! - pz) -
      thickness;
    turned(normal, body.now, way, 0);
    // The place on the body, in its own space, and how far the step carries it.
    for (let a = 0; a < 3; a++) local[a]! -= (gap + thickness) * way[a]!;
    toWorld(this.carried, body.now, local);
    toWorld(was, body.before, local);
    for (let a = 0; a < 3; a++) this.carried[a]! -= was[a]!;
    return gap;
  }

  private apply(
    k: number,
    i: number,
    x: Float64Array,
    old: Float64Array,
    push: number,
    before: number,
    friction: number,
  ): void {
    const { rub, carried } = this;
    const o = 3 * i;
    const r = 3 * k;
    for (let a = 0; a < 3; a++) x[o + a]! += (push - before) * normal[a]!;
    this.push[k] = push;
    if (push === 0) {
      for (let a = 0; a < 3; a++) {
        x[o + a]! -= rub[r + a]!;
        rub[r + a] = 0;
      }
      return;
    }
    if (this.touched[i]! < 4) this.touched[i]! += 4;
    let along = 0;
    for (let a = 0; a < 3; a++) along += (rub[r + a]! - (x[o + a]! - old[o + a]! - carried[a]!)) * normal[a]!;
    let size = 0;
    const want = this.way;
    for (let a = 0; a < 3; a++) {
      want[a] = rub[r + a]! - (x[o + a]! - old[o + a]! - carried[a]!) - along * normal[a]!;
      size += want[a]! ** 2;
    }
    const most = friction * push;
    const share = size > most * most ? most / Math.sqrt(size) : 1;
    for (let a = 0; a < 3; a++) {
      x[o + a]! += share * want[a]! - rub[r + a]!;
      rub[r + a] = share * want[a]!;
    }
  }

  finish(x: Float64Array, h: number): SheetTouches {
    const out = this.touches;
    Object.assign(out, { depth: 0, deepest: -1, deepIn: -1, pressing: 0, slip: 0 });
    const { friction } = this.skin();
    for (let k = 0; k < this.used; k++) {
      if (this.push[k] === 0) continue;
      const i = this.points[k]!;
      const body = this.bodies[this.which[k]!]!;
      out.pressing++;
      const r = 3 * k;
      const rubs = Math.sqrt(this.rub[r]! ** 2 + this.rub[r + 1]! ** 2 + this.rub[r + 2]! ** 2);
      if (rubs >= Math.sqrt(friction * body.friction) * this.push[k]! * (1 - 1e-9))
        out.slip = Math.max(out.slip, rubs / h);
      toBody(this.local, body.now, x[3 * i]!, x[3 * i + 1]!, x[3 * i + 2]!);
      distanceTo(
        place,
        body.shape,
        this.sizes[this.which[k]!]!,
        this.local[0]!,
        this.local[1]!,
        this.local[2]!,
      );
      if (-place[0]! > out.depth)
        Object.assign(out, { depth: -place[0]!, deepest: i, deepIn: this.which[k]! });
    }
    return out;
  }

  allowInside(x: Float64Array): void {
    const { thickness } = this.skin();
    this.allowed.fill(0);
    this.clear.fill(0);
    this.seen.set(x);
    for (const [b, body] of this.bodies.entries())
      for (let i = 0; i < this.allowed.length; i++) {
        const o = 3 * i;
        if (beyond(body, x, o) > thickness) continue;
        toBody(this.local, body.now, x[o]!, x[o + 1]!, x[o + 2]!);
        distanceTo(place, body.shape, this.sizes[b]!, this.local[0]!, this.local[1]!, this.local[2]!);
        const inside = thickness - place[0]!;
        if (inside <= this.allowed[i]!) continue;
        this.allowed[i] = inside;
        turned(normal, body.now, place, 1);
        this.outward.set(normal.subarray(0, 3), o);
      }
  }

  letOut(x: Float64Array, older: Float64Array, h: number): void {
    for (let i = 0; i < this.allowed.length; i++) {
      if (this.allowed[i] === 0) continue;
      const by = Math.min(this.allowed[i]!, OUT_SPEED * h);
      this.allowed[i]! -= by;
      for (let a = 0; a < 3; a++) {
        x[3 * i + a]! += by * this.outward[3 * i + a]!;
        older[3 * i + a]! += by * this.outward[3 * i + a]!;
      }
    }
  }
}

/** Farthest a place on a body moves within the step, m, at most. */
function moveOf({ before, now, bound, fixed }: Body): number {
  if (fixed) return 0;
  const travel = Math.sqrt(
    (now[0]! - before[0]!) ** 2 + (now[1]! - before[1]!) ** 2 + (now[2]! - before[2]!) ** 2,
  );
  // The chord of a turn is twice the sine of half its angle.
  const dot = before[3]! * now[3]! + before[4]! * now[4]! + before[5]! * now[5]! + before[6]! * now[6]!;
  const turn = 2 * Math.sqrt(Math.max(0, 1 - dot * dot));
  return travel + (bound === Infinity ? 0 : turn * bound);
}

/** How far a point is outside the ball about a body, m. */
function beyond({ now, bound }: Body, x: Float64Array, o: number): number {
  if (bound === Infinity) return -Infinity;
  return distance(x, now, o, 0) - bound;
}

function distance(x: Float64Array, y: Float64Array, o: number, p = o): number {
  const dx = x[o]! - y[p]!;
  const dy = x[o + 1]! - y[p + 1]!;
  const dz = x[o + 2]! - y[p + 2]!;
  return Math.sqrt(dx * dx + dy * dy + dz * dz);
}

/**
 * Contacts of a sheet with bodies: position-based with accumulated multipliers (Macklin and others 2019). `touched`
 * says of each point when it pressed on something: 4 in this step, 2 in the last, 1 in the one before, added up.
 */
export const makeSheetContacts = (
  bodies: readonly Body[],
  touched: Float64Array,
  skin: () => SheetSkin,
): SheetContacts => new Contacts(bodies, touched, skin);
