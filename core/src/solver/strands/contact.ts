import { pushBody, type Body, type LightSkin } from '../bodies';
import { BodyContacts, OUT_SPEED, type SheetStart, type SheetTouches } from '../cloth/contact';
import { wholeStep } from '../cloth/stepBody';
import { makeIn } from '../cloth/setup';
import type { Arena } from '../arena';
import type { Strands } from './strands';

/** How strands touch: the distance their points keep (m), and Coulomb's μ. */
export interface StrandSkin {
  readonly thickness: number;
  readonly friction: number;
}

/** A strand whose root stands inside comes out by this share of its length. */
const OUTWARD = 0.5;

/**
 * How far a light surface is taken to give way in a step, of what its mass alone would: it moves after the strand has.
 * With less what is as heavy as the surface rings on it, with more it sinks in (both measured).
 */
const YIELDS = 4 / 9;

/** Numbers that the contacts of so many links take of an arena, beside those of the bodies (`bodyNumbers`). */
export const touchedNumbers = (links: number): number => 24 * links + 40;

/**
 * What strands touch. Each point has one contact at a time, the deepest: a plane through where it is nearest to the
 * body, found once a step where the point is expected.
 */
export class StrandContacts {
  readonly memory: readonly Float64Array[];
  private readonly all: readonly BodyContacts[];
  private readonly own: Float64Array;
  private readonly gone: Float64Array;
  private readonly last: Float64Array;
  private readonly touched: Float64Array;
  private readonly allowed: Float64Array;
  private readonly outward: Float64Array;
  /** How far inside each may stay for good, m. */
  private readonly floor: Float64Array;
  /** Where the points were in the world at the start of the step. */
  private readonly old: Float64Array;
  /** The load of each in the step before. */
  private readonly before: Float64Array;
  /** The body each point touches, −1 for none. */
  private readonly inBody: Int32Array;
  private readonly strandOf: Int32Array;
  /** Of each body, 1 for strands that go through it where they begin: they pass through it for good. */
  private readonly through: readonly Float64Array[];
  private readonly clock = new Float64Array(1);
  private readonly said: SheetTouches = { depth: 0, deepest: -1, deepIn: -1, pressing: 0, slip: 0 };

  constructor(
    private readonly strands: Strands,
    private readonly bodies: readonly Body[],
    private readonly h: number,
    private readonly skin: () => StrandSkin,
    arena: Arena | null,
  ) {
    const make = makeIn(arena);
    const { links, seen } = strands;
    const three = () => make.numbers(3 * links);
    [this.old, this.last, this.outward] = [three(), three(), three()];
    [this.own, this.gone] = [make.numbers(links), make.numbers(links)];
    [this.touched, this.allowed] = [make.numbers(links), make.numbers(links)];
    this.before = new Float64Array(links);
    this.floor = new Float64Array(links);
    this.inBody = new Int32Array(links).fill(-1);
    this.strandOf = new Int32Array(links);
    for (let k = 0; k + 1 < strands.first.length; k++)
      this.strandOf.fill(k, strands.first[k], strands.first[k + 1]);
    const shared = {
      ...{ x: seen, old: this.old, older: this.old, v: this.outward, w: make.numbers(links).fill(1) },
      ...{ touched: this.touched, own: this.own, gone: this.gone, seen: this.last, h },
      ...{ skinFrom: this.old, skinTo: seen, allowed: this.allowed, outward: this.outward },
    };
    this.all = bodies.map((b) => new BodyContacts(wholeStep(b), shared, make, arena));
    this.through = bodies.map((b) => new Float64Array(b.soft?.light ? strands.first.length - 1 : 0));
    this.memory = [
      ...[this.touched, this.allowed, this.outward, this.last, this.clock, this.floor],
      ...this.all.flatMap((b) => b.memory),
      ...this.through,
    ];
  }

  /** What is inside at the start may stay so, and is let out slowly. */
  begin(): SheetStart {
    const { allowed, floor, touched, strandOf } = this;
    for (const list of [allowed, touched]) list.fill(0);
    const { seen } = this.strands;
    this.strands.places(seen);
    this.last.set(seen);
    this.old.set(seen);
    this.findThrough();
    const inside = new Int32Array(allowed.length).fill(-1);
    this.all.forEach((b, k) => {
      const before = allowed.slice();
      b.tell(true, 0, this.skin());
      b.run('startInside');
      for (let i = 0; i < allowed.length; i++)
        if ((this.through[k]![strandOf[i]!] ?? 0) > 0) allowed[i] = before[i]!;
        else if (allowed[i]! > before[i]!) inside[i] = k;
    });
    this.keepRoots();
    let [depth, deepIn] = [0, -1];
    // What a root that stands inside explains is no fault of the groom.
    for (let i = 0; i < allowed.length; i++)
      if (allowed[i]! - floor[i]! > depth) [depth, deepIn] = [allowed[i]! - floor[i]!, inside[i]!];
    return { depth, deepIn };
  }

