import type { Frames } from '../../frames/index';
import { sizesOf } from '../../frames/index';
import { quatMultiply, quatNormalise, quatRotate } from '../../math/index';
import { makeValueCurve, minds } from '../../model/index';
import { rootMatrix } from '../../character/index';
import { bodyNumbers, wholeStep } from '../../solver/cloth/index';
import type { Body } from '../../solver/index';
import {
  makeStrands,
  StrandContacts,
  StrandLeash,
  strandNumbers,
  touchedNumbers,
  type StrandShape,
  type Strands,
} from '../../solver/strands/index';
import { drivenBy } from '../driven';
import {
  anchorShare,
  type Env,
  type PartForces,
  type PartRun,
  type PartTrack,
  type RunNeeds,
  type Slip,
} from '../kind';
import { ownArena } from '../ownArena';
import { rowAt } from '../rows';
import type { StrandsPart } from './document';
import { blowStrands } from './air';
import { Bands } from './bands';
import { bearingRoots, type BearRoots } from './borne';
import { Crowd } from './crowd';
import { Delay } from './delay';
import { Growing } from './growing';
import type { StrandsLayout } from './layout';
import { StrandPulls } from './pulls';
import { ENDLESS, STRAND_SETTINGS, type StrandSettingKey } from './settings';
import { Shown } from './shown';
import type { StrandsSource } from './source';
import { factorsAlong, valuesOf, type StrandValues } from './values';
import { longest } from '../stray';

const nothing = (): undefined => undefined;
/** Ways in a step, as a share of the length a second, below which strands are at rest. */
const STILL = 2e-3;
/** Deeper than this they begin inside something, m. */
const INSIDE = 1e-3;

/**
 * Names of its readouts: how fast its fastest point goes, m/s; how hard the hardest pulled link is, N; how many strands
 * are rooted so deep inside something that half of them stays there; and how many begin on both sides of a cloth.
 */
export const STRAND_READOUTS = ['speed', 'tension', 'rooted', 'pierce'] as const;

/** Where the guides that are simulated are rooted at rest, m, 3 numbers each. */
const rootsOf = ({ moved, guides }: StrandsLayout): Float64Array =>
  Float64Array.from({ length: 3 * moved.length }, (_, o) => guides[moved[Math.floor(o / 3)]!]![o % 3]!);

/** Strands in motion. */
class StrandsRun implements PartRun {
  readonly index: number;
  readonly points = null;
  readonly bodies = [];
  readonly gather = nothing;
  readonly loaded = nothing;
  readonly recalled = nothing;
  // They have places on whole frames alone.
  readonly writeAt = nothing;
  readonly moving: readonly Float64Array[];
  private readonly part: StrandsPart;
  private readonly track: PartTrack<StrandsLayout, StrandsSource>;
  private readonly value: StrandValues;
  private readonly strands: Strands;
  private readonly contacts: StrandContacts | null;
  private readonly crowd: Crowd;
  private readonly bands: Bands;
  private readonly pulls: StrandPulls;
  private readonly forces: PartForces;
  private readonly minds: readonly string[];
  /** The factor of keyed gravity. */
  private readonly pullAt: (frame: number) => number;
  /** Guides that are simulated. */
  private readonly shapes: readonly StrandShape[];
  /** Roots of all guides, and of those that are simulated. */
  private readonly roots: Float64Array;
  private readonly own: Float64Array;
  private readonly leash: StrandLeash | null;
  private readonly delay: Delay | null;
  private readonly shown: Shown;
  private readonly bear: BearRoots | null;
  private readonly growing: Growing;
  private readonly gravity = new Float64Array(3);
  private readonly keyed: boolean;
  private frame = 0;
  private calmed = false;
  private whole = true;
  private started = { depth: 0, deepIn: -1 };
  private noted = { pressing: 0, depth: 0, deepIn: -1, slip: 0 };

