import type { Frames } from '../../frames/index';
import { sizesOf } from '../../frames/index';
import { cubeRoot, norm } from '../../math/index';
import { makeValueCurve, minds } from '../../model/index';
import type { Body } from '../../solver/index';
import {
  bodyNumbers,
  carryPoints,
  makeSoftBody,
  ShownOut,
  type PressHow,
  type PressNeeds,
  type SoftBody,
} from '../../solver/soft/index';
import { bearing, type Bear } from '../borne';
import { anchorShare } from '../kind';
import type { Env, PartForces, PartRun, PartTrack, RunNeeds, Shows } from '../kind';
import { drivenBy, isDriven } from '../driven';
import { groundOf, type Ground } from '../ground';
import { carryAll } from '../carryAll';
import { ownArena } from '../ownArena';
import { pointsAt, rowAt } from '../rows';
import { stepsAt, type Steps } from '../steps';
import { farthest, longest } from '../stray';
import { BodyAir } from './air';
import type { BodyPart } from './document';
import type { BodyLayout } from './layout';
import { Meets } from './meets';
import { kineticOf, volumesOf } from './readouts';
import { makeSkinBody, type SkinBody } from './skinBody';
import { BODY_SETTINGS, FULL_HOLD } from './settings';
import type { BodySource } from './source';
import { Strings } from './strings';
import { farFrom } from './touchPoints';
import { cellMatterOf, firmOf, impedanceOf, valuesOf, type BodyValues } from './values';

const nothing = (): void => undefined;

/** Steps a second, and those of a body whose first mode is quicker than so many Hz. */
const RATES = [120, 240] as const;
const QUICK = 6;
/** Deeper than this it begins inside a collider, m. */
const INSIDE = 2e-3;
/** Speeds, as a share of its size a second, below which it is at rest. */
const STILL = 2e-3;
/** Nodes painted at least so much follow their animation exactly where the hold is full. */
const PINNED = 0.999;
/** A hard blow, as a multiple of how fast a fall of its own height is. */
const BLOW = 1.6;

class BodyRun implements PartRun {
  readonly index: number;
  readonly points = null;
  readonly bodies: readonly Body[];
  readonly shows: Shows;
  private stands: SkinBody | null;
  readonly slips = [];
  readonly gather = nothing;
  readonly loaded = nothing;
  readonly writeAt = nothing;
  private readonly part: BodyPart;
  private readonly track: PartTrack<BodyLayout, BodySource>;
  private readonly body: SoftBody;
  private readonly value: BodyValues;
  private readonly steps: Steps;
  private readonly meets: Meets;
  /** Ids of the colliders it minds, in the order of its bodies. */
  private readonly minds: readonly string[];
  private readonly press: PressNeeds;
  private readonly bears: readonly [Bear | null, Bear | null];
  private readonly pullAt: (frame: number) => number;
  /** s: one step of its own. */
  private readonly h: number;
  /** Its skin, as animated, and how far each point of it is from there. */
  private readonly skin: Float64Array;
  private readonly off: Float64Array;
  /** Points of it that may touch something. */
  private readonly may: Int32Array;
  /** Where the nodes are animated, and how far they are from there. */
  private readonly apart: Float64Array;
  /** Where the animated nodes would carry each point that may touch. */
  private readonly carried: Float64Array;
  private readonly gravity = new Float64Array(3);
  /** How much longer its edges want to be. */
  private readonly grown = Float64Array.of(1);
  private calmed = false;
  private readonly outs: ShownOut | null;
  private readonly air: BodyAir;
  private readonly forces: PartForces;
  private how: PressHow;
  private readonly strings: Strings;
  /** Whether any of its settings changes over time. */
  private readonly keyed: boolean;
  private started = { depth: 0, deepIn: -1 };
  private noted = { pressing: 0, depth: 0, deepIn: -1, slip: 0 };

