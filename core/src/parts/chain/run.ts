import { quatConjugate, quatMultiply, quatNormalise, quatRotate } from '../../math/index';
import { makeAir, makeChainContacts, makeChainSolver, NO_FEEL } from '../../solver/index';
import type { Air, ChainContacts, ChainSolver } from '../../solver/index';
import type { Frames } from '../../frames/index';
import { minds } from '../../model/index';
import type {
  Anchor,
  Env,
  MomentRow,
  PartForces,
  PartRun,
  PartTrack,
  Posed,
  RunNeeds,
  Slip,
  Touchable,
} from '../kind';
import { rowAt } from '../rows';
import { delayedRows } from './delayPerJoint';
import type { ChainPart } from './document';
import { carryAlong, hangingPlace, pullBack } from './hang';
import { makePull, makeTipPin } from './holders';
import { overlapRows } from './overlap';
import type { ChainLayout } from './layout';
import { makeLinkBodies, moveLinkBody, type LinkBodyRun } from './links';
import { handPoses, posedRows } from './poses';
import { feltOf, ride } from './respond';
import { sink } from './rootSlide';
import type { ChainSource } from './source';
import { makeSprings, type Springs } from './springs';
import { makeTuning, type ChainTuning } from './tuning';
import { makeChainWriter, type ChainWriter, type Written } from './write';
import { longest } from '../stray';

/** A chain is still when no point moves faster than this share of its length a second. */
const STILL = 1e-5;

const AXES = { none: [0, 0, 0], x: [1, 0, 0], y: [0, 1, 0], z: [0, 0, 1] } as const;

const rootBefore = new Float64Array(3);
const shifted = new Float64Array(3);
const bodyNow = new Float64Array(4);

/** One chain of a shot in motion. */
class ChainRun implements PartRun, Written {
  readonly index: number;
  readonly part: ChainPart;
  readonly track: PartTrack<ChainLayout, ChainSource>;
  readonly tuning: ChainTuning;
  readonly solver: ChainSolver;
  readonly contacts: ChainContacts | null;
  /** Ids of the colliders it minds, in the order of its contacts' bodies (links of other chains come after). */
  readonly minds: readonly string[];
  readonly bodies: readonly LinkBodyRun[];
  readonly points: Touchable;
  readonly moving: readonly Float64Array[];
  readonly slips: readonly Slip[];
  private readonly air: Air;
  private readonly forces: PartForces;
  /** Place and speed of the root off its source, 3 and 3 numbers: `slid`. */
  private readonly slid = new Float64Array(6);
  /** Turn of what it hangs from in the step before. */
  private readonly bodyTurn = new Float64Array(4);
  /** Speed of the source root in the step before, m/s: what `slid` is driven by. */
  private readonly rootSpeed = new Float64Array(3);
  /** Gravity on its points. */
  private readonly basic: Float64Array;
  /**
   * Accelerations that wait for its next step, from what it touched and what hangs on it; and whether there are any.
   */
  private readonly push: Float64Array;
  private readonly pushed = new Uint8Array(1);
  /** Whether `fall` holds more than gravity from the step before. */
  private readonly altered = new Uint8Array(1);
  /** What hangs on it and pulls back rides on its points, kg. */
  private readonly hung: Float64Array;
  private readonly tipPin: ReturnType<typeof makeTipPin> | null;
  private readonly pulls: readonly ReturnType<typeof makePull>[];
  private readonly springs: readonly Springs[];
  /** What it hangs from: where that is, and its points when this chain pulls back on them. */
  private readonly anchor: Anchor | null;
  private readonly bearer: Touchable | null;
  private readonly place: number;
  readonly carries: boolean;
  private readonly writer: ChainWriter;
  private lastTuned = NaN;
  private calmed = false;
  /** The moment being stepped to, for what is written between finding contacts and stepping. */
  private rowNow = 0;
  /** Share of the way to the next row, and frame. In an array: a number in a field is made anew each time it is set. */
  private readonly moment = new Float64Array(2);
  /** Writes ties and pulls after the contacts. */
  private readonly hold: (used: number) => number;

