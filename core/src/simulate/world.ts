import type { Character } from '../character/index';
import { quatBetween, quatConjugate, quatMultiply, quatNormalise, quatRotate } from '../math/index';
import { makeValueCurve, OscillumError } from '../model/index';
import type { ChainPart, Pull, Tie } from '../parts/chain/shared';
import type { Shot } from '../shot/index';
import {
  carryBody,
  collideBodies,
  CONTACT,
  CONTACT_ROW,
  makeAir,
  makeBody,
  makeChainContacts,
  makeChainSolver,
  NO_FEEL,
  type Body,
  type ChainContacts,
  type ChainSolver,
} from '../solver/index';
import { makeTuning, type ChainTuning } from './chainRun';
import { collidersOf, makeColliders, moveColliders, type ColliderRun } from './colliders';
import { delayedRows } from './delay';
import { forcesOn } from './forces';
import { concerns, minds, touch, type Group } from './groups';
import { ride } from './respond';
import { rowAt, type ChainTrack, type SourceTrack } from './track';

/** One chain of a shot in motion. */
export interface ChainRun {
  /** Its index in the track. */
  readonly index: number;
  readonly part: ChainPart;
  readonly track: ChainTrack;
  readonly tuning: ChainTuning;
  readonly solver: ChainSolver;
  readonly contacts: ChainContacts | null;
  /** The colliders it minds, in the order of its contacts' bodies (links of other chains come after). */
  readonly minds: readonly string[];
  /** Place and speed of the root off its source, 3 and 3 numbers: `shift`. */
  readonly shift: Float64Array;
}

/** Everything that moves in a shot, from one substep to the next. */
export interface World {
  readonly chains: readonly ChainRun[];
  readonly colliders: readonly ColliderRun[];
  /** How many groups it holds: each is saved and remembered by itself. */
  readonly groups: number;
  /** Puts everything on its source at a track row, moving with it or, when `still`, at rest. */
  begin(row: number, frame: number, still: boolean): void;
  /** One substep, to `share` of the way from track row `row` to the next, which is the time of `frame`. */
  advance(row: number, share: number, frame: number): void;
  /** What moves in a group, as numbers, for loops. */
  save(group: number): Float64Array;
  load(group: number, state: Float64Array): void;
  /** Whether nothing of a group moves any more. */
  still(group: number): boolean;
  /** All a group remembers, to the bit: a world that takes it back goes on as this one does. */
  remember(group: number): Memory;
  recall(group: number, memory: Memory): void;
  /** Puts colliders that are not free where they stand at a track row, as they do after a step to it. */
  stand(row: number, frame: number): void;
  /** Carries the whole state by a rigid travel (place and turn, 7 numbers), to where track row `row` is, at `frame`. */
  travel(by: Float64Array, row: number, frame: number): void;
  /** Damps everything at least critically, to find its rest. */
  calm(on: boolean, frame: number): void;
}

/** All numbers a group remembers by, in one array, and the pulls that have slipped, by id. */
export interface Memory {
  readonly numbers: Float64Array;
  readonly slipped: ReadonlySet<string>;
}

/** A chain is still when no point moves faster than this share of its length a second. */
const STILL = 1e-5;

/** Hz below which a shifting root does not sink, however small its hold. */
const LEAST_SHIFT_HZ = 0.5;

const AXES = { none: [0, 0, 0], x: [1, 0, 0], y: [0, 1, 0], z: [0, 0, 1] } as const;

const moved = new Float64Array(3);
const rootBefore = new Float64Array(3);
const was = new Float64Array(3);
const bodyNow = new Float64Array(4);