  constructor(
    { part, index, track, touching, runs }: RunNeeds<StrandsPart, StrandsLayout, StrandsSource>,
    private readonly env: Env,
  ) {
    this.part = part;
    this.index = index;
    this.track = track;
    this.value = drivenBy(valuesOf(part), part.id, STRAND_SETTINGS, env.track.drivers);
    this.keyed =
      Object.keys(part.keys).length > 0 ||
      [...env.track.drivers.values()].some((d) => d.settings.some((s) => s.part === part.id));
    this.forces = env.forcesOn(part.id);
    this.pullAt = env.gravityKeys.length > 0 ? makeValueCurve(env.gravityKeys) : () => 1;
    const { moved } = track.layout;
    const shapes = Array.from(moved, (g) => track.layout.shapes[g]!);
    const links = shapes.reduce((n, s) => n + s.lengths.length, 0);
    const minded = env.colliders.filter((c) => minds(part.collidesWith.colliders, c.collider.id));
    this.minds = minded.map((c) => c.collider.id);
    const bodies: readonly Body[] = [...minded.map((c) => c.body), ...touching];
    const arena = ownArena(
      env.track,
      part.id,
      strandNumbers(shapes.length, links) +
        (bodies.length > 0 ? touchedNumbers(links) : 0) +
        bodies.reduce((n, b) => n + bodyNumbers(links, wholeStep(b)), 0),
    );
    this.strands = makeStrands(shapes, env.h, arena);
    this.contacts =
      bodies.length > 0 && links > 0
        ? new StrandContacts(
            this.strands,
            bodies,
            env.h,
            () => ({
              thickness: this.value('thickness', this.frame),
              friction: this.value('friction', this.frame),
            }),
            arena,
          )
        : null;
    this.crowd = new Crowd(this.strands, env.h);
    this.bands = new Bands(this.strands, part.bands, env.h, rootsOf(track.layout));
    this.pulls = new StrandPulls(part.pulls, track.layout, this.strands, env);
    this.shapes = shapes;
    this.roots = new Float64Array(7 * track.layout.shapes.length);
    this.own = new Float64Array(7 * shapes.length);
    this.leash = this.ever('leash', (m) => m < ENDLESS) ? new StrandLeash(this.strands, shapes) : null;
    this.delay = this.ever('delay', (f) => f > 0)
      ? new Delay(this.strands, shapes, track, env.track.loop)
      : null;
    this.shown = new Shown(this.strands, shapes, track.layout, this.roots, part.poses);
    const grounds = runs.flatMap((r) => r.grownOn?.(track.layout.node) ?? []);
    this.bear = bearingRoots(env.character, track.layout, track, runs, grounds);
    this.growing = new Growing(grounds, this.strands, env.h);
    this.moving = this.strands.moving;
  }

  get slips(): readonly Slip[] {
    return this.pulls.slips;
  }

  asides(): readonly Float64Array[] {
    return [
      ...this.strands.asides,
      this.roots,
      ...this.crowd.memory,
      this.bands.memory,
      this.growing.waits,
      ...(this.contacts?.memory ?? []),
    ];
  }

  /** Whether a setting is so at some time. */
  private ever(key: StrandSettingKey, is: (value: number) => boolean): boolean {
    const { settings, keys, id } = this.part;
    const driven = [...this.env.track.drivers.values()].some((d) =>
      d.settings.some((s) => s.part === id && s.setting === key),
    );
    return driven || (keys[key]?.length ? keys[key].some((k) => is(k.value)) : is(settings[key]));
  }

  private tune(frame: number): void {
    this.frame = frame;
    const { value, strands, track, env } = this;
    const damping = value('damping', frame);
    const g = value('gravity', frame);
    // Gravity as it is at rest, in the axes of the file.
    const up = rootMatrix(1, env.upAxis);
    const at = (a: number) => g * [0, 1, 2].reduce((sum, r) => sum + up[4 * a + r]! * env.gravity[r]!, 0);
    const gravity = [at(0), at(1), at(2)] as const;
    const { moved, shares: painted } = track.layout;
    this.shapes.forEach(({ lengths }, k) => {
      const of = (key: 'hold' | 'bend') => painted[key]?.[moved[k]!] ?? 1;
      const shares = { hold: of('hold'), bend: of('bend') };
      strands.tune(k, {
        ...{ hold: value('hold', frame), bend: value('bend', frame), weight: value('weight', frame) / 1000 },
        ...{
          damping: this.calmed ? Math.max(1, damping) : damping,
          gravity,
          keeps: this.part.keepsGroom ? 1 - value('droop', frame) / 100 : 0,
        },
        ...factorsAlong(this.part, value('root', frame), lengths, shares),
        ride: this.bands.ride.subarray(strands.first[k]!, strands.first[k + 1]!),
      });
    });
  }

  /** Takes roots to where they are at a share of the way from a row to the next. Returns those that are simulated. */
  private rootsAt(row: number, share: number, frame: number): Float64Array {
    this.growing.stand(frame);
    const { roots, own, track } = this;
    rowAt(roots, track.source.roots, roots.length, row, share);
    for (let o = 3; o < roots.length; o += 7) quatNormalise(roots, o);
    this.bear?.(roots);
    const { moved } = track.layout;
    if (own.length === roots.length) return roots;
    for (let k = 0; k < moved.length; k++)
      for (let a = 0; a < 7; a++) own[7 * k + a] = roots[7 * moved[k]! + a]!;
    return own;
  }

  begin(row: number, frame: number, still: boolean): void {
    const { strands, env } = this;
    for (const [k, { directions }] of this.shapes.entries()) strands.aim(k, directions);
    this.tune(frame);
    // As they will go on, they came.
    const before = this.rootsAt(row, still ? 0 : env.h * env.fps, frame).slice();
    const roots = this.rootsAt(row, 0, frame);
    if (!still) {
      for (let o = 0; o < before.length; o += 7) {
        for (let a = 0; a < 3; a++) before[o + a] = 2 * roots[o + a]! - before[o + a]!;
        const q = [-before[o + 3]!, -before[o + 4]!, -before[o + 5]!, before[o + 6]!];
        quatMultiply(before, o + 3, roots, o + 3, q, 0);
        quatMultiply(before, o + 3, before, o + 3, roots, o + 3);
      }
    }
    strands.begin(roots, before);
    this.crowd.begin();
    this.bands.begin();
    this.shown.begin();
    this.growing.waits.fill(0);
    this.started = this.contacts?.begin() ?? { depth: 0, deepIn: -1 };
    this.whole = true;
  }