  constructor(
    { part, index, track, runs, touching, touched, carries }: RunNeeds<ChainPart, ChainLayout, ChainSource>,
    private readonly env: Env,
  ) {
    const { source, hanging } = track;
    const { arena, from, first } = env.track;
    this.part = part;
    this.index = index;
    this.track = track;
    const tuning = makeTuning(part, env, source.lengths);
    this.tuning = tuning;
    const swung = overlapRows(source, part, env.track, tuning);
    const n = source.lengths.length;
    const posed = posedRows(swung, source.body, n, env.track, handPoses(part.anchors));
    const delayed = delayedRows(posed, n, env.track, tuning);
    const matter = { lengths: source.lengths, masses: tuning.masses(from) };
    const solver = makeChainSolver(matter, NO_FEEL, env.h, arena, delayed);
    solver.setLooping(env.looping);
    this.solver = solver;
    this.hung = new Float64Array(solver.links);
    this.push = new Float64Array(3 * solver.links);
    this.basic = new Float64Array(3 * solver.links);
    this.points = this.touchable();

    const parent = hanging.part >= 0 ? runs[hanging.part]! : null;
    this.anchor = parent?.anchorAt(hanging.link) ?? null;
    this.bearer = part.pullsParent ? (parent?.points ?? null) : null;
    this.place = 0;
    if (this.bearer && parent instanceof ChainRun) {
      this.place = hangingPlace(source, parent.track.source, hanging.link, first - from + 1);
      const mass = solver.mass.reduce((a, b) => a + b, 0);
      if (hanging.link > 0) this.bearer.hung[hanging.link - 1]! += (1 - this.place) * mass;
      this.bearer.hung[hanging.link]! += this.place * mass;
    }

    this.bodies = touched ? makeLinkBodies(solver, tuning.skin(from).thickness) : [];
    const minded = env.colliders.filter((c) => minds(part.collidesWith.colliders, c.collider.id));
    this.minds = minded.map((c) => c.collider.id);
    const bodies = [...minded.map((c) => c.body), ...touching];
    const length = source.lengths.reduce((a, b) => a + b, 0);
    this.contacts = bodies.length > 0 ? makeChainContacts(solver, bodies, env.h, length, arena) : null;
    this.air = makeAir(solver, arena);
    this.forces = env.forcesOn(part.id);
    this.tipPin = part.tipPin ? makeTipPin(part.tipPin, part, env.colliders, env.track) : null;
    this.pulls = part.pulls.map(makePull);
    this.slips = this.pulls.map((p, k) => ({ id: `${part.id} ${part.pulls[k]!.id}`, memory: p.memory }));
    this.carries = carries;
    this.springs = runs.flatMap((r) => {
      const spring =
        r instanceof ChainRun
          ? (part.springs.find((s) => s.to === r.part.id) ?? r.part.springs.find((s) => s.to === part.id))
          : undefined;
      return spring ? [makeSprings(this.points, r.points!, spring, env.h)] : [];
    });
    this.moving = [solver.memory, this.slid, this.bodyTurn, this.rootSpeed, this.push];
    this.hold = (used) => {
      let rows = this.tipPin?.write(solver, used, this.rowNow, this.moment[0]!) ?? used;
      for (const p of this.pulls) rows = p.write(solver, rows, this.moment[1]!);
      return rows;
    };
    const above = parent instanceof ChainRun ? parent.track.layout : null;
    this.writer = makeChainWriter(this, env, above);
  }

  private touchable(): Touchable {
    const { mass, v, vOld, x, source } = this.solver;
    const { basic, push, hung } = this;
    return { x, source, mass, v, vOld, basic, push, hung, pushed: () => void (this.pushed[0] = 1) };
  }

  private tune(frame: number): void {
    const feel = this.tuning.feel(frame);
    const damping = this.calmed ? Math.max(1, feel.damping) : feel.damping;
    this.solver.tune(this.calmed ? { ...feel, damping } : feel, this.tuning.masses(frame), this.hung);
    this.basic.set(this.solver.fall);
    this.lastTuned = frame;
  }

  private placeSource(row: number, share: number, carry: boolean): void {
    const { solver, slid, part } = this;
    solver.place(row, share);
    if (carry && this.anchor) carryAlong(solver, this.anchor);
    if (slid[0] !== 0 || slid[1] !== 0 || slid[2] !== 0)
      for (let k = 0; k < solver.source.length; k += 3)
        for (let a = 0; a < 3; a++) solver.source[k + a]! += slid[a]!;
    if (part.staysInPlane !== 'none') {
      rowAt(bodyNow, this.track.source.body, 4, row, share);
      quatNormalise(bodyNow, 0);
      quatRotate(solver.plane, 0, bodyNow, 0, AXES[part.staysInPlane], 0);
    }
  }