/** The groups of `shot` in motion; chains are numbered anew, in the order of the track. */
export function makeWorld(
  character: Character,
  shot: Shot,
  track: SourceTrack,
  groups: readonly Group[],
): World {
  const h = 1 / (shot.fps * shot.substeps);
  track.arena.release(track.size);
  const indices = groups.flatMap((g) => g.chains).sort((a, b) => a - b);
  const members = groups.map((g) => g.chains.map((i) => indices.indexOf(i)));
  const tracks = indices.map((i): ChainTrack => {
    const { hanging, ...c } = track.chains[i]!;
    return { ...c, hanging: { chain: indices.indexOf(hanging.chain), link: hanging.link } };
  });
  const parts = tracks.map((c) => shot.parts[c.layout.part.id]!);
  const free = groups.findIndex((g) => g.free);
  const colliders = makeColliders(
    character,
    collidersOf(shot).filter((c) => free >= 0 || (!c.free && parts.some((p) => concerns(c, p)))),
    track,
  );
  const tunings = tracks.map((c, i) => makeTuning(parts[i]!, shot, c.lengths));
  const begins = track.from;
  const solvers = tracks.map((c, i) =>
    makeChainSolver(
      { lengths: c.lengths, masses: tunings[i]!.masses(begins) },
      NO_FEEL,
      h,
      track.arena,
      delayedRows(c, track, (frame) => tunings[i]!.value('delay', frame)),
    ),
  );
  for (const s of solvers) s.setLooping(shot.loop);
  const pulling = parts.map((part, i) => part.pullsBack && tracks[i]!.hanging.chain >= 0);
  /** What hangs on each chain and pulls back on it: its mass rides on the link it hangs from. */
  const hung = solvers.map((s) => new Float64Array(s.links));
  const places = tracks.map((c) => hangingPlace(c, tracks, track.first - track.from + 1));
  tracks.forEach((c, i) => {
    if (!pulling[i]) return;
    const mass = solvers[i]!.mass.reduce((a, b) => a + b, 0);
    const { link, chain } = c.hanging;
    if (link > 0) hung[chain]![link - 1]! += (1 - places[i]!) * mass;
    hung[chain]![link]! += places[i]! * mass;
  });
  /** Accelerations that wait for each chain's next step: from what it touched and what hangs on it. */
  const pushes = solvers.map((s) => new Float64Array(3 * s.links));
  const pushed = new Uint8Array(solvers.length);
  /** Whether `fall` holds more than gravity from the step before. */
  const altered = new Uint8Array(solvers.length);

  // Links as bodies, for chains that touch other chains. The later of two carries the contact.
  const pairOf = (i: number, j: number) => i !== j && touch(parts[i]!, parts[j]!);
  const linkBodies = solvers.map((solver, i) =>
    solvers.some((_, j) => j > i && pairOf(i, j))
      ? makeLinkBodies(solver, tunings[i]!.skin(begins).thickness)
      : [],
  );
  const contacts = solvers.map((solver, i) => {
    const bodies: Body[] = colliders.flatMap((c) =>
      minds(parts[i]!.touches.colliders, c.collider.id) ? [c.body] : [],
    );
    for (let j = 0; j < i; j++) if (pairOf(i, j)) bodies.push(...linkBodies[j]!);
    const length = tracks[i]!.lengths.reduce((a, b) => a + b, 0);
    return bodies.length > 0 ? makeChainContacts(solver, bodies, h, length, track.arena) : null;
  });
  const airs = solvers.map((s) => makeAir(s, track.arena));
  const forces = parts.map((p) => forcesOn(shot, p.id));
  const chains = solvers.map((solver, i): ChainRun => ({
    index: indices[i]!,
    part: parts[i]!,
    track: tracks[i]!,
    tuning: tunings[i]!,
    solver,
    contacts: contacts[i]!,
    minds: colliders.flatMap((c) =>
      minds(parts[i]!.touches.colliders, c.collider.id) ? [c.collider.id] : [],
    ),
    shift: new Float64Array(6),
  }));
  const bodyTurns = solvers.map(() => new Float64Array(4));
  /** Speed of each chain's source root in the step before, m/s: what `shift` is driven by. */
  const rootSpeeds = solvers.map(() => new Float64Array(3));
  const basics = solvers.map((s) => new Float64Array(3 * s.links));
  const ties = parts.map((p) => (p.tie ? makeTie(p.tie, p, colliders, track) : null));
  const pulls = parts.map((p) => p.pulls.map((pull) => makePull(pull, shot)));
  const carries = tracks.map((_, i) => tracks.some((c) => c.hanging.chain === i));
  const gravity = new Float64Array(3);
  const gravityCurve = shot.gravityKeys.length > 0 ? makeValueCurve(shot.gravityKeys) : () => 1;
  const allBodies = colliders.map((c) => c.body);
  const anyFree = allBodies.some((b) => b.free);
  const lastTuned = new Float64Array(solvers.length).fill(NaN);
  let calmed = false;

  function tune(i: number, frame: number): void {
    const feel = tunings[i]!.feel(frame);
    const solver = solvers[i]!;
    solver.tune(
      calmed ? { ...feel, damping: Math.max(1, feel.damping) } : feel,
      tunings[i]!.masses(frame),
      hung[i]!,
    );
    basics[i]!.set(solver.fall);
    lastTuned[i] = frame;
  }

  function placeSource(i: number, row: number, share: number, carry: boolean): void {
    const c = tracks[i]!;
    const solver = solvers[i]!;
    solver.place(row, share);
    if (carry && c.hanging.chain >= 0) carryAlong(solver, solvers[c.hanging.chain]!, c.hanging.link);
    const { shift } = chains[i]!;
    if (shift[0] !== 0 || shift[1] !== 0 || shift[2] !== 0)
      for (let k = 0; k < solver.source.length; k += 3)
        for (let a = 0; a < 3; a++) solver.source[k + a]! += shift[a]!;
    if (parts[i]!.planeLock !== 'none') {
      rowAt(bodyNow, c.body, 4, row, share);
      quatNormalise(bodyNow, 0);
      quatRotate(solver.plane, 0, bodyNow, 0, AXES[parts[i]!.planeLock], 0);
    }
  }

  function begin(row: number, frame: number, still: boolean): void {
    for (const c of colliders) {
      c.place(row, 0, frame);
      c.body.before.set(c.body.now);
    }
    const speeds = solvers.map((s) => new Float64Array(s.x.length));
    const little = h * shot.fps * 1e-3;
    chains.forEach((c, i) => {
      c.shift.fill(0);
      rootSpeeds[i]!.fill(0);
      tune(i, frame);
      if (still) return;
      placeSource(i, row, little, false);
      speeds[i]!.set(solvers[i]!.source);
      placeSource(i, row, 0, false);
      solvers[i]!.source.forEach((x, k) => (speeds[i]![k] = (speeds[i]![k]! - x) / (h * 1e-3)));
      for (let a = 0; a < 3; a++) rootSpeeds[i]![a] = speeds[i]![a]!;
      feltSpeeds(i, row, little, frame, speeds[i]!);
    });
    chains.forEach((c, i) => {
      placeSource(i, row, 0, false);
      solvers[i]!.reset(speeds[i]!);
      rowAt(bodyTurns[i]!, c.track.body, 4, row, 0);
      pushes[i]!.fill(0);
      pushed[i] = 0;
      standLinks(i);
    });
    ties.forEach((t) => t?.begin());
    pulls.forEach((list) => list.forEach((p) => p.begin()));
  }

  /** Takes from the speeds of a moving start what the chain does not feel of its root's travel and body's turning. */
  function feltSpeeds(i: number, row: number, little: number, frame: number, speeds: Float64Array): void {
    const { tuning, track: c, solver } = chains[i]!;
    const travel = tuning.value('travel', frame) / 100;
    const turn = tuning.value('turn', frame) / 100;
    if (travel === 1 && turn === 1) return;
    rowAt(bodyNow, c.body, 4, row, little);
    quatNormalise(bodyNow, 0);
    const step = bodyTurns[i]!;
    rowAt(step, c.body, 4, row, 0);
    quatConjugate(step, 0, step, 0);
    quatMultiply(step, 0, bodyNow, 0, step, 0);
    const per = (2 * Math.sign(step[3]! || 1)) / (h * 1e-3);
    const [wx, wy, wz] = [step[0]! * per, step[1]! * per, step[2]! * per];
    const root = speeds.slice(0, 3);
    const { source } = solver;
    for (let p = 0; p < speeds.length; p += 3) {
      const rx = source[p]! - source[0]!,
        ry = source[p + 1]! - source[1]!,
        rz = source[p + 2]! - source[2]!;
      speeds[p]! -= (1 - travel) * root[0]! + (1 - turn) * (wy * rz - wz * ry);
      speeds[p + 1]! -= (1 - travel) * root[1]! + (1 - turn) * (wz * rx - wx * rz);
      speeds[p + 2]! -= (1 - travel) * root[2]! + (1 - turn) * (wx * ry - wy * rx);
    }
  }

  /** The moment being stepped to, for what is written between finding contacts and stepping. */
  let rowNow = 0;
  /** Share of the way to the next row, and frame. In an array: numbers that functions share are else made anew each step. */
  const moment = new Float64Array(2);
  /** Writes ties and pulls of a chain after its contacts. */
  const holders = solvers.map((solver, i) => (used: number) => {
    let rows = ties[i]?.write(solver, used, rowNow, moment[0]!) ?? used;
    for (const p of pulls[i]!) rows = p.write(solver, rows, moment[1]!);
    return rows;
  });

  function advance(row: number, share: number, frame: number): void {
    rowNow = row;
    moment[0] = share;
    moment[1] = frame;
    const pull = gravityCurve(frame);
    for (let a = 0; a < 3; a++) gravity[a] = shot.gravity[a]! * pull;
    moveColliders(colliders, row, share, frame, h, gravity, shot.airDensity);
    if (anyFree) collideBodies(allBodies, h);
    for (let i = 0; i < chains.length; i++) {
      const c = chains[i]!;
      const { solver, tuning } = c;
      if (tuning.keyed && lastTuned[i] !== frame) tune(i, frame);
      const slide = tuning.value('shift', frame);
      if (slide > 0) sink(i, row, share, frame, slide);
      placeSource(i, row, share, true);
      const travel = tuning.value('travel', frame) / 100;
      const turn = tuning.value('turn', frame) / 100;
      if (travel !== 1 || turn !== 1) {
        rowAt(bodyNow, c.track.body, 4, row, share);
        quatNormalise(bodyNow, 0);
        ride(solver, bodyTurns[i]!, bodyNow, travel, turn);
        bodyTurns[i]!.set(bodyNow);
      }
      const sail = tuning.sail(frame);
      const airy = shot.airDensity > 0 && sail.catches;
      if (airy || forces[i]!.any || pushed[i] || altered[i]) {
        solver.fall.set(basics[i]!);
        altered[i] = airy || forces[i]!.any || pushed[i] ? 1 : 0;
        if (airy || forces[i]!.any) {
          const { any, field } = forces[i]!;
          if (any) forces[i]!.at(frame);
          airs[i]!.blow(sail, shot.airDensity, any ? field : null);
        }
        solver.setAiry(airy);
        if (pushed[i]) {
          for (let k = 0; k < pushes[i]!.length; k++) solver.fall[k]! += pushes[i]![k]!;
          pushes[i]!.fill(0);
        }
        pushed[i] = 0;
      }
      const skin = tuning.skin(frame);
      if (c.contacts) c.contacts.step(skin, holders[i]!);
      else {
        solver.setContacts(holders[i]!(0));
        solver.step();
      }
      if (carries[i]) solver.updateTurns();
      for (const b of linkBodies[i]!) moveLinkBody(b, solver);
      if (pulling[i]) pullBack(i);
      gatherLinkPushes();
    }
  }

  /** The root gives way on a damped spring of the chain's own hold, up to `slide` m. */
  function sink(i: number, row: number, share: number, frame: number, slide: number): void {
    const { shift, solver, tuning } = chains[i]!;
    const omega = 2 * Math.PI * Math.max(LEAST_SHIFT_HZ, tuning.value('hold', frame));
    const zeta = Math.max(0.05, tuning.value('damping', frame));
    for (let a = 0; a < 3; a++) {
      rootBefore[a] = solver.source[a]! - shift[a]!;
      was[a] = shift[a]!;
    }
    shift.fill(0, 0, 3);
    placeSource(i, row, share, true);
    // Seen from the source's root, which moves on by `way`, the place falls back by as much.
    for (let a = 0; a < 3; a++) {
      const way = solver.source[a]! - rootBefore[a]!;
      const rootSpeed = way / h;
      const drive = (rootSpeed - rootSpeeds[i]![a]!) / h;
      rootSpeeds[i]![a] = rootSpeed;
      // Trapezoidal rule for o″ = −ω² o − 2ζω o′ − a.
      const k = omega * omega;
      const d = 2 * zeta * omega;
      const g = solver.fall[a]! - drive;
      const speed =
        (shift[3 + a]! * (1 - (h / 2) * d - (h * h * k) / 4) + h * (g - k * was[a]!)) /
        (1 + (h / 2) * d + (h * h * k) / 4);
      shift[a] = was[a]! + (h / 2) * (speed + shift[3 + a]!);
      shift[3 + a] = speed;
    }
    const l = Math.sqrt(shift[0]! ** 2 + shift[1]! ** 2 + shift[2]! ** 2);
    if (l > slide) {
      for (let a = 0; a < 3; a++) shift[a]! *= slide / l;
      shift.fill(0, 3, 6);
    }
  }

  /** What the chain's root asks of the link it hangs from, beyond the mass that rides there already. */
  function pullBack(i: number): void {
    const { hanging } = tracks[i]!;
    const child = solvers[i]!;
    const parent = solvers[hanging.chain]!;
    let mass = 0;
    moved.fill(0);
    for (let p = 0; p < child.links; p++) {
      mass += child.mass[p]!;
      for (let a = 0; a < 3; a++)
        moved[a]! -=
          child.mass[p]! *
          ((child.v[3 * p + 3 + a]! - child.vOld[3 * p + 3 + a]!) / h - child.fall[3 * p + a]!);
    }
    const push = pushes[hanging.chain]!;
    for (let end = 0; end < 2; end++) {
      const p = hanging.link - 1 + end;
      const share = end === 0 ? 1 - places[i]! : places[i]!;
      if (p < 0 || share === 0) continue;
      for (let a = 0; a < 3; a++) {
        const felt =
          (parent.v[3 * p + 3 + a]! - parent.vOld[3 * p + 3 + a]!) / h - basics[hanging.chain]![3 * p + a]!;
        push[3 * p + a]! += (share * (moved[a]! + mass * felt)) / parent.mass[p]!;
      }
    }
    pushed[hanging.chain] = 1;
  }

  /** Puts a chain's link bodies where its links are, at rest. */
  function standLinks(i: number): void {
    for (const b of linkBodies[i]!) {
      moveLinkBody(b, solvers[i]!);
      b.before.set(b.now);
    }
  }

  function gatherLinkPushes(): void {
    for (let j = 0; j < linkBodies.length; j++) {
      for (const b of linkBodies[j]!) {
        const { push, index } = b;
        const solver = solvers[j]!;
        for (let e = 0; e < 2; e++) {
          const p = index - 1 + e;
          for (let a = 0; a < 3; a++) {
            if (push[3 * e + a] === 0) continue;
            if (p >= 0) pushes[j]![3 * p + a]! += push[3 * e + a]! / (solver.mass[p]! * h);
            push[3 * e + a] = 0;
            pushed[j] = 1;
          }
        }
      }
    }
  }

  const stateOf = (i: number) => {
    const s = solvers[i]!;
    return [s.memory, chains[i]!.shift, bodyTurns[i]!, rootSpeeds[i]!, pushes[i]!];
  };
  const freeStates = (g: number) =>
    g !== free
      ? []
      : colliders.flatMap(({ body }) => (body.free ? [body.now, body.free.velocity, body.free.spin] : []));
  const moving = (g: number) => [...members[g]!.flatMap(stateOf), ...freeStates(g)];
  /** What is remembered beside what moves: contacts, places of links, what waits for the next step, what slipped off. */
  const asides = (g: number): (Float64Array | Uint8Array)[] =>
    members[g]!.flatMap((i) => {
      const { aims, fall } = solvers[i]!;
      return [
        ...[aims, fall, pushed.subarray(i, i + 1), altered.subarray(i, i + 1)],
        ...(contacts[i]?.memory() ?? []),
        ...linkBodies[i]!.map((b) => b.now),
        ...(ties[i] ? [ties[i].memory] : []),
      ];
    });
  const eachPull = (g: number, f: (slipped: Uint8Array, id: string) => void) =>
    members[g]!.forEach((i) =>
      pulls[i]!.forEach((p, k) => f(p.memory, `${parts[i]!.id} ${parts[i]!.pulls[k]!.id}`)),
    );

  return {
    chains,
    colliders,
    begin,
    advance,
    groups: groups.length,
    save: (g) => joined(moving(g)),
    load: (g, state) => {
      parted(state, moving(g));
      for (const i of members[g]!) {
        pushed[i] = 1;
        standLinks(i);
      }
    },
    still: (g) =>
      members[g]!.every((i) => {
        const most = STILL * tracks[i]!.lengths.reduce((a, b) => a + b, 0);
        return solvers[i]!.v.every((x) => Math.abs(x) < most);
      }),
    remember: (g) => {
      const slipped = new Set<string>();
      eachPull(g, (is, id) => is[0] && slipped.add(id));
      return { numbers: joined([...moving(g), ...asides(g)]), slipped };
    },
    recall: (g, { numbers, slipped }) => {
      parted(numbers, [...moving(g), ...asides(g)]);
      eachPull(g, (is, id) => (is[0] = slipped.has(id) ? 1 : 0));
      // A link's body is as long as the link is.
      for (const i of members[g]!) linkBodies[i]!.forEach((b) => moveLinkBody(b, solvers[i]!));
    },
    stand: (row, frame) => {
      for (const c of colliders) if (!c.body.free) c.place(row, 0, frame);
    },
    travel: (by, row, frame) => {
      for (const c of colliders) {
        const { body } = c;
        if (body.free) carryBody(body, by);
        else {
          // What rides is carried by the clip itself; what stands still stays.
          c.place(row, 0, frame);
          body.before.set(body.now);
        }
      }
      chains.forEach((c, i) => {
        solvers[i]!.carry(by);
        c.contacts?.carry(by);
        quatRotate(c.shift, 0, by, 3, c.shift, 0);
        quatRotate(c.shift, 3, by, 3, c.shift, 3);
        quatRotate(rootSpeeds[i]!, 0, by, 3, rootSpeeds[i]!, 0);
        quatMultiply(bodyTurns[i]!, 0, by, 3, bodyTurns[i]!, 0);
        standLinks(i);
      });
    },
    calm: (on, frame) => {
      calmed = on;
      chains.forEach((_, i) => tune(i, frame));
    },
  };
}

