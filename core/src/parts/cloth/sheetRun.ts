import type { Frames } from '../../frames/index';
import { norm, quatMultiply } from '../../math/index';
import { makeValueCurve, minds } from '../../model/index';
import { lengthOf, normalsOf } from '../../sheets/index';
import { makeCloth, type Cloth, type Fill } from '../../solver/cloth/index';
import type { Arena, Body } from '../../solver/index';
import { anchorShare } from '../kind';
import type { Env, MomentRow, PartForces, PartRun, PartTrack, Posed, Slip } from '../kind';
import { carryAll } from '../carryAll';
import { rowAt } from '../rows';
import { farthest, longest } from '../stray';
import { ownArena } from '../ownArena';
import { makeBetween, type Between } from './between';
import type { Bear } from '../borne';
import { makeCarrier, type Carrier } from './carrier';
import { shownOff } from './coarse';
import type { SheetPart } from './document';
import type { SheetLayout } from './layout';
import { fieldIn, Riding } from './riding';
import { makeShell, type Shell } from './shell';
import { NOTHING, type Noted, type SheetNeeds } from './sheetNeeds';
import { inMetres, kinetic, meanStretch, restingIn, stepsIn } from './sheetMatter';
import type { SheetSource } from './source';
import { Pulls } from './pulls';
import { tuneSheet } from './sheetTune';
import { makeTieable, Ties, type Tieable } from './ties';
import { drivenValuesOf, matterOf, type valuesOf } from './values';

const nothing = (): undefined => undefined;

/** Steps a second that a cloth takes at least, and a coarse one. */
const LEAST_RATE = 360;
const COARSE_RATE = 180;
/** A leash of so many m keeps nothing. */
const ENDLESS = 1000;
/** Share of a row over which the speed of the skin is taken. */
const LITTLE = 1e-3;
/** Speeds, as a share of its length a second, below which it is at rest. */
const STILL = 2e-3;
/** Deeper than this it begins inside a collider, m. */
const INSIDE = 2e-3;

/** A sheet in motion; what becomes of its points in the frames is said by what carries them. */
export abstract class SheetRun implements PartRun {
  readonly index: number;
  readonly points = null;
  readonly bodies = [];
  readonly gather = nothing;
  protected readonly part: SheetPart;
  protected readonly track: PartTrack<SheetLayout, SheetSource>;
  protected readonly cloth: Cloth;
  /** Where the arrays of the cloth lie. */
  protected arena: Arena | null = null;
  private readonly steps: number;
  private readonly length: number;
  private readonly middle: Between;
  /** The space it moves in, which goes along with what carries it. */
  protected readonly riding = new Riding();
  /** Ids of the colliders it minds, in the order of its bodies: those of other parts come after. */
  private readonly minds: readonly string[];
  private readonly forces: PartForces;
  protected readonly values: ReturnType<typeof valuesOf>;
  /** Its skin in the space it moves in. */
  private readonly now: Float64Array;
  /** The whole skin in the world, of which a coarse cloth follows some points; and how far it is shown from it. */
  protected readonly skin: Float64Array;
  private readonly off: Float64Array;
  private readonly ties: Ties;
  private readonly pulls: Pulls;
  /** Its skin as `now` has it, but without what ties hold elsewhere. */
  private readonly own: Float64Array;
  private readonly carrier: Carrier;
  private readonly bear: Bear | null;
  /** Where the skin was at the start of the shot's step. */
  private readonly before: Float64Array;
  private readonly gravity = new Float64Array(3);
  /** What others touch of it, once that is asked for. */
  private outer: Shell | null = null;
  waited: PartRun['waited'] = null;
  private calmed = false;
  /** Whether an inner leash keeps anything. */
  private keepsOut = false;
  /** Whether the last step ended at a frame. */
  private whole = true;
  private frame = 0;
  /** The factor of keyed gravity. */
  private readonly pullAt: (frame: number) => number;
  private started = { depth: 0, deepIn: -1 };
  private noted: Noted = { ...NOTHING };

