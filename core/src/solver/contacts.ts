import { quatMultiply, quatRotate, quatSlerp } from '../math/index';
import type { Arena } from './arena';
import { finishBody, givesWay, moveFree, pushBody, toWorld, velocityAt, type Body } from './bodies';
import { CONTACT, CONTACT_ROW, HOLDER_ROWS, mostContacts, type ChainSolver } from './chain';
import { FOUND, FOUND_ROW, makeSearch, OUT, ROOT_PART, STRIKE_STEP } from './search';

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
/** Along-surface stiffness of sticking, beside that against the surface. */
const STICK = 1e-3;
/** m/s: slower hits do not bounce. */
const LEAST_BOUNCE = 0.05;
/** What starts inside something is led out this fast: lengths of the chain a second. */
const LEAD_OUT = 0.2;

/** Rows this module keeps beside the chain's own: body, speed of the hit, how deep the half space lies. */
const SIDE = 3;

const place = new Float64Array(3);
const world = new Float64Array(3);
const normal = new Float64Array(3);
const speed = new Float64Array(3);

/**
 * Contact of a chain's links, as capsules of their thickness, with bodies.
 *
 * What may touch is looked for ({@link makeSearch}) and gives half spaces the links must not leave. Whether a contact presses, and how
 * it rubs, is found together with the lengths in the chain's own step.
 * Source: Coulomb friction, positions first (Müller et al. 2020).
 */