  constructor(
    { part, index, track, touching, touched, runs }: RunNeeds<BodyPart, BodyLayout, BodySource>,
    private readonly env: Env,
  ) {
    this.part = part;
    this.index = index;
    this.track = track;
    this.value = drivenBy(valuesOf(part), part.id, BODY_SETTINGS, env.track.drivers);
    this.pullAt = env.gravityKeys.length > 0 ? makeValueCurve(env.gravityKeys) : () => 1;
    const { lattice, touch, sheet, height, node, skeleton } = track.layout;
    const minded = env.colliders.filter((c) => minds(part.collidesWith.colliders, c.collider.id));
    this.minds = minded.map((c) => c.collider.id);
    this.meets = new Meets([...minded.map((c) => c.body), ...touching]);
    const matter = this.matter(env.track.first);
    this.how = this.howNow(env.track.first);
    this.strings = new Strings(track, env, runs);
    this.keyed = Object.keys(part.keys).length > 0 || isDriven(part.id, env.track.drivers);
    this.steps = stepsAt(
      RATES[!track.layout.rough && this.quickest() > QUICK ? 1 : 0],
      env.fps,
      env.substeps,
    );
    this.h = 1 / (env.fps * this.steps.aFrame);
    this.press = {
      skin: { ...touch, off: new Float64Array(3 * touch.points) },
      bodies: this.meets.bodies,
      pushed: this.meets.pushed,
      strings: this.strings.all,
      how: () => this.how,
      blow: BLOW * Math.sqrt(2 * 9.81 * height),
      h: this.h,
    };
    const arena = ownArena(env.track, part.id, bodyNumbers(lattice, this.press));
    this.body = makeSoftBody(lattice, matter, this.h, arena, this.press);
    this.stands = touched ? this.skinBody() : null;
    this.bodies = this.stands ? [this.stands.body] : [];
    this.outs =
      touch.points < sheet.points ? new ShownOut(sheet.points, this.meets.pushed, () => this.how) : null;
    this.air = new BodyAir(this.body, this.press.skin, lattice.rest);
    this.forces = env.forcesOn(part.id);
    const { firm } = track.layout.shares;
    if (firm) this.body.stiff.set(firmOf(firm, lattice.corners));
    this.skin = new Float64Array(3 * sheet.points);
    this.off = new Float64Array(3 * sheet.points);
    this.may = Int32Array.from(new Set(touch.of)).sort();
    this.shows = { places: this.skin, off: this.off };
    this.apart = new Float64Array(3 * lattice.nodes);
    this.carried = new Float64Array(3 * touch.points);
    const own = Int32Array.from({ length: lattice.nodes }, (_, i) => i);
    this.bears = [
      bearing(env.character, node, sheet.pointOf, track, runs),
      bearing(skeleton, node, own, track, runs),
    ];
  }

  /** The quickest that its first wobble ever is, Hz: at the keys of what it is made of. */
  private quickest(): number {
    const keys = [...(this.part.keys.droop ?? []), ...(this.part.keys.density ?? [])];
    return Math.max(...[this.env.track.first, ...keys.map((k) => k.frame)].map((f) => this.matter(f).first));
  }

  private howNow(frame: number): PressHow {
    const matter = this.matter(frame);
    return {
      thickness: this.value('thickness', frame),
      friction: this.value('friction', frame),
      impedance: impedanceOf(matter),
      mass: matter.density * this.track.layout.filled,
    };
  }

  private readonly matter = (frame: number) =>
    cellMatterOf(this.value, frame, this.track.layout, this.calmed);

  grownOn(node: number): Ground | null {
    const { node: own, sheet } = this.track.layout;
    const strays = (frame: number) => this.strays(this.amountAt(frame));
    return node === own ? groundOf(sheet.pointOf, strays, (this.stands ??= this.skinBody()).body) : null;
  }

  get moving() {
    return this.body.moving;
  }

  asides(): readonly (Float64Array | Uint8Array)[] {
    const { body, meets, grown, skin, press } = this;
    const waits = this.stands?.waits ?? [];
    return [...body.asides, ...meets.state, grown, skin, body.shown, press.skin.off, ...waits];
  }

  /** Where its animation has the nodes and the surface at a moment, in rows. */
  private follow(moment: number, shown: Float64Array): void {
    const { source, layout } = this.track;
    const row = Math.floor(moment + 1e-9);
    const share = Math.max(0, moment - row);
    rowAt(shown, source.shown, shown.length, row, share);
    // Between frames only what may touch is asked for.
    if (share > 0 && !this.bears[0]) pointsAt(this.skin, source.skin, this.skin.length, row, share, this.may);
    else rowAt(this.skin, source.skin, this.skin.length, row, share);
    this.bears[0]?.(this.skin);
    this.bears[1]?.(shown);
    // How far each point of the surface is from where the animated nodes would carry it.
    const { off } = this.press.skin;
    off.fill(0);
    carryPoints(this.carried, this.press.skin, shown);
    farFrom(off, layout.touch, this.skin, this.carried);
  }