  begin(row: number, frame: number, still: boolean): void {
    const { solver, env } = this;
    const speeds = new Float64Array(solver.x.length);
    const little = env.h * env.fps * 1e-3;
    this.slid.fill(0);
    this.rootSpeed.fill(0);
    this.tune(frame);
    if (!still) {
      this.placeSource(row, little, false);
      speeds.set(solver.source);
      this.placeSource(row, 0, false);
      solver.source.forEach((x, k) => (speeds[k] = (speeds[k]! - x) / (env.h * 1e-3)));
      for (let a = 0; a < 3; a++) this.rootSpeed[a] = speeds[a]!;
      this.feltSpeeds(row, little, frame, speeds);
    }
    this.placeSource(row, 0, false);
    solver.reset(speeds);
    rowAt(this.bodyTurn, this.track.source.body, 4, row, 0);
    this.push.fill(0);
    this.pushed[0] = 0;
    this.standLinks();
    this.tipPin?.begin();
    for (const p of this.pulls) p.begin();
    for (const s of this.springs) s.begin();
  }

  /** Takes from the speeds of a moving start what the chain does not feel of its root's travel and body's turning. */
  private feltSpeeds(row: number, little: number, frame: number, speeds: Float64Array): void {
    const felt = feltOf(this.tuning, frame);
    if (!felt) return;
    const { body } = this.track.source;
    rowAt(bodyNow, body, 4, row, little);
    quatNormalise(bodyNow, 0);
    const step = this.bodyTurn;
    rowAt(step, body, 4, row, 0);
    quatConjugate(step, 0, step, 0);
    quatMultiply(step, 0, bodyNow, 0, step, 0);
    const per = (2 * Math.sign(step[3]! || 1)) / (this.env.h * 1e-3);
    const [wx, wy, wz] = [step[0]! * per, step[1]! * per, step[2]! * per];
    const root = speeds.slice(0, 3);
    const { source } = this.solver;
    for (let p = 0; p < speeds.length; p += 3) {
      const [travel, turn] = [felt.travel(p / 3), felt.turn(p / 3)];
      const rx = source[p]! - source[0]!,
        ry = source[p + 1]! - source[1]!,
        rz = source[p + 2]! - source[2]!;
      speeds[p]! -= (1 - travel) * root[0]! + (1 - turn) * (wy * rz - wz * ry);
      speeds[p + 1]! -= (1 - travel) * root[1]! + (1 - turn) * (wz * rx - wx * rz);
      speeds[p + 2]! -= (1 - travel) * root[2]! + (1 - turn) * (wx * ry - wy * rx);
    }
  }

  advance(row: number, share: number, frame: number): void {
    const { solver, tuning } = this;
    this.rowNow = row;
    this.moment[0] = share;
    this.moment[1] = frame;
    if (tuning.keyed && this.lastTuned !== frame) this.tune(frame);
    const slide = tuning.value('rootSlide', frame);
    if (slide > 0) this.sink(row, share, frame, slide);
    this.placeSource(row, share, true);
    const felt = feltOf(tuning, frame);
    if (felt) {
      rowAt(bodyNow, this.track.source.body, 4, row, share);
      quatNormalise(bodyNow, 0);
      ride(solver, this.bodyTurn, bodyNow, felt);
      this.bodyTurn.set(bodyNow);
    }
    this.feel(frame);
    if (this.contacts) this.contacts.step(tuning.skin(frame), this.hold);
    else {
      solver.setContacts(this.hold(0));
      solver.step();
    }
    if (this.carries) solver.updateTurns();
    for (const b of this.bodies) moveLinkBody(b, solver);
    for (const s of this.springs) s.pull();
    if (this.bearer) pullBack(solver, this.bearer, this.track.hanging.link, this.place, this.env.h);
  }

