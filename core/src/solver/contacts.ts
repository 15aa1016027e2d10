import { quatMultiply, quatRotate, quatSlerp } from '../math/index';
import type { Arena } from './arena';
import { finishBody, givesWay, moveFree, pushBody, velocityAt, type Body } from './bodies';
import { CONTACT, CONTACT_ROW } from './contactRow';
import type { SteppedPoints } from './points';
import { FOUND, FOUND_ROW, makeSearch, OUT, STRIKE_STEP, type Search } from './search';
import { CAME, makeTouches, SIDE, SIDE_ROW, STICK, type Touches } from './touches';

/** How a chain meets what it touches; arrays are one number a link. */
export interface ChainSkin {
  /** Radius, m. */
  readonly thickness: Float64Array;
  readonly friction: Float64Array;
  readonly bounce: number;
}

/** Contacts of one chain with the bodies it minds. */
export interface ChainContacts {
  /**
   * Steps the chain with what it touches; call when its source and the bodies stand where they go. `more` writes
   * further contact rows (ties, pulls) from the row it is given and returns how many there are then.
   */
  step(skin: ChainSkin, more: (used: number) => number): void;
  /** Carries what it remembers of places by a rigid travel: place and turn, 7 numbers. */
  carry(travel: Float64Array): void;
  /** The arrays that hold all it remembers from step to step. */
  memory(): readonly (Float64Array | Uint8Array)[];
  /** What touched in the last step, in the chain's contact rows. */
  readonly report: ContactReport;
}

export interface ContactReport {
  /** Rows that pressed. */
  touching: number;
  /**
   * Where along the chain it presses hardest, in links from the root, and how hard there; 0 and 0 when nothing presses.
   */
  at: number;
  load: number;
  /** Deepest a link stands inside something, m. */
  depth: number;
  /** How deep a link stands inside each body, m, by its place in the list. */
  readonly depths: Float64Array;
  /** Largest speed along a surface while pressing, m/s. */
  slip: number;
  /** Contact rows looked at, and what turns their forces into N. */
  rows: number;
  newtons: number;
}

/** A link that goes farther than this share of its length past something in one step goes in parts. */
const HURRY = 0.16;
const MOST_PARTS = 64;
/** A step that finds no answer is tried in four and in so many parts. */
const TRIED_PARTS = 16;
/** m/s: slower hits do not bounce. */
const LEAST_BOUNCE = 0.05;

const place = new Float64Array(3);
const speed = new Float64Array(3);

class Contacts implements ChainContacts {
  readonly report: ContactReport;
  private readonly search: Search;
  private readonly touches: Touches;
  private readonly yielding: boolean;
  /** Order of the step: 1 or 2; and its rows. */
  private order: 1 | 2 = 2;
  private used = 0;
  /** s */
  private h: number;
  /** Parts the step has to be taken in at least. */
  private least = 1;
  private slippery = false;
  /** Whether something that gives way was struck in this step: the speeds it leaves have yet to spread in the next. */
  private readonly striking = new Uint8Array(1);
  private struck = false;
  /** What a step taken again begins from. */
  private readonly kept: Float64Array;
  private readonly keptTouched: Float64Array;
  /** Source and turns of the step before (NaN: there was none) and of this one. */
  private readonly aimsBefore: Float64Array;
  private readonly aimsNow: Float64Array;
  private readonly stood: readonly Float64Array[];
  private readonly starts: readonly Float64Array[];
  private readonly ends: readonly Float64Array[];
  private readonly freely: readonly number[];
  private readonly moving: readonly number[];
  /** Velocity and spin of what moves freely; what waits for the two ends of a link. */
  private readonly motions: readonly Float64Array[];