/** Copies of arrays in one: an array has a cost of its own, however short. */
function joined(all: readonly (Float64Array | Uint8Array)[]): Float64Array {
  const out = new Float64Array(all.reduce((sum, a) => sum + a.length, 0));
  let at = 0;
  for (const a of all) {
    out.set(a, at);
    at += a.length;
  }
  return out;
}

/** Puts what was joined back into its arrays. */
function parted(numbers: Float64Array, all: readonly (Float64Array | Uint8Array)[]): void {
  let at = 0;
  for (const a of all) a.set(numbers.subarray(at, (at += a.length)));
}

/** Takes a chain's source along with the simulated joint it hangs from. */
function carryAlong(solver: ChainSolver, parent: ChainSolver, link: number): void {
  const p = 3 * link;
  const q = 4 * link;
  for (let k = 0; k < solver.source.length; k += 3) {
    for (let a = 0; a < 3; a++) moved[a] = solver.source[k + a]! - parent.source[p + a]!;
    quatRotate(moved, 0, parent.turns, q, moved, 0);
    for (let a = 0; a < 3; a++) solver.source[k + a] = parent.x[p + a]! + moved[a]!;
  }
  for (let k = 0; k < solver.sourceTurn.length; k += 4)
    quatMultiply(solver.sourceTurn, k, parent.turns, q, solver.sourceTurn, k);
}