  /** Accelerations of the coming step: gravity, air, attractors, and what others have pushed. */
  private feel(frame: number): void {
    const { solver, forces, push } = this;
    const sail = this.tuning.sail(frame);
    const airy = this.env.airDensity > 0 && sail.catches;
    if (!airy && !forces.any && !this.pushed[0] && !this.altered[0]) return;
    solver.fall.set(this.basic);
    this.altered[0] = airy || forces.any || this.pushed[0] ? 1 : 0;
    if (airy || forces.any) {
      if (forces.any) forces.at(frame);
      this.air.blow(sail, this.env.airDensity, forces.any ? forces.field : null);
    }
    solver.setAiry(airy);
    if (this.pushed[0]) {
      for (let k = 0; k < push.length; k++) solver.fall[k]! += push[k]!;
      push.fill(0);
    }
    this.pushed[0] = 0;
  }

  /** The root gives way, up to `slide` m. */
  private sink(row: number, share: number, frame: number, slide: number): void {
    const { slid, solver, tuning } = this;
    for (let a = 0; a < 3; a++) {
      rootBefore[a] = solver.source[a]! - slid[a]!;
      shifted[a] = slid[a]!;
    }
    slid.fill(0, 0, 3);
    this.placeSource(row, share, true);
    slid.set(shifted);
    const [hold, damping] = [tuning.value('hold', frame), tuning.value('damping', frame)];
    sink(slid, this.rootSpeed, rootBefore, solver.source, solver.fall, {
      hold,
      damping,
      slide,
      h: this.env.h,
    });
  }

  /** Puts its link bodies where its links are, at rest. */
  private standLinks(): void {
    for (const b of this.bodies) {
      moveLinkBody(b, this.solver);
      b.before.set(b.now);
    }
  }

  gather(): void {
    for (const { push, index } of this.bodies) {
      for (let e = 0; e < 2; e++) {
        const p = index - 1 + e;
        for (let a = 0; a < 3; a++) {
          if (push[3 * e + a] === 0) continue;
          if (p >= 0) this.push[3 * p + a]! += push[3 * e + a]! / (this.solver.mass[p]! * this.env.h);
          push[3 * e + a] = 0;
          this.pushed[0] = 1;
        }
      }
    }
  }

  anchorAt(link: number): Anchor {
    const { source, x, turns } = this.solver;
    return {
      source: source.subarray(3 * link, 3 * link + 3),
      place: x.subarray(3 * link, 3 * link + 3),
      turn: turns.subarray(4 * link, 4 * link + 4),
    };
  }

  /** Contacts, places of links, what waits for the next step, whether its pin has broken. */
  asides(): (Float64Array | Uint8Array)[] {
    const { aims, fall } = this.solver;
    return [
      ...[aims, fall, this.pushed, this.altered],
      ...(this.contacts?.memory() ?? []),
      ...this.bodies.map((b) => b.now),
      ...(this.tipPin ? [this.tipPin.memory] : []),
      ...this.springs.map((s) => s.memory),
    ];
  }

  loaded(): void {
    this.pushed[0] = 1;
    this.standLinks();
  }

  recalled(): void {
    // A link's body is as long as the link is.
    for (const b of this.bodies) moveLinkBody(b, this.solver);
  }

  readonly speed = (): number => longest(this.solver.v);

  still(): boolean {
    const most = STILL * this.track.source.lengths.reduce((a, b) => a + b, 0);
    return this.solver.v.every((x) => Math.abs(x) < most);
  }

  travel(by: Float64Array): void {
    this.solver.carry(by);
    this.contacts?.carry(by);
    quatRotate(this.slid, 0, by, 3, this.slid, 0);
    quatRotate(this.slid, 3, by, 3, this.slid, 3);
    quatRotate(this.rootSpeed, 0, by, 3, this.rootSpeed, 0);
    quatMultiply(this.bodyTurn, 0, by, 3, this.bodyTurn, 0);
    this.standLinks();
  }

  calm(on: boolean, frame: number): void {
    this.calmed = on;
    this.tune(frame);
  }

  note(frames: Frames, begins: boolean): void {
    this.writer.note(frames, begins);
  }

  write(frames: Frames, f: number, shown: Float64Array): void {
    this.writer.write(frames, f, shown);
  }

  writeAt(row: MomentRow, frames: Frames, frame: number, posed: Posed, shown: Float64Array): void {
    const at = frames.parts[this.index]!.joints.from;
    this.writer.turns(frame, posed, row, at, shown);
  }
}

export const makeChainRun = (needs: RunNeeds<ChainPart, ChainLayout, ChainSource>, env: Env): PartRun =>
  new ChainRun(needs, env);