  constructor(
    { part, index, track, touching, runs, pulls = [], bear = null, spare = 0 }: SheetNeeds,
    protected readonly env: Env,
  ) {
    this.index = index;
    this.part = part;
    this.track = track;
    this.bear = bear;
    this.values = drivenValuesOf(part, env.track.drivers);
    this.forces = env.forcesOn(part.id);
    this.pullAt = env.gravityKeys.length > 0 ? makeValueCurve(env.gravityKeys) : () => 1;
    const sheet = restingIn(
      part,
      track.source,
      inMetres(track.layout.sheet, env.metresPerUnit),
      env.track.from,
    );
    const { held } = track.layout;
    this.length = lengthOf(sheet, held);
    this.steps = stepsIn(sheet, this.length, env.h, track.layout.detail ? COARSE_RATE : LEAST_RATE);
    const minded = env.colliders.filter((c) => minds(part.collidesWith.colliders, c.collider.id));
    this.minds = minded.map((c) => c.collider.id);
    this.middle = makeBetween([...minded.map((c) => c.body), ...touching], env.h);
    const first = env.track.first;
    this.ties = new Ties(track.layout, env, track, runs);
    this.pulls = new Pulls(pulls, track.layout, env);
    this.cloth = makeCloth({
      ...{ sheet, held: this.ties.holds.map((t, p) => t || (part.release ? 0 : held[p]!)) },
      ...{ h: env.h / this.steps, bodies: this.middle.bodies },
      arena: (numbers) => (this.arena = ownArena(env.track, part.id, numbers + spare)),
      selfContact: part.collidesWith.itself,
      matter: {
        ...matterOf(this.values.value, first),
        ...{ stiffer: track.layout.shares.bend ?? null, diagonal: track.layout.diagonal },
        flat: part.rest === 'flat',
      },
      skin: () => ({
        thickness: this.values.value('thickness', this.frame),
        friction: this.values.value('friction', this.frame),
      }),
    });
    this.now = new Float64Array(3 * sheet.points);
    const apart = this.ties.any || this.pulls.any;
    this.own = apart ? new Float64Array(3 * sheet.points) : this.now;
    const { detail } = track.layout;
    this.skin = new Float64Array(3 * (detail?.sheet ?? sheet).points);
    this.carrier = makeCarrier(track);
    this.off = new Float64Array(this.skin.length);
    this.before = new Float64Array(3 * sheet.points);
  }

  get slips(): readonly Slip[] {
    return this.pulls.slips;
  }

  shell(): Body | null {
    const { cloth, riding, values, env, part, track, ties } = this;
    const firm = (p: number) => ties.holds[p] === 1 || (!part.release && track.layout.held[p] === 1);
    const at = (key: 'thickness' | 'friction') => values.value(key, env.track.first);
    const how = { thickness: at('thickness'), friction: at('friction') };
    this.outer ??= makeShell(cloth, riding, firm, how);
    return this.outer?.body ?? null;
  }

  get moving(): readonly Float64Array[] {
    return this.cloth.moving;
  }

  asides(): readonly (Float64Array | Uint8Array)[] {
    return [
      ...this.cloth.asides,
      this.now,
      this.skin,
      ...this.ties.asides(),
      ...(this.pulls.any ? [this.own, this.pulls.pulled] : []),
      this.riding.now,
      this.carrier.place,
      this.carrier.turn,
      ...(this.outer?.waits ?? []),
    ];
  }

  private tune(frame: number): void {
    this.frame = frame;
    this.keepsOut = this.values.value('inner', frame) < ENDLESS;
    const { cloth, values, track, part, ties, length, calmed } = this;
    tuneSheet({ cloth, values, layout: track.layout, part, ties, length, calmed }, frame);
  }

  /** Takes up the skin at a share of the way from a row to the next; all that is drawn of it on a row itself. */
  private skinAt(row: number, share: number): void {
    const { skin, now, riding } = this;
    const { source, layout } = this.track;
    const { detail } = layout;
    if (!detail || this.bear) {
      rowAt(skin, source.skin, skin.length, row, share);
      this.bear?.(skin);
      if (detail) detail.pick.forEach((p, k) => now.set(skin.subarray(3 * p, 3 * p + 3), 3 * k));
      else now.set(skin);
    } else {
      rowAt(now, source.points, now.length, row, share);
      if (share === 0) rowAt(skin, source.skin, skin.length, row, 0);
    }
    if (riding.apart) riding.into(now, now);
    if (this.own === now) return;
    this.own.set(now);
    this.ties.hold(now);
  }

