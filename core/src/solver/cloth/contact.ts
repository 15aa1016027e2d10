import { MeshProbe } from './meshProbe';
import { RigidProbe, type Probe, type StepBody } from './probe';

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

/** How deep a point is inside a body where a sheet begins, m, and in which (−1 for none). */
export interface SheetStart {
  readonly depth: number;
  readonly deepIn: number;
}

export interface SheetContacts {
  /** Finds which points may touch which bodies in the coming step, with the points as they are predicted. */
  find(x: Float64Array, old: Float64Array, w: Float64Array, fresh: boolean): void;
  /** Pushes points out, with friction: called twice a step, and carries on what it pushed before. */
  solve(x: Float64Array, old: Float64Array): void;
  finish(x: Float64Array, h: number): SheetTouches;
  /** What is inside at the start may stay so, and is let out at this many m/s without gaining speed. */
  allowInside(x: Float64Array, w: Float64Array): SheetStart;
  letOut(x: Float64Array, older: Float64Array, h: number): void;
  /** All that it remembers from step to step. */
  readonly memory: readonly Float64Array[];
}

/** Speed at which what begins inside a body comes out of it, m/s. */
const OUT_SPEED = 0.5;
/** A point this much farther than its own move and the body's is not asked again in a step, m. */
const MARGIN = 2e-3;

/** One slot for each point and body that may touch: multipliers begin at zero in each step and are carried on in it. */
class Contacts implements SheetContacts {
  readonly memory: readonly Float64Array[];
  private used = 0;
  private points = new Int32Array(64);
  private which = new Int32Array(64);
  /** How far each is, m, as it was found. */
  private far = new Float64Array(64);
  /** Push, m, and friction so far, 3 numbers a slot. */
  private push = new Float64Array(64);
  private rub = new Float64Array(3 * 64);
  /** How much farther inside than its thickness a point may be, m. */
  private readonly allowed: Float64Array;
  private readonly outward: Float64Array;
  private readonly touches: SheetTouches;
  private readonly want = new Float64Array(3);
  private readonly probes: readonly Probe[];
  /** How far each point goes in the step, how far it has gone since the last, m, and where it was then. */
  private readonly own: Float64Array;
  private readonly gone: Float64Array;
  private readonly seen: Float64Array;
  /** How far each point is from each body at least, m: one that is far need not be measured. */
  private readonly clear: Float64Array;

  constructor(
    bodies: readonly StepBody[],
    private readonly touched: Float64Array,
    private readonly skin: () => SheetSkin,
  ) {
    this.allowed = new Float64Array(touched.length);
    this.outward = new Float64Array(3 * touched.length);
    this.own = new Float64Array(touched.length);
    this.gone = new Float64Array(touched.length);
    this.seen = new Float64Array(3 * touched.length);
    this.clear = new Float64Array(bodies.length * touched.length);
    this.probes = bodies.map((b) =>
      b.shape.kind === 'mesh'
        ? new MeshProbe(b, b.shape.surface, touched.length)
        : new RigidProbe(b, b.shape),
    );
    this.memory = [
      this.allowed,
      this.outward,
      this.seen,
      this.clear,
      ...this.probes.flatMap((p) => p.memory),
    ];
    this.touches = { depth: 0, deepest: -1, deepIn: -1, pressing: 0, slip: 0 };
  }

  find(x: Float64Array, old: Float64Array, w: Float64Array, fresh: boolean): void {
    this.used = 0;
    const { thickness } = this.skin();
    const { touched, own, gone, seen, clear, probes } = this;
    const n = touched.length;
    // Four was in this step: it becomes two, and two one.
    for (let i = 0; i < n; i++) {
      touched[i] = touched[i]! >> 1;
      const o = 3 * i;
      own[i] = distance(x, old, o);
      gone[i] = distance(x, seen, o);
      for (let a = 0; a < 3; a++) seen[o + a] = x[o + a]!;
    }
    for (let b = 0; b < probes.length; b++) {
      const probe = probes[b]!;
      probe.ready(fresh, x);
      for (let i = 0; i < n; i++) {
        const at = b * n + i;
        if (w[i] === 0) continue;
        const nearer = probe.shrinks(i, x, Math.max(gone[i]!, own[i]!));
        clear[at]! -= nearer;
        const reach = thickness + 2 * nearer + own[i]! + MARGIN;
        if (clear[at]! > reach) continue;
        // Measured anew when it may be in touch by what is known; else it waits as one that may come into touch. What
        // pressed in the last step is measured when it is pushed.
        if (probe.knows(i) && touched[i]! > 1 && !fresh) clear[at] = Math.min(clear[at]!, 0);
        else if (clear[at]! <= thickness + MARGIN || !probe.knows(i))
          clear[at] = probe.far(i, x, reach, touched[i]! > 0);
        if (clear[at]! <= reach) this.slot(i, b, clear[at]!);
      }
    }
  }