  /** Where a root stands inside, its strand cannot come out at once: it may stay in as far as its links reach out. */
  private keepRoots(): void {
    const { first, fields } = this.strands;
    for (let k = 0; k + 1 < first.length; k++) {
      let may = this.allowed[first[k]!] ?? 0;
      for (let i = first[k]!; i < first[k + 1]!; i++) {
        if (i > first[k]!) may = Math.max(0, may - OUTWARD * fields.span[i]!);
        this.floor[i] = may;
      }
    }
  }

  /** Strands that go through at least one sheet where they begin. */
  get pierce(): number {
    const { length } = this.strands.near;
    let sum = 0;
    for (let k = 0; k < length; k++) if (this.through.some((list) => (list[k] ?? 0) > 0)) sum++;
    return sum;
  }

  /** Finds strands that go through a sheet where they begin: held on both sides of it they would tear it. */
  private findThrough(): void {
    const { first, roots, seen } = this.strands;
    const ends = new Float64Array(6);
    for (const [b, list] of this.through.entries())
      for (let k = 0; k < list.length; k++) {
        ends.set(roots.subarray(7 * k, 7 * k + 3), 3);
        list[k] = 0;
        for (let i = first[k]!; i < first[k + 1]! && list[k] === 0; i++) {
          ends.copyWithin(0, 3);
          ends.set(seen.subarray(3 * i, 3 * i + 3), 3);
          if (this.bodies[b]!.soft!.light!.crosses(ends, 0, 3)) list[k] = 1;
        }
      }
  }

  /** Strands that are rooted so deep inside that half of them stays there. */
  get rooted(): number {
    const { first } = this.strands;
    let sum = 0;
    for (let k = 0; k + 1 < first.length; k++)
      if ((this.floor[(first[k]! + first[k + 1]!) >> 1] ?? 0) > 0) sum++;
    return sum;
  }

  /** Says where the points are before a step is predicted. */
  ready(): void {
    this.strands.places(this.old);
  }

  /** Finds the contacts of the coming step, once it is predicted. */
  find(fresh: boolean): void {
    const { strands, own, gone, last, old, touched, allowed, clock, inBody } = this;
    const { links, seen, fields } = strands;
    for (let i = 0; i < links; i++) {
      const t = touched[i]!;
      touched[i] = (t >= 4 ? 2 : 0) + ((t >= 4 ? t - 4 : t) >= 2 ? 1 : 0);
      own[i] = distance(seen, old, 3 * i);
      gone[i] = distance(seen, last, 3 * i);
      if (allowed[i]! > 0) allowed[i] = Math.max(this.floor[i]!, allowed[i]! - OUT_SPEED * this.h);
    }
    last.set(seen);
    if (fresh) clock[0] = 1 - clock[0]!;
    this.before.set(fields.load);
    fields.gap.fill(Infinity);
    inBody.fill(-1);
    strands.near.fill(0);
    for (const [k, b] of this.all.entries()) {
      b.tell(fresh, clock[0]!, this.skin());
      b.run('findTouches');
      if (b.used > 0) this.take(b, k);
    }
    for (let k = 0; k + 1 < strands.first.length; k++)
      for (let i = strands.first[k]!; i < strands.first[k + 1]!; i++) if (inBody[i]! >= 0) this.aim(k, i);
    this.askLight();
  }

  /** Asks surfaces that are as light as strands how far they give way to all that press on them. */
  private askLight(): void {
    const { bodies, inBody } = this;
    const { seen, fields, masses } = this.strands;
    fields.give.fill(0);
    if (!bodies.some((b) => b.soft?.light)) return;
    for (const b of bodies) b.soft?.light?.begin();
    const each = (visit: (light: LightSkin, i: number, at: readonly [number, number, number]) => void) => {
      for (let i = 0; i < inBody.length; i++) {
        const light = inBody[i]! < 0 ? undefined : bodies[inBody[i]!]!.soft?.light;
        const presses = fields.gap[i]! < 0 || fields.load[i]! > 0;
        if (light && presses) visit(light, i, [seen[3 * i]!, seen[3 * i + 1]!, seen[3 * i + 2]!]);
      }
    };
    each((light, i, at) => light.meet(...at, masses[i]!));
    each((light, i, at) => void (fields.give[i] = YIELDS * light.gives(...at, masses[i]!)));
  }