  /** Goes along with what carries it, as far as it does not feel its way and turn. */
  private ride(row: number, share: number, frame: number): void {
    const { carrier, riding, values } = this;
    const felt = { travel: values.value('travel', frame) / 100, turn: values.value('turn', frame) / 100 };
    if (felt.travel === 1 && felt.turn === 1 && !riding.apart) return;
    const [from, q] = [Float64Array.from(carrier.place), Float64Array.from(carrier.turn)];
    carrier.at(row, share);
    riding.go(from, carrier.place, q, carrier.turn, felt);
  }

  begin(row: number, frame: number, still: boolean): void {
    const speeds = new Float64Array(this.now.length);
    this.riding.reset();
    this.carrier.at(row, 0);
    if (!still) {
      this.ride(row, LITTLE, frame);
      this.skinAt(row, LITTLE);
      speeds.set(this.now);
      this.riding.reset();
      this.carrier.at(row, 0);
    }
    this.skinAt(row, 0);
    if (this.ties.any) {
      this.ties.begin(this.own, this.riding, row, frame);
      this.now.set(this.own);
      this.ties.hold(this.now);
    }
    if (!still)
      for (let k = 0; k < speeds.length; k++)
        // What ties hold begins where it is held.
        speeds[k] = this.ties.holds[Math.floor(k / 3)]
          ? 0
          : ((speeds[k]! - this.now[k]!) * this.env.fps) / LITTLE;
    this.tune(frame);
    this.middle.take(this.riding);
    this.middle.stand(0, 1);
    this.whole = true;
    const seconds = this.values.value('settle', frame);
    this.waited = null;
    if (still || this.env.looping || seconds === 0) this.started = this.cloth.begin(this.now, speeds);
    else this.settleFirst(seconds, row, frame, speeds);
    this.outer?.stand(true);
  }

  /** What fills its closed pieces, or null. */
  private fillAt(frame: number): Fill | null {
    const { value } = this.values;
    const filling = value('filling', frame);
    return filling > 0
      ? { filling, pressure: Math.max(1e-3, value('pressure', frame)), float: value('float', frame) }
      : null;
  }

  /** Hangs in the pose of a row for so long, and then goes along with it. */
  private settleFirst(seconds: number, row: number, frame: number, speeds: Float64Array): void {
    this.started = this.cloth.begin(this.now, new Float64Array(speeds.length));
    for (let k = Math.round(seconds / this.env.h); k > 0; k--) this.advance(row, 0, frame);
    this.waited = { seconds, still: this.still(), speed: this.speed() };
    this.cloth.kick(speeds);
    this.noted = { ...NOTHING };
  }

  advance(row: number, share: number, frame: number): void {
    const { env, values, cloth, steps, now, before, forces } = this;
    // What has neither keys, a release nor a hand on it is as it began.
    if (values.keyed || this.part.release || this.pulls.any) this.tune(frame);
    this.pulls.restore(now, this.own);
    this.outer?.give();
    // Where the skin was, in the space it moves in now.
    before.set(now);
    this.ride(row, share, frame);
    this.ties.aim(this.riding, row, share, frame);
    this.skinAt(row, share);
    this.pulls.apply(cloth, before, now, this.riding, frame);
    this.middle.take(this.riding);
    const g = values.value('gravity', frame);
    for (let a = 0; a < 3; a++) this.gravity[a] = env.gravity[a]! * g * this.pullAt(frame);
    if (this.riding.apart) this.riding.turnedInto(this.gravity, this.gravity);
    if (forces.any) forces.at(frame);
    const field = fieldIn(this.riding, forces.field);
    const [drag, lift] = [values.value('drag', frame), values.value('lift', frame)];
    const fill = this.fillAt(frame);
    const sail = { drag, lift, density: env.airDensity };
    // The normals at the end of a step stand for all of it.
    if (this.keepsOut) normalsOf(cloth.outward, now, cloth.sheet.triangles);
    for (let k = 0; k < steps; k++) {
      this.middle.stand(k, steps);
      const touches = cloth.step({
        ...{ before, now, from: k / steps, to: (k + 1) / steps },
        gravity: this.gravity,
        ...{ sail, fill },
        field: forces.any ? field : null,
        fresh: this.whole && k === 0,
      });
      this.ties.draw(cloth, (k + 1) / steps, env.h / steps);
      const { noted } = this;
      noted.pressing = Math.max(noted.pressing, touches.pressing);
      noted.slip = Math.max(noted.slip, touches.slip);
      if (touches.depth > noted.depth) Object.assign(noted, { depth: touches.depth, deepIn: touches.deepIn });
    }
    cloth.react(env.h * Math.sqrt(this.gravity.reduce((sum, x) => sum + x * x, 0)));
    this.middle.react(this.riding);
    this.ties.finish(this.riding);
    this.outer?.stand(false);
    this.whole = share === 0;
  }

