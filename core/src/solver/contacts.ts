import { quatMultiply, quatRotate, quatSlerp } from '../math/index';
import type { Arena } from './arena';
import { finishBody, givesWay, moveFree, pushBody, velocityAt, type Body } from './bodies';
import { CONTACT, CONTACT_ROW } from './contactRow';
import type { SteppedPoints } from './points';
import { FOUND, FOUND_ROW, makeSearch, OUT, STRIKE_STEP } from './search';
import { CAME, makeTouches, SIDE, SIDE_ROW, STICK } from './touches';

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
  /** Where along the chain it presses hardest, in links from the root, and how hard there; 0 and 0 when nothing presses. */
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

/**
 * Contact of a chain's links, as capsules of their thickness, with bodies.
 *
 * What may touch is looked for ({@link makeSearch}) and gives half spaces the links must not leave. Whether a contact presses, and how
 * it rubs, is found together with the lengths in the chain's own step.
 * Source: Coulomb friction, positions first (Müller et al. 2020).
 */
export function makeChainContacts(
  solver: SteppedPoints,
  bodies: readonly Body[],
  whole: number,
  length: number,
  arena: Arena | null = null,
): ChainContacts {
  const { x, v, contact } = solver;
  const search = makeSearch(solver, bodies, length, arena);
  const { found, pressed, touched, minded } = search;
  const touches = makeTouches(solver, search, bodies.length, length, arena);
  const { side } = touches;
  const yielding = bodies.some((b) => b.free !== null || b.link !== null || b.bounce > 0);
  /** Whether there is more to a contact than where and how hard it presses. */
  const special = (skin: ChainSkin) => yielding || skin.bounce > 0;
  const report: ContactReport = {
    touching: 0,
    at: 0,
    load: 0,
    depth: 0,
    depths: touches.depths,
    slip: 0,
    rows: 0,
    newtons: 0,
  };
  /** Order of the step: 1 or 2. */
  let order: 1 | 2 = 2;
  let used = 0;
  let h = whole;
  /** Parts the step has to be taken in at least. */
  let least = 1;
  let slippery = false;
  /** Whether something that gives way was struck in this step: the speeds it leaves have yet to spread in the next. */
  const striking = new Uint8Array(1);
  let struck = false;
  /** What a step taken again begins from. */
  const kept = new Float64Array(solver.memory.length);
  const keptTouched = new Float64Array(touched.length);
  const { aims } = solver;
  /** Source and turns of the step before (NaN: there was none) and of this one. */
  const aimsBefore = new Float64Array(aims.length).fill(NaN);
  const aimsNow = new Float64Array(aims.length);
  const points = solver.source.length;
  const stood = bodies.map(() => new Float64Array(14));
  const starts = stood.map((s) => s.subarray(0, 7));
  const ends = stood.map((s) => s.subarray(7));
  const freely = bodies.flatMap((body, b) => (body.free ? [b] : []));
  const moving = bodies.flatMap((body, b) => (body.fixed ? [] : [b]));
  /** Velocity and spin of what moves freely; what waits for the two ends of a link. */
  const motions = bodies.map(() => new Float64Array(6));

  /** What a row needs of a body that moves freely or is a link: how it gives way; and how fast it is hit, where hits bounce. */
  function refine(k: number): void {
    const r = k * CONTACT_ROW;
    const s = k * SIDE_ROW;
    const body = bodies[side[s]!]!;
    const n = r + CONTACT.normal;
    const [wx, wy, wz] = [side[s + 3]!, side[s + 4]!, side[s + 5]!];
    const yields = givesWay(body, wx, wy, wz, contact[n]!, contact[n + 1]!, contact[n + 2]!);
    if (yields > 0) {
      // A free body gives way by h² f / m as the chain's points do: the two stiffnesses stand in a row.
      const hard = solver.hardness();
      contact[r + CONTACT.stiffness] = 1 / (1 / hard + yields);
      contact[r + CONTACT.hardest] = 1 / (1 / (hard * STICK) + yields);
    }
    // Speed of the hit, along the normal, at the moment of touching.
    const i = contact[r]!;
    const o = 3 * i;
    const along = contact[r + CONTACT.along]!;
    const first = found[k * FOUND_ROW + FOUND.first]!;
    velocityAt(speed, body, wx, wy, wz, h);
    let hit = 0;
    for (let c = 0; c < 3; c++) {
      const fall = i > 0 ? (1 - along) * solver.fall[o - 3 + c]! : 0;
      hit +=
        contact[n + c]! *
        ((1 - along) * v[o + c]! +
          along * v[o + 3 + c]! +
          first * h * (fall + along * solver.fall[o + c]!) -
          speed[c]!);
    }
    side[s + SIDE.hit] = hit;
  }

  /** Finds what may touch in a step of h from where the chain and the bodies stand; `firstOrder`: whatever is found. */
  function find(skin: ChainSkin, firstOrder: boolean): void {
    const rows = search.run(skin.thickness, h);
    least = Math.max(struck ? Math.ceil(h / STRIKE_STEP) : 1, search.out[OUT.least]!);
    order = firstOrder || search.out[OUT.order] === 1 ? 1 : 2;
    solver.setOrder(order);
    used = rows;
    touches.write(rows, order, h, skin.friction, slippery);
    if (special(skin)) for (let k = 0; k < rows; k++) refine(k);
  }

  function settle(skin: ChainSkin): void {
    touches.read();
    const { came } = touches;
    const scale = order === 1 ? 1 / h : 9 / 4 / h;
    report.touching = came[CAME.touching]!;
    report.at = came[CAME.at]!;
    report.load = came[CAME.load]!;
    report.depth = came[CAME.depth]!;
    report.slip = came[CAME.slip]!;
    report.rows = used;
    report.newtons = scale / h;
    if (special(skin))
      for (let k = 0; k < used; k++) if (contact[k * CONTACT_ROW + CONTACT.load]! > 0) answer(k, scale, skin);
    for (const b of freely) finishBody(bodies[b]!, h);
  }

  /** What a row that presses does to a body that gives way, and to a link that bounces. */
  function answer(k: number, scale: number, skin: ChainSkin): void {
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
    if (struckNow && e > 0 && hit < -LEAST_BOUNCE) bounce(i, along, body, r, -e * hit);
  }

  /** Gives the two ends of a link the speed along the normal that a bounce leaves, and the body the reaction. */
  function bounce(i: number, along: number, body: Body, r: number, wanted: number): void {
    const o = 3 * i;
    const n = r + CONTACT.normal;
    const wa = i > 0 ? ((1 - along) * (1 - along)) / solver.mass[i - 1]! : 0;
    const wb = (along * along) / solver.mass[i]!;
    velocityAt(speed, body, place[0]!, place[1]!, place[2]!, h);
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
      if (i > 0) v[o + c]! += ((1 - along) * p) / solver.mass[i - 1]!;
      v[o + 3 + c]! += (along * p) / solver.mass[i]!;
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
    solver.forget();
  }

  /** Puts source and bodies at the part `q` of `parts` of the step. */
  function placePart(q: number, parts: number): void {
    const t = q / parts;
    for (let k = 0; k < points; k++) aims[k] = aimsBefore[k]! + t * (aimsNow[k]! - aimsBefore[k]!);
    for (let k = points; k < aims.length; k += 4) quatSlerp(aims, k, aimsBefore, k, aimsNow, k, t);
    for (const b of moving) {
      const body = bodies[b]!;
      body.before.set(q === 1 ? starts[b]! : body.now);
      if (body.free) {
        moveFree(body, h);
        continue;
      }
      for (let c = 0; c < 3; c++) body.now[c] = starts[b]![c]! + t * (ends[b]![c]! - starts[b]![c]!);
      quatSlerp(body.now, 3, starts[b]!, 3, ends[b]!, 3, t);
    }
  }

  function step(skin: ChainSkin, more: (used: number) => number): void {
    const first = Number.isNaN(aimsBefore[0]!);
    struck = striking[0] === 1;
    striking[0] = 0;
    find(skin, false);
    let parts = Math.min(MOST_PARTS, Math.max(least, Math.ceil(search.out[OUT.hurry]! / HURRY)));
    if (first) parts = 1;
    const stepped = parts === 1;
    if (stepped) {
      solver.setContacts(more(used));
      solver.step();
      if (solver.converged() || used === 0 || first) settle(skin);
      else parts = 4;
    }
    if (parts > 1) keepStart(stepped);
    while (parts > 1 && !takeParts(skin, more, parts)) {
      if (parts < TRIED_PARTS) parts *= 4;
      else {
        // Rubbing can leave no answer that the step finds; without it there always is one.
        slippery = true;
        takeParts(skin, more, parts);
        slippery = false;
        break;
      }
    }
    aimsBefore.set(parts > 1 ? aimsNow : aims);
  }

  /** Keeps what the step began with, for its parts: but for the chain, nothing has gone on yet. */
  function keepStart(stepped: boolean): void {
    kept.set(stepped ? solver.before : solver.memory);
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
  function takeParts(skin: ChainSkin, more: (used: number) => number, parts: number): boolean {
    solver.memory.set(kept);
    touched.set(keptTouched);
    for (const b of moving) {
      const { now, free, link } = bodies[b]!;
      now.set(starts[b]!);
      link?.push.set(motions[b]!);
      free?.velocity.set(motions[b]!.subarray(0, 3));
      free?.spin.set(motions[b]!.subarray(3));
    }
    h = whole / parts;
    solver.setStep(h);
    let fine = true;
    // Without friction the parts are taken to the end, come what may.
    for (let q = 1; q <= parts && (fine || slippery); q++) {
      placePart(q, parts);
      find(skin, true);
      solver.setContacts(more(used));
      solver.step();
      fine &&= solver.converged();
      settle(skin);
    }
    h = whole;
    solver.setStep(whole);
    solver.forget();
    for (const b of moving) bodies[b]!.before.set(starts[b]!);
    return fine;
  }

  function carry(travel: Float64Array): void {
    for (let p = 0; p < points; p += 3) {
      quatRotate(aimsBefore, p, travel, 3, aimsBefore, p);
      for (let c = 0; c < 3; c++) aimsBefore[p + c]! += travel[c]!;
    }
    for (let q = points; q < aims.length; q += 4) quatMultiply(aimsBefore, q, travel, 3, aimsBefore, q);
  }

  return {
    step,
    carry,
    report,
    memory: () => [touched, minded, striking, aimsBefore],
  };
}