interface LinkBodyRun extends Body {
  readonly index: number;
  readonly push: Float64Array;
}

function makeLinkBodies(solver: ChainSolver, thickness: Float64Array): LinkBodyRun[] {
  return Array.from({ length: solver.links }, (_, index) => {
    const push = new Float64Array(6);
    const gives = Float64Array.of(index > 0 ? 1 / solver.mass[index - 1]! : 0, 1 / solver.mass[index]!);
    const o = 3 * index;
    let l = 0;
    for (let a = 0; a < 3; a++) l += (solver.source[o + 3 + a]! - solver.source[o + a]!) ** 2;
    const shape = {
      kind: 'capsule',
      radius: Math.max(1e-6, thickness[index]!),
      half: Math.sqrt(l) / 2,
    } as const;
    return { ...makeBody(shape, 1, 0, null, { gives, push }), index, push };
  });
}

/** Puts a link's body where the link is now; where it was becomes its start of the step. */
function moveLinkBody(body: LinkBodyRun, solver: ChainSolver): void {
  body.before.set(body.now);
  const o = 3 * body.index;
  const { x } = solver;
  const d = [x[o + 3]! - x[o]!, x[o + 4]! - x[o + 1]!, x[o + 5]! - x[o + 2]!] as const;
  const l = Math.sqrt(d[0] * d[0] + d[1] * d[1] + d[2] * d[2]) || 1;
  (body.shape as { half: number }).half = l / 2;
  for (let a = 0; a < 3; a++) body.now[a] = (x[o + a]! + x[o + 3 + a]!) / 2;
  quatBetween(body.now, 3, 0, 1, 0, d[0] / l, d[1] / l, d[2] / l);
}