  loaded(): void {
    this.outer?.stand(true);
  }

  recalled(): void {
    this.whole = true;
    this.riding.turnBack();
    this.outer?.stand(true);
  }

  readonly speed = (): number => longest(this.cloth.v);

  still(): boolean {
    return this.cloth.v.every((v) => Math.abs(v) < STILL * this.length);
  }

  travel(by: Float64Array): void {
    const { riding, carrier, cloth, now, skin } = this;
    const [x, older, v, vOld] = cloth.moving as [Float64Array, Float64Array, Float64Array, Float64Array];
    this.ties.carry(riding, by);
    // It moves in the world again.
    if (riding.apart) {
      for (const places of [x, older, now]) riding.out(places, places);
      for (const speeds of [v, vOld]) riding.turnedOut(speeds);
      riding.reset();
    }
    carryAll([x, older, now, skin, carrier.place], [v, vOld], by);
    quatMultiply(carrier.turn, 0, by, 3, carrier.turn, 0);
    this.outer?.stand(true);
  }

  calm(on: boolean, frame: number): void {
    this.calmed = on;
    this.tune(frame);
  }

  /** What others may be tied to. */
  get tieable(): Tieable {
    return makeTieable(this.cloth, this.riding, this.track.layout, this.ties, this.part.release !== null);
  }

  anchorAt(): null {
    return null;
  }

  note(frames: Frames, begins: boolean): void {
    if (!begins) return;
    const { depth, deepIn } = this.started;
    frames.startsIn[this.index] = depth > INSIDE ? this.minds.slice(deepIn, deepIn + 1) : [];
  }

  /** How far each point of the whole sheet is shown from its skin. */
  protected strays(amount: number): Float64Array {
    const { off, cloth, own, track, riding } = this;
    shownOff(off, track.layout.detail, cloth.x, own, amount);
    if (riding.apart) riding.turnedOut(off);
    return off;
  }

  /** How much of the simulation shows on a frame. */
  protected amountAt(frame: number): number {
    return (this.values.value('amount', frame) / 100) * anchorShare(this.part.anchors, frame);
  }

  /** Puts what its points have become where the part's columns are; `off` is how far each point is from its skin. */
  protected abstract put(frames: Frames, f: number, off: Float64Array, shown: Float64Array): void;
  abstract writeAt(row: MomentRow, frames: Frames, frame: number, posed: Posed, shown: Float64Array): void;

  write(frames: Frames, f: number, shown: Float64Array): void {
    const { env, cloth, noted, skin } = this;
    const cell = f * frames.parts.length + this.index;
    const off = this.strays(this.amountAt(env.track.first + f));
    this.put(frames, f, off, shown);
    const where = farthest(off);
    const far = norm(off.subarray(where, where + 3));
    frames.offSource[cell] = (100 * far) / this.length;
    frames.tipOffSource[cell] = far;
    for (let a = 0; a < 3; a++) frames.tips[3 * cell + a] = skin[where + a]! + off[where + a]!;
    frames.contacts[cell] = Math.min(65535, noted.pressing);
    frames.contactAt[cell] = 0;
    frames.depth[cell] = noted.depth;
    frames.deepIn[cell] = noted.deepIn < 0 ? 0 : 1 + frames.colliders.indexOf(this.minds[noted.deepIn]!);
    frames.slip[cell] = noted.slip;
    frames.stretch[cell] = meanStretch(cloth);
    frames.energy[cell] = kinetic(cloth);
    this.noted = { ...NOTHING };
  }
}