  constructor(
    private readonly points: SteppedPoints,
    private readonly bodies: readonly Body[],
    private readonly whole: number,
    length: number,
    arena: Arena | null,
  ) {
    this.h = whole;
    this.search = makeSearch(points, bodies, length, arena);
    this.touches = makeTouches(points, this.search, bodies.length, length, arena);
    this.yielding = bodies.some((b) => b.free !== null || b.link !== null || b.bounce > 0);
    const { depths } = this.touches;
    this.report = { touching: 0, at: 0, load: 0, depth: 0, depths, slip: 0, rows: 0, newtons: 0 };
    this.kept = new Float64Array(points.memory.length);
    this.keptTouched = new Float64Array(this.search.touched.length);
    this.aimsBefore = new Float64Array(points.aims.length).fill(NaN);
    this.aimsNow = new Float64Array(points.aims.length);
    this.stood = bodies.map(() => new Float64Array(14));
    this.starts = this.stood.map((s) => s.subarray(0, 7));
    this.ends = this.stood.map((s) => s.subarray(7));
    this.freely = bodies.flatMap((body, b) => (body.free ? [b] : []));
    this.moving = bodies.flatMap((body, b) => (body.fixed ? [] : [b]));
    this.motions = bodies.map(() => new Float64Array(6));
  }

  /** Whether there is more to a contact than where and how hard it presses. */
  private special(skin: ChainSkin): boolean {
    return this.yielding || skin.bounce > 0;
  }

  /**
   * What a row needs of a body that moves freely or is a link: how it gives way; and how fast it is hit, where hits
   * bounce.
   */
  private refine(k: number): void {
    const { points, bodies } = this;
    const { v, contact } = this.points;
    const { found } = this.search;
    const { side } = this.touches;
    const r = k * CONTACT_ROW;
    const s = k * SIDE_ROW;
    const body = bodies[side[s]!]!;
    const n = r + CONTACT.normal;
    const [wx, wy, wz] = [side[s + 3]!, side[s + 4]!, side[s + 5]!];
    const yields = givesWay(body, wx, wy, wz, contact[n]!, contact[n + 1]!, contact[n + 2]!);
    if (yields > 0) {
      // A free body gives way by h² f / m as the chain's points do: the two stiffnesses stand in a row.
      const hard = points.hardness();
      contact[r + CONTACT.stiffness] = 1 / (1 / hard + yields);
      contact[r + CONTACT.hardest] = 1 / (1 / (hard * STICK) + yields);
    }
    // Speed of the hit, along the normal, at the moment of touching.
    const i = contact[r]!;
    const o = 3 * i;
    const along = contact[r + CONTACT.along]!;
    const first = found[k * FOUND_ROW + FOUND.first]!;
    velocityAt(speed, body, wx, wy, wz, this.h);
    let hit = 0;
    for (let c = 0; c < 3; c++) {
      const fall = i > 0 ? (1 - along) * points.fall[o - 3 + c]! : 0;
      hit +=
        contact[n + c]! *
        ((1 - along) * v[o + c]! +
          along * v[o + 3 + c]! +
          first * this.h * (fall + along * points.fall[o + c]!) -
          speed[c]!);
    }
    side[s + SIDE.hit] = hit;
  }

  /** Finds what may touch in a step of h from where the chain and the bodies stand; `firstOrder`: whatever is found. */
  private find(skin: ChainSkin, firstOrder: boolean): void {
    const { points, search, touches } = this;
    const rows = search.run(skin.thickness, this.h);
    this.least = Math.max(this.struck ? Math.ceil(this.h / STRIKE_STEP) : 1, search.out[OUT.least]!);
    this.order = firstOrder || search.out[OUT.order] === 1 ? 1 : 2;
    points.setOrder(this.order);
    this.used = rows;
    touches.write(rows, this.order, this.h, skin.friction, this.slippery);
    if (this.special(skin)) for (let k = 0; k < rows; k++) this.refine(k);
  }

  private settle(skin: ChainSkin): void {
    const { bodies, touches, report, freely } = this;
    const { contact } = this.points;
    touches.read();
    const { came } = touches;
    const scale = this.order === 1 ? 1 / this.h : 9 / 4 / this.h;
    report.touching = came[CAME.touching]!;
    report.at = came[CAME.at]!;
    report.load = came[CAME.load]!;
    report.depth = came[CAME.depth]!;
    report.slip = came[CAME.slip]!;
    report.rows = this.used;
    report.newtons = scale / this.h;
    if (this.special(skin))
      for (let k = 0; k < this.used; k++)
        if (contact[k * CONTACT_ROW + CONTACT.load]! > 0) this.answer(k, scale, skin);
    for (const b of freely) finishBody(bodies[b]!, this.h);
  }