/** Share along the link a chain hangs from, from its root end, of the place nearest to the chain's own root at the start. */
function hangingPlace(c: ChainTrack, tracks: readonly ChainTrack[], row: number): number {
  if (c.hanging.chain < 0) return 0;
  const parent = tracks[c.hanging.chain]!;
  const own = row * 3 * (c.lengths.length + 1);
  const at = row * 3 * (parent.lengths.length + 1) + 3 * c.hanging.link;
  let along = 0;
  let length = 0;
  for (let a = 0; a < 3; a++) {
    const d = parent.points[at + 3 + a]! - parent.points[at + a]!;
    along += d * (c.points[own + a]! - parent.points[at + a]!);
    length += d * d;
  }
  return length > 0 ? Math.min(1, Math.max(0, along / length)) : 0;
}

/** Something that writes pulls into a chain's contact rows, from row `used` on; returns the rows then in use. */
interface Holder<A extends unknown[]> {
  /** Whether it has let go: 0 or 1. */
  readonly memory: Uint8Array;
  begin(): void;
  write(solver: ChainSolver, used: number, ...at: A): number;
}

function writePull(
  solver: ChainSolver,
  used: number,
  link: number,
  along: number,
  stiffness: number,
  target: Float64Array,
): number {
  if (used >= solver.contact.length / CONTACT_ROW) return used;
  const r = used * CONTACT_ROW;
  const { contact, source } = solver;
  contact.fill(0, r, r + CONTACT_ROW);
  contact[r + CONTACT.link] = link;
  contact[r + CONTACT.along] = along;
  contact[r + CONTACT.stiffness] = stiffness;
  for (let a = 0; a < 3; a++) contact[r + CONTACT.anchor + a] = target[a]! - source[a]!;
  contact[r + CONTACT.kind] = 1;
  return used + 1;
}