  private tune(frame: number): void {
    const { body, value, track } = this;
    this.how = this.howNow(frame);
    body.setMatter(this.matter(frame));
    const hold = value('hold', frame);
    const ratio = this.calmed ? Math.max(1, value('holdDamping', frame)) : value('holdDamping', frame);
    const painted = track.layout.shares.hold;
    for (let i = 0; i < body.pull.length; i++) {
      const share = painted ? painted[i]! : 1;
      const pinned = hold >= FULL_HOLD && share >= PINNED;
      const rate = 2 * Math.PI * hold * share;
      body.free[i] = pinned ? 0 : 1;
      body.pull[i] = rate * rate;
      body.damp[i] = 2 * ratio * rate;
    }
  }

  begin(row: number, frame: number, still: boolean): void {
    const { body, env, part, meets } = this;
    const { shown } = body;
    const speeds = new Float64Array(shown.length);
    if (!still && row > 0) {
      this.follow(row - 1, shown);
      speeds.set(shown);
    }
    this.follow(row, shown);
    if (!still && row > 0)
      for (let o = 0; o < speeds.length; o++) speeds[o] = (shown[o]! - speeds[o]!) * env.fps;
    this.tune(frame);
    const up = env.upAxis === 'Z' ? 2 : 1;
    const places = shown.map((x, o) => (o % 3 === up && body.free[(o - (o % 3)) / 3] ? x + part.lift : x));
    this.grown[0] = cubeRoot(this.value('swell', frame));
    body.grow.fill(this.grown[0]);
    body.growing.fill(0);
    meets.begin();
    this.strings.go(row);
    const animated = Float64Array.from(shown);
    this.started = body.begin(places, speeds);
    Object.assign(this.noted, this.started);
    shown.set(animated);
    for (const list of this.stands?.waits ?? []) list.fill(0);
    this.stands?.stand(true);
  }

  advance(row: number, share: number, frame: number): void {
    const { every, within, aFrame } = this.steps;
    if (every > 1 && Math.round(share * this.env.substeps) % every !== 0) {
      this.stands?.rest();
      return;
    }
    for (let k = within - 1; k >= 0; k--) this.stepTo(row + share - k / aFrame, frame, 1 - k / within);
    this.stands?.stand(false);
  }

  /** What the air and attractors do to it in the coming step. */
  private blow(frame: number): void {
    const { forces, value, env, h, how } = this;
    const drag = value('drag', frame);
    if (drag === 0 && !forces.any) return;
    if (forces.any) forces.at(frame);
    this.air.blow({
      ...{ drag, density: env.airDensity, h, mass: how.mass },
      field: forces.any ? forces.field : null,
    });
  }

  private stepTo(moment: number, frame: number, share: number): void {
    const { body, env, value, h, grown, gravity, noted } = this;
    if (this.keyed) this.tune(frame);
    this.follow(moment, body.shown);
    this.strings.go(moment);
    this.meets.go(share);
    const grow = cubeRoot(value('swell', frame));
    body.growing.fill((grow - grown[0]!) / h);
    body.grow.fill(grow);
    grown[0] = grow;
    const g = value('gravity', frame) * this.pullAt(frame);
    for (let a = 0; a < 3; a++) gravity[a] = env.gravity[a]! * g;
    const into = moment - Math.floor(moment + 1e-9);
    this.blow(frame);
    this.stands?.give();
    const touches = body.step(gravity, Math.abs(into - 1 / this.steps.aFrame) < 1e-9);
    this.meets.finish();
    noted.pressing = Math.max(noted.pressing, touches.pressing);
    noted.slip = Math.max(noted.slip, touches.slip);
    if (touches.depth > noted.depth) Object.assign(noted, { depth: touches.depth, deepIn: touches.deepIn });
  }

  recalled(): void {
    this.stands?.stand(true);
  }

  readonly speed = (): number => longest(this.body.v);