  /** What a row that presses does to a body that gives way, and to a link that bounces. */
  private answer(k: number, scale: number, skin: ChainSkin): void {
    const { bodies, striking } = this;
    const { x, contact } = this.points;
    const { pressed } = this.search;
    const { side } = this.touches;
    const r = k * CONTACT_ROW;
    const i = contact[r]!;
    const b = side[k * SIDE_ROW]!;
    const body = bodies[b]!;
    const along = contact[r + CONTACT.along]!;
    const o = 3 * i;
    for (let c = 0; c < 3; c++) place[c] = (1 - along) * x[o + c]! + along * x[o + 3 + c]!;
    const struckNow = pressed[i * bodies.length + b] === 2;
    if (struckNow && (body.free !== null || body.link !== null)) striking[0] = 1;
    const f = r + CONTACT.force;
    pushBody(
      body,
      place[0]!,
      place[1]!,
      place[2]!,
      -contact[f]! * scale,
      -contact[f + 1]! * scale,
      -contact[f + 2]! * scale,
    );
    const e = Math.max(skin.bounce, body.bounce);
    const hit = side[k * SIDE_ROW + SIDE.hit]!;
    if (struckNow && e > 0 && hit < -LEAST_BOUNCE) this.bounce(i, along, body, r, -e * hit);
  }

  /** Gives the two ends of a link the speed along the normal that a bounce leaves, and the body the reaction. */
  private bounce(i: number, along: number, body: Body, r: number, wanted: number): void {
    const { points } = this;
    const { v, contact } = this.points;
    const o = 3 * i;
    const n = r + CONTACT.normal;
    const wa = i > 0 ? ((1 - along) * (1 - along)) / points.mass[i - 1]! : 0;
    const wb = (along * along) / points.mass[i]!;
    velocityAt(speed, body, place[0]!, place[1]!, place[2]!, this.h);
    let now = 0;
    for (let c = 0; c < 3; c++)
      now += contact[n + c]! * ((1 - along) * v[o + c]! + along * v[o + 3 + c]! - speed[c]!);
    const yields = givesWay(
      body,
      place[0]!,
      place[1]!,
      place[2]!,
      contact[n]!,
      contact[n + 1]!,
      contact[n + 2]!,
    );
    const impulse = (wanted - now) / (wa + wb + yields);
    if (!(impulse > 0)) return;
    for (let c = 0; c < 3; c++) {
      const p = impulse * contact[n + c]!;
      if (i > 0) v[o + c]! += ((1 - along) * p) / points.mass[i - 1]!;
      v[o + 3 + c]! += (along * p) / points.mass[i]!;
    }
    pushBody(
      body,
      place[0]!,
      place[1]!,
      place[2]!,
      -impulse * contact[n]!,
      -impulse * contact[n + 1]!,
      -impulse * contact[n + 2]!,
    );
    points.forget();
  }

  /** Puts source and bodies at the part `q` of `parts` of the step. */
  private placePart(q: number, parts: number): void {
    const { bodies, aimsBefore, aimsNow, starts, ends, moving } = this;
    const { aims, source } = this.points;
    const places = source.length;
    const t = q / parts;
    for (let k = 0; k < places; k++) aims[k] = aimsBefore[k]! + t * (aimsNow[k]! - aimsBefore[k]!);
    for (let k = places; k < aims.length; k += 4) quatSlerp(aims, k, aimsBefore, k, aimsNow, k, t);
    for (const b of moving) {
      const body = bodies[b]!;
      body.before.set(q === 1 ? starts[b]! : body.now);
      if (body.free) {
        moveFree(body, this.h);
        continue;
      }
      for (let c = 0; c < 3; c++) body.now[c] = starts[b]![c]! + t * (ends[b]![c]! - starts[b]![c]!);
      quatSlerp(body.now, 3, starts[b]!, 3, ends[b]!, 3, t);
    }
  }