  /** Takes up the gaps of one body where they are the least. */
  private take(b: BodyContacts, k: number): void {
    const { fields } = this.strands;
    const { gap, cn, ct } = fields;
    b.run('measureTouches');
    const through = this.through[k]!;
    const { slot, far, rub, given } = b.fields;
    for (let j = 0; j < b.used; j++) {
      const i = slot[j]!;
      if (!(far[j]! < gap[i]!) || (through[this.strandOf[i]!] ?? 0) > 0) continue;
      gap[i] = far[j]!;
      this.inBody[i] = k;
      for (let a = 0; a < 3; a++) {
        cn[3 * i + a] = rub[3 * j + a]!;
        ct[3 * i + a] = given[3 * j + a]!;
      }
    }
  }

  /** Brings the contact of a point into the frame of its root. */
  private aim(strand: number, i: number): void {
    const { fields, near } = this.strands;
    const { cn, ct, cw, turn, place, x } = fields;
    near[strand] = 1;
    const [o, r, m] = [3 * i, 3 * strand, 9 * strand];
    const [n, at] = [
      [cn[o]!, cn[o + 1]!, cn[o + 2]!],
      [0, 0, 0],
    ];
    for (let a = 0; a < 3; a++) {
      const to = this.old[o + a]! + ct[o + a]! - place[r + a]!;
      cw[o + a] = to - x[o + a]!;
      at[a] = to;
    }
    for (let a = 0; a < 3; a++) {
      const [p, q, s] = [turn[m + a]!, turn[m + 3 + a]!, turn[m + 6 + a]!];
      cn[o + a] = p * n[0]! + q * n[1]! + s * n[2]!;
      ct[o + a] = p * at[0]! + q * at[1]! + s * at[2]!;
    }
  }

  /** Something else holds a point in this step. */
  drop(point: number): void {
    this.inBody[point] = -1;
  }

  /** Gives others what they get back of a step, and says what came of it. */
  done(): SheetTouches {
    const { strands, said, inBody, touched } = this;
    const { fields, first } = strands;
    const { load, slip } = fields;
    Object.assign(said, { depth: 0, deepest: -1, deepIn: -1, pressing: 0, slip: 0 });
    for (let k = 0; k + 1 < first.length; k++)
      for (let i = first[k]!; i < first[k + 1]!; i++) {
        if (inBody[i]! < 0) continue;
        const depth = -this.left(i);
        if (depth > said.depth) Object.assign(said, { depth, deepest: i, deepIn: inBody[i]! });
        if (!(load[i]! > 0)) continue;
        said.pressing++;
        said.slip = Math.max(said.slip, slip[i]! / this.h);
        this.giveBack(k, i);
        touched[i]! += 4;
      }
    return said;
  }

  /** How far a point is outside of its contact now, m, beside what it may stand inside. */
  private left(i: number): number {
    const { gap, cn, yn, y } = this.strands.fields;
    let g = gap[i]! + this.skin().thickness;
    for (let a = 3 * i; a < 3 * i + 3; a++) g += cn[a]! * (yn[a]! - y[a]!);
    return g;
  }

  /**
   * A step of BDF2 under a force F moves a mass m by 4 h² F / 9 m: a steady load is 4 h² F / 9. What is new of a load
   * is a blow, after which the point goes on with the surface: it is the mass times the change of its way, per step.
   */
  private giveBack(strand: number, i: number): void {
    const body = this.bodies[this.inBody[i]!]!;
    if (!body.free && !body.link && !body.soft) return;
    const { cn, ct, yn, kt, load, turn, seen, taken } = this.strands.fields;
    const steady = Math.min(load[i]!, this.before[i]!);
    const pressed = load[i]! + this.strands.masses[i]! * taken[i]! + (5 / 4) * steady;
    const o = 3 * i;
    const way = [0, 1, 2].map((a) => yn[o + a]! - ct[o + a]!);
    const along = way.reduce((s, d, a) => s + d * cn[o + a]!, 0);
    const by = way.map((d, a) => (9 / 4) * kt[i]! * (d - along * cn[o + a]!) - pressed * cn[o + a]!);
    const m = 9 * strand;
    const [px, py, pz] = [0, 1, 2].map(
      (a) =>
        (turn[m + 3 * a]! * by[0]! + turn[m + 3 * a + 1]! * by[1]! + turn[m + 3 * a + 2]! * by[2]!) / this.h,
    ) as [number, number, number];
    const [x, y, z] = [seen[o]!, seen[o + 1]!, seen[o + 2]!];
    if (body.soft) body.soft.lean(x, y, z, px, py, pz, Infinity);
    else pushBody(body, x, y, z, px, py, pz);
  }
}

function distance(a: Float64Array, b: Float64Array, o: number): number {
  const x = a[o]! - b[o]!,
    y = a[o + 1]! - b[o + 1]!,
    z = a[o + 2]! - b[o + 2]!;
  return Math.sqrt(x * x + y * y + z * z);
}