  still(): boolean {
    return this.body.v.every((v) => Math.abs(v) < STILL * this.track.layout.size);
  }

  travel(by: Float64Array): void {
    const { body } = this;
    const [x, older, v, vOld] = body.moving as [Float64Array, Float64Array, Float64Array, Float64Array];
    carryAll([x, older], [v, vOld], by);
    body.turnBy(by);
  }

  calm(on: boolean, frame: number): void {
    this.calmed = on;
    this.tune(frame);
  }

  anchorAt(): null {
    return null;
  }

  note(frames: Frames, begins: boolean): void {
    if (!begins) return;
    const { depth, deepIn } = this.started;
    frames.startsIn[this.index] = depth > INSIDE ? this.minds.slice(deepIn, deepIn + 1) : [];
  }

  /** The way out of what it stands inside of, for each point of its skin. */
  private wayOut(): Float64Array {
    const { body, outs, track, skin, off, apart } = this;
    if (!outs) return body.out;
    // Fewer points touch than it has: all of them are looked at.
    const none = new Float64Array(off.length);
    carryPoints(off, { ...track.layout.points, points: off.length / 3, off: none }, apart);
    for (let o = 0; o < off.length; o++) off[o]! += skin[o]!;
    outs.find(off);
    return outs.out;
  }

  /** How much of the simulation shows on a frame. */
  private amountAt(frame: number): number {
    return (this.value('amount', frame) / 100) * anchorShare(this.part.anchors, frame);
  }

  private skinBody(): SkinBody {
    const { body, press, track, part, h } = this;
    return makeSkinBody(body, press.skin, track.layout.lattice.rest, part.settings.friction, h);
  }

  /** How far each point of its skin is shown from there; what stands inside of something is pushed out. */
  private strays(amount: number): Float64Array {
    const { body, off, apart, track } = this;
    const { points } = track.layout;
    for (let o = 0; o < apart.length; o++) apart[o] = body.x[o]! - body.shown[o]!;
    carryPoints(off, { ...points, points: off.length / 3, off: this.wayOut() }, apart);
    for (let o = 0; o < off.length; o++) off[o]! *= amount;
    return off;
  }

  write(frames: Frames, f: number): void {
    const { env, noted, skin, body, track, grown } = this;
    const frame = env.track.first + f;
    const off = this.strays(this.amountAt(frame));
    const { pointOf } = track.layout.sheet;
    let at = 3 * (f * sizesOf(frames).points + frames.parts[this.index]!.points.from);
    const { points } = frames;
    for (let v = 0; v < pointOf.length; v++, at += 3) {
      const o = 3 * pointOf[v]!;
      points[at] = skin[o]! + off[o]!;
      points[at + 1] = skin[o + 1]! + off[o + 1]!;
      points[at + 2] = skin[o + 2]! + off[o + 2]!;
    }
    const cell = f * frames.parts.length + this.index;
    const where = farthest(off);
    const far = norm(off.subarray(where, where + 3));
    frames.offSource[cell] = (100 * far) / track.layout.size;
    frames.tipOffSource[cell] = far;
    // Its trail is that of its middle.
    for (let a = 0; a < 3; a++) {
      let sum = 0;
      for (let o = a; o < off.length; o += 3) sum += skin[o]! + off[o]!;
      frames.tips[3 * cell + a] = (3 * sum) / off.length;
    }
    frames.contacts[cell] = Math.min(65535, noted.pressing);
    frames.contactAt[cell] = 0;
    frames.depth[cell] = noted.depth;
    frames.deepIn[cell] = noted.deepIn < 0 ? 0 : 1 + frames.colliders.indexOf(this.minds[noted.deepIn]!);
    frames.slip[cell] = noted.slip;
    frames.stretch[cell] = 0;
    frames.energy[cell] = kineticOf(body);
    const read = f * frames.readoutNames.length + frames.parts[this.index]!.readouts.from;
    frames.readouts.set(volumesOf(body, track.layout.lattice.fill, grown[0]! ** 3), read);
    this.noted = { pressing: 0, depth: 0, deepIn: -1, slip: 0 };
  }
}

export const makeBodyRun = (needs: RunNeeds<BodyPart, BodyLayout, BodySource>, env: Env): PartRun =>
  new BodyRun(needs, env);