  step(skin: ChainSkin, more: (used: number) => number): void {
    const { points, search, striking, aimsBefore } = this;
    const first = Number.isNaN(aimsBefore[0]!);
    this.struck = striking[0] === 1;
    striking[0] = 0;
    this.find(skin, false);
    let parts = Math.min(MOST_PARTS, Math.max(this.least, Math.ceil(search.out[OUT.hurry]! / HURRY)));
    if (first) parts = 1;
    const stepped = parts === 1;
    if (stepped) {
      points.setContacts(more(this.used));
      points.step();
      if (points.converged() || this.used === 0 || first) this.settle(skin);
      else parts = 4;
    }
    if (parts > 1) this.keepStart(stepped);
    while (parts > 1 && !this.takeParts(skin, more, parts)) {
      if (parts < TRIED_PARTS) parts *= 4;
      else {
        // Rubbing can leave no answer that the step finds; without it there always is one.
        this.slippery = true;
        this.takeParts(skin, more, parts);
        this.slippery = false;
        break;
      }
    }
    aimsBefore.set(parts > 1 ? this.aimsNow : points.aims);
  }

  /** Keeps what the step began with, for its parts: but for the chain, nothing has gone on yet. */
  private keepStart(stepped: boolean): void {
    const { points, bodies, kept, keptTouched, aimsNow, stood, moving, motions } = this;
    const { aims } = this.points;
    const { touched } = this.search;
    kept.set(stepped ? points.before : points.memory);
    keptTouched.set(touched);
    aimsNow.set(aims);
    for (const b of moving) {
      const { places, free, link } = bodies[b]!;
      stood[b]!.set(places);
      if (link) motions[b]!.set(link.push);
      if (free) {
        motions[b]!.set(free.velocity);
        motions[b]!.set(free.spin, 3);
      }
    }
  }

  /** The step in equal parts of first order, from where it began; false when one of them did not come to an end. */
  private takeParts(skin: ChainSkin, more: (used: number) => number, parts: number): boolean {
    const { points, bodies, starts, moving, motions } = this;
    points.memory.set(this.kept);
    this.search.touched.set(this.keptTouched);
    for (const b of moving) {
      const { now, free, link } = bodies[b]!;
      now.set(starts[b]!);
      link?.push.set(motions[b]!);
      free?.velocity.set(motions[b]!.subarray(0, 3));
      free?.spin.set(motions[b]!.subarray(3));
    }
    this.h = this.whole / parts;
    points.setStep(this.h);
    let fine = true;
    // Without friction the parts are taken to the end, come what may.
    for (let q = 1; q <= parts && (fine || this.slippery); q++) {
      this.placePart(q, parts);
      this.find(skin, true);
      points.setContacts(more(this.used));
      points.step();
      fine &&= points.converged();
      this.settle(skin);
    }
    this.h = this.whole;
    points.setStep(this.whole);
    points.forget();
    for (const b of moving) bodies[b]!.before.set(starts[b]!);
    return fine;
  }

  carry(travel: Float64Array): void {
    const { aimsBefore } = this;
    const places = this.points.source.length;
    for (let p = 0; p < places; p += 3) {
      quatRotate(aimsBefore, p, travel, 3, aimsBefore, p);
      for (let c = 0; c < 3; c++) aimsBefore[p + c]! += travel[c]!;
    }
    for (let q = places; q < aimsBefore.length; q += 4) quatMultiply(aimsBefore, q, travel, 3, aimsBefore, q);
  }

  memory(): readonly (Float64Array | Uint8Array)[] {
    const { touched, minded } = this.search;
    return [touched, minded, this.striking, this.aimsBefore];
  }
}

/**
 * Contact of a chain's links, as capsules of their thickness, with bodies.
 *
 * What may touch is looked for ({@link makeSearch}) and gives half spaces the links must not leave. Whether a contact
 * presses, and how it rubs, is found together with the lengths in the step of the points themselves.
 * Source: Coulomb friction, positions first (Müller et al. 2020).
 */
export const makeChainContacts = (
  points: SteppedPoints,
  bodies: readonly Body[],
  whole: number,
  length: number,
  arena: Arena | null = null,
): ChainContacts => new Contacts(points, bodies, whole, length, arena);