  advance(row: number, share: number, frame: number): void {
    const { strands, contacts, value, env, gravity, forces } = this;
    if (this.keyed) this.tune(frame);
    this.frame = frame;
    const roots = this.rootsAt(row, share, frame);
    const g = value('gravity', frame) * this.pullAt(frame);
    for (let a = 0; a < 3; a++) gravity[a] = env.gravity[a]! * g;
    if (forces.any) forces.at(frame);
    // Pressed by the air as a rod of its thickness is (drag coefficient 1).
    const rod = (env.airDensity * value('thickness', frame)) / Math.max(1e-9, value('weight', frame) / 1000);
    blowStrands(strands, forces.any ? forces.field : null, {
      ...{ per: rod * value('drag', frame), lift: rod * value('lift', frame) },
    });
    this.crowd.push({ rate: 2 * Math.PI * value('crowd', frame), friction: value('along', frame) });
    this.bands.push();
    this.pulls.push(frame);
    this.leash?.ready();
    contacts?.ready();
    this.delay?.hold(row, share, Math.max(0, value('delay', frame)));
    strands.predict(roots, gravity, value('travel', frame) / 100, value('turn', frame) / 100);
    contacts?.find(this.whole);
    this.leash?.hold(value('leash', frame), contacts);
    strands.solve(value('friction', frame));
    this.growing.pull();
    this.shown.stepped();
    if (contacts) {
      const { pressing, depth, deepIn, slip } = contacts.done();
      const { noted } = this;
      noted.pressing = Math.max(noted.pressing, pressing);
      noted.slip = Math.max(noted.slip, slip);
      if (depth > noted.depth) Object.assign(noted, { depth, deepIn });
    }
    this.whole = share === 0;
  }

  readonly speed = (): number => longest(this.strands.way) / this.env.h;

  still(): boolean {
    const most = STILL * this.track.layout.length * this.env.h;
    return this.strands.way.every((d) => Math.abs(d) < most);
  }

  travel(by: Float64Array): void {
    const { strands } = this;
    for (const list of strands.ways)
      for (let o = 0; o < list.length; o += 3) quatRotate(list, o, by, 3, list, o);
    for (const roots of [strands.roots, this.roots])
      for (let o = 0; o < roots.length; o += 7) {
        quatRotate(roots, o, by, 3, roots, o);
        for (let a = 0; a < 3; a++) roots[o + a]! += by[a]!;
        quatMultiply(roots, o + 3, by, 3, roots, o + 3);
      }
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
    frames.startsIn[this.index] = depth > INSIDE && deepIn >= 0 ? this.minds.slice(deepIn, deepIn + 1) : [];
  }

  write(frames: Frames, f: number): void {
    const { env, track, noted, value } = this;
    const frame = env.track.first + f;
    const amount = (value('amount', frame) / 100) * anchorShare(this.part.anchors, frame);
    const { far, kinetic, speed, tension, longer } = this.shown.measure(env.h, value('stretch', frame) / 100);
    const width = sizesOf(frames).points;
    const from = 3 * (f * width + frames.parts[this.index]!.points.from);
    this.shown.write(frames.points, from, amount, frame);
    const cell = f * frames.parts.length + this.index;
    const most = Math.abs(amount) * far.off;
    frames.offSource[cell] = (100 * most) / track.layout.length;
    frames.tipOffSource[cell] = most;
    for (let a = 0; a < 3; a++) frames.tips[3 * cell + a] = far.groom[a]! + amount * far.way[a]!;
    frames.contacts[cell] = Math.min(65535, noted.pressing);
    frames.contactAt[cell] = 0;
    frames.depth[cell] = noted.depth;
    frames.deepIn[cell] = noted.deepIn < 0 ? 0 : 1 + frames.colliders.indexOf(this.minds[noted.deepIn] ?? '');
    frames.slip[cell] = noted.slip;
    frames.stretch[cell] = longer;
    frames.energy[cell] = kinetic;
    const at = f * frames.readoutNames.length + frames.parts[this.index]!.readouts.from;
    frames.readouts.set([speed, tension, this.contacts?.rooted ?? 0, this.contacts?.pierce ?? 0], at);
    this.noted = { pressing: 0, depth: 0, deepIn: -1, slip: 0 };
  }
}

export const makeStrandsRun = (
  needs: RunNeeds<StrandsPart, StrandsLayout, StrandsSource>,
  env: Env,
): PartRun => new StrandsRun(needs, env);