/** Distance of a place along a link from a target, m. */
function distanceTo(solver: ChainSolver, link: number, along: number, target: Float64Array): number {
  let sum = 0;
  for (let a = 0; a < 3; a++) {
    const p = (1 - along) * solver.x[3 * link + a]! + along * solver.x[3 * link + 3 + a]!;
    sum += (p - target[a]!) ** 2;
  }
  return Math.sqrt(sum);
}

/** How much softer a tie is than a length, so that lengths win where both cannot be kept. */
const TIE = 1e-3;

function makeTie(
  tie: Tie,
  part: ChainPart,
  colliders: readonly ColliderRun[],
  track: SourceTrack,
): Holder<[row: number, share: number]> {
  const target = new Float64Array(3);
  const placed = new Float64Array(7);
  const rows = 'joint' in tie.to ? track.joints.get(tie.to.joint.node) : undefined;
  const to = 'collider' in tie.to ? tie.to.collider : null;
  const body = to === null ? null : (colliders.find((c) => c.collider.id === to)?.body ?? null);
  if (!rows && !body)
    throw new OscillumError(
      'shot.invalid',
      `${part.name}: what its tip is tied to is not there`,
      `/parts/${part.id}/tie`,
      'Tie it to another joint or collider, or untie it.',
    );
  const broken = new Uint8Array(1);
  return {
    memory: broken,
    begin: () => void (broken[0] = 0),
    write: (solver, used, row, share) => {
      if (rows) {
        rowAt(placed, rows, 7, row, share);
        quatNormalise(placed, 3);
      } else placed.set(body!.now);
      quatRotate(target, 0, placed, 3, tie.t, 0);
      for (let a = 0; a < 3; a++) target[a]! += placed[a]!;
      if (distanceTo(solver, solver.links - 1, 1, target) > tie.breakAt) broken[0] = 1;
      return broken[0] ? used : writePull(solver, used, solver.links - 1, 1, solver.hardness() * TIE, target);
    },
  };
}

function makePull(pull: Pull, shot: Shot): Holder<[frame: number]> {
  const target = new Float64Array(3);
  const last = pull.path.length - 1;
  const slipped = new Uint8Array(1);
  return {
    memory: slipped,
    begin: () => void (slipped[0] = 0),
    write: (solver, used, frame) => {
      const at = frame - pull.first;
      if (at < 0 || at > last || slipped[0] || pull.link >= solver.links) return used;
      const i = Math.min(last, Math.floor(at));
      const u = at - i;
      const [a, b] = [pull.path[i]!, pull.path[Math.min(last, i + 1)]!];
      for (let c = 0; c < 3; c++) target[c] = a[c]! + u * (b[c]! - a[c]!);
      if (distanceTo(solver, pull.link, pull.along, target) > pull.slip) slipped[0] = 1;
      if (slipped[0]) return used;
      const mass = solver.mass.reduce((m, x) => m + x, 0);
      const h = 1 / (shot.fps * shot.substeps);
      const stiffness = (4 / 9) * h * h * mass * (2 * Math.PI * pull.strength) ** 2;
      return writePull(solver, used, pull.link, pull.along, stiffness, target);
    },
  };
}