export function makeChainContacts(
  solver: ChainSolver,
  bodies: readonly Body[],
  whole: number,
  length: number,
  arena: Arena | null = null,
): ChainContacts {
  const { links, x, v, contact } = solver;
  // The last rows are left for ties and pulls.
  const room = mostContacts(links) - HOLDER_ROWS;
  const side = new Float64Array(SIDE * room);
  const search = makeSearch(solver, bodies, length, arena);
  const { found, pressed, loads, touched, minded } = search;
  const report: ContactReport = {
    touching: 0,
    at: 0,
    load: 0,
    depth: 0,
    depths: new Float64Array(bodies.length),
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
  const memory = [solver.memory, touched];
  const kept = memory.map((a) => new Float64Array(a.length));
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
  const motions = bodies.map(() => new Float64Array(6));

  /** Makes a contact row of what was found in row `f` of the search. */
  function addRow(f: number, skin: ChainSkin): void {
    const i = found[f + FOUND.link]!;
    const b = found[f + FOUND.body]!;
    const body = bodies[b]!;
    const share = found[f + FOUND.near]!;
    const away = found[f + FOUND.near + 1]!;
    const first = found[f + FOUND.first]!;
    const along = i === 0 ? ROOT_PART + (1 - ROOT_PART) * share : share;
    const r = used * CONTACT_ROW;
    quatRotate(normal, 0, body.now, 3, found, f + FOUND.near + 2);
    // The surface point under the nearest place of the link at the share `first` of the step, now.
    const w = 1 - first;
    const start = f + FOUND.start;
    const end = f + FOUND.end;
    for (let c = 0; c < 3; c++) {
      const a = w * found[start + c]! + first * found[end + c]!;
      const e = w * found[start + 3 + c]! + first * found[end + 3 + c]!;
      place[c] = a + share * (e - a) - away * found[f + FOUND.near + 2 + c]!;
    }
    toWorld(world, body.now, place);
    const sunk = Math.min(0, found[f + FOUND.gap]! + LEAD_OUT * length * h);
    const rx = solver.source[0]!,
      ry = solver.source[1]!,
      rz = solver.source[2]!;
    contact[r + CONTACT.link] = i;
    contact[r + CONTACT.along] = along;
    let offset = found[f + FOUND.thickness]! + sunk;
    for (let c = 0; c < 3; c++) {
      contact[r + CONTACT.normal + c] = normal[c]!;
      offset += normal[c]! * (world[c]! - (c === 0 ? rx : c === 1 ? ry : rz));
    }
    contact[r + CONTACT.offset] = offset;
    // Where the link's own place would be if it stuck: it moves with the body.
    for (let c = 0; c < 3; c++)
      place[c] = found[start + c]! + share * (found[start + 3 + c]! - found[start + c]!);
    toWorld(speed, body.now, place);
    contact[r + CONTACT.anchor] = speed[0]! - rx;
    contact[r + CONTACT.anchor + 1] = speed[1]! - ry;
    contact[r + CONTACT.anchor + 2] = speed[2]! - rz;
    const yields = givesWay(body, world[0]!, world[1]!, world[2]!, normal[0]!, normal[1]!, normal[2]!);
    const hard = solver.hardness();
    // A free body gives way by h² f / m as the chain's points do: the two stiffnesses stand in a row.
    const stiffness = yields > 0 ? 1 / (1 / hard + yields) : hard;
    contact[r + CONTACT.stiffness] = stiffness;
    contact[r + CONTACT.friction] = slippery ? 0 : Math.sqrt(skin.friction[i]! * body.friction);
    contact[r + CONTACT.sticking] = 0;
    contact[r + CONTACT.kind] = 0;
    contact[r + CONTACT.hardest] = yields > 0 ? 1 / (1 / (hard * STICK) + yields) : hard * STICK;
    const s = used * SIDE;
    side[s] = b;
    // Speed of the hit, along the normal, at the moment of touching.
    const o = 3 * i;
    velocityAt(speed, body, world[0]!, world[1]!, world[2]!, h);
    let hit = 0;
    for (let c = 0; c < 3; c++) {
      const fall = i > 0 ? (1 - along) * solver.fall[o - 3 + c]! : 0;
      hit +=
        normal[c]! *
        ((1 - along) * v[o + c]! +
          along * v[o + 3 + c]! +
          first * h * (fall + along * solver.fall[o + c]!) -
          speed[c]!);
    }
    side[s + 1] = hit;
    side[s + 2] = sunk;
    used++;
  }

  /** Finds what may touch in a step of h from where the chain and the bodies stand; `firstOrder`: whatever is found. */
  function find(skin: ChainSkin, firstOrder: boolean): void {
    const rows = search.run(skin.thickness, h);
    least = Math.max(struck ? Math.ceil(h / STRIKE_STEP) : 1, search.out[OUT.least]!);
    order = firstOrder || search.out[OUT.order] === 1 ? 1 : 2;
    solver.setOrder(order);
    used = 0;
    for (let k = 0; k < rows; k++) addRow(k * FOUND_ROW, skin);
    startLoads();
  }

  function settle(skin: ChainSkin): void {
    report.touching = 0;
    report.at = 0;
    report.load = 0;
    report.depth = 0;
    report.depths.fill(0);
    report.slip = 0;
    const rx = x[0]!,
      ry = x[1]!,
      rz = x[2]!;
    const scale = order === 1 ? 1 / h : 9 / 4 / h;
    report.rows = used;
    report.newtons = scale / h;
    for (let k = 0; k < used; k++) {
      const r = k * CONTACT_ROW;
      const s = k * SIDE;
      const i = contact[r]!;
      const b = side[s]!;
      const body = bodies[b]!;
      const pair = i * bodies.length + b;
      const presses = contact[r + CONTACT.load]! > 0;
      loads[pair] = contact[r + CONTACT.load]! * report.newtons;
      const along = contact[r + CONTACT.along]!;
      const o = 3 * i;
      let gap = -contact[r + CONTACT.offset]!;
      for (let c = 0; c < 3; c++) {
        place[c] = (1 - along) * x[o + c]! + along * x[o + 3 + c]!;
        gap += contact[r + CONTACT.normal + c]! * (place[c]! - (c === 0 ? rx : c === 1 ? ry : rz));
      }
      // The half space may still lie deeper than the surface, for what is being led out.
      const depth = -(gap + side[s + 2]!);
      report.depth = Math.max(report.depth, depth);
      report.depths[b] = Math.max(report.depths[b]!, depth);
      if (!presses) {
        pressed[pair] = 0;
        continue;
      }
      report.touching++;
      if (contact[r + CONTACT.load]! > report.load) {
        report.load = contact[r + CONTACT.load]!;
        report.at = i + along;
      }
      pressed[pair] = pressed[pair] === 0 ? 2 : 1;
      if (pressed[pair] === 2 && (body.free !== null || body.link !== null)) striking[0] = 1;
      const f = CONTACT.force;
      pushBody(
        body,
        place[0]!,
        place[1]!,
        place[2]!,
        -contact[r + f]! * scale,
        -contact[r + f + 1]! * scale,
        -contact[r + f + 2]! * scale,
      );
      const slidX = place[0]! - rx - contact[r + 8]!,
        slidY = place[1]! - ry - contact[r + 9]!,
        slidZ = place[2]! - rz - contact[r + 10]!;
      const off = slidX * contact[r + 2]! + slidY * contact[r + 3]! + slidZ * contact[r + 4]!;
      const slid = Math.sqrt(Math.max(0, slidX * slidX + slidY * slidY + slidZ * slidZ - off * off));
      report.slip = Math.max(report.slip, slid / h);
      const e = Math.max(skin.bounce, body.bounce);
      if (pressed[pair] === 2 && e > 0 && side[s + 1]! < -LEAST_BOUNCE)
        bounce(i, along, body, r, -e * side[s + 1]!);
    }
    for (const b of freely) finishBody(bodies[b]!, h);
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

  /** Loads begin as in the step before, and friction at what they allow. */
  function startLoads(): void {
    const per = order === 1 ? h * h : (4 / 9) * h * h;
    for (let k = 0; k < used; k++) {
      const r = k * CONTACT_ROW;
      const pair = contact[r]! * bodies.length + side[k * SIDE]!;
      const load = loads[pair]! * per;
      contact[r + CONTACT.load] = pressed[pair]! > 0 ? load : 0;
      contact[r + CONTACT.grip] = contact[r + CONTACT.friction]! * load;
    }
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
    aimsNow.set(aims);
    const first = Number.isNaN(aimsBefore[0]!);
    struck = striking[0] === 1;
    striking[0] = 0;
    find(skin, false);
    let parts = Math.min(MOST_PARTS, Math.max(least, Math.ceil(search.out[OUT.hurry]! / HURRY)));
    if (first) parts = 1;
    if ((used > 0 || parts > 1) && !first) {
      for (let k = 0; k < memory.length; k++) kept[k]!.set(memory[k]!);
      for (const b of freely) {
        const { places, free } = bodies[b]!;
        stood[b]!.set(places);
        motions[b]!.set(free!.velocity);
        motions[b]!.set(free!.spin, 3);
      }
    }
    if (parts === 1) {
      solver.setContacts(more(used));
      solver.step();
      if (solver.converged() || used === 0 || first) settle(skin);
      else parts = 4;
    }
    // What does not move freely still stands where it stood.
    if (parts > 1) for (const b of moving) if (!bodies[b]!.free) stood[b]!.set(bodies[b]!.places);
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
    aimsBefore.set(aimsNow);
  }

  /** The step in equal parts of first order, from where it began; false when one of them did not come to an end. */
  function takeParts(skin: ChainSkin, more: (used: number) => number, parts: number): boolean {
    for (let k = 0; k < memory.length; k++) memory[k]!.set(kept[k]!);
    for (const b of moving) {
      const { now, free } = bodies[b]!;
      now.set(starts[b]!);
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