  private slot(point: number, body: number, far: number): void {
    if (this.used === this.points.length) {
      const grown = <T extends Int32Array | Float64Array>(a: T): T => {
        const next = new (a.constructor as new (n: number) => T)(2 * a.length);
        next.set(a as never);
        return next;
      };
      this.points = grown(this.points);
      this.which = grown(this.which);
      this.push = grown(this.push);
      this.far = grown(this.far);
      this.rub = grown(this.rub);
    }
    const k = this.used++;
    this.points[k] = point;
    this.which[k] = body;
    this.push[k] = 0;
    this.far[k] = far;
    this.rub.fill(0, 3 * k, 3 * k + 3);
  }

  solve(x: Float64Array, old: Float64Array): void {
    const { thickness, friction } = this.skin();
    for (let k = 0; k < this.used; k++) {
      const i = this.points[k]!;
      const probe = this.probes[this.which[k]!]!;
      // One that is too far to have come into touch since it was looked for is not measured again.
      if (this.push[k] === 0 && this.far[k]! - distance(x, this.seen, 3 * i) > thickness) continue;
      const gap = probe.gap(i, x, old, thickness) + this.allowed[i]!;
      const before = this.push[k]!;
      const push = Math.max(0, before - gap);
      if (push === 0 && before === 0) continue;
      this.apply(k, i, x, old, push, before, Math.sqrt(friction * probe.body.friction));
    }
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
    const { rub, want } = this;
    const { normal, carried } = this.probes[this.which[k]!]!.found;
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
      const probe = this.probes[this.which[k]!]!;
      out.pressing++;
      const r = 3 * k;
      const rubs = Math.sqrt(this.rub[r]! ** 2 + this.rub[r + 1]! ** 2 + this.rub[r + 2]! ** 2);
      if (rubs >= Math.sqrt(friction * probe.body.friction) * this.push[k]! * (1 - 1e-9))
        out.slip = Math.max(out.slip, rubs / h);
      const depth = -probe.depth(i, x, false);
      if (depth > out.depth) Object.assign(out, { depth, deepest: i, deepIn: this.which[k]! });
    }
    return out;
  }

  allowInside(x: Float64Array, w: Float64Array): SheetStart {
    const { thickness } = this.skin();
    const start = { depth: 0, deepIn: -1 };
    this.allowed.fill(0);
    this.clear.fill(0);
    this.seen.set(x);
    for (const [b, probe] of this.probes.entries()) {
      for (const m of probe.memory) m.fill(0);
      probe.ready(true, x);
      for (let i = 0; i < this.allowed.length; i++) {
        if (w[i] === 0) continue;
        const inside = thickness - probe.depth(i, x, true);
        if (inside <= this.allowed[i]!) continue;
        this.allowed[i] = inside;
        if (inside - thickness > start.depth) Object.assign(start, { depth: inside - thickness, deepIn: b });
        this.outward.set(probe.found.normal, 3 * i);
      }
    }
    return start;
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

function distance(x: Float64Array, y: Float64Array, o: number): number {
  const dx = x[o]! - y[o]!;
  const dy = x[o + 1]! - y[o + 1]!;
  const dz = x[o + 2]! - y[o + 2]!;
  return Math.sqrt(dx * dx + dy * dy + dz * dz);
}

/**
 * Contacts of a sheet with bodies: position-based with accumulated multipliers (Macklin and others 2019). `touched`
 * says of each point when it pressed on something: 4 in this step, 2 in the last, 1 in the one before, added up.
 */
export const makeSheetContacts = (
  bodies: readonly StepBody[],
  touched: Float64Array,
  skin: () => SheetSkin,
): SheetContacts => new Contacts(bodies, touched, skin);
