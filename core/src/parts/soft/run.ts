import type { Frames } from '../../frames/index';
import { sizesOf } from '../../frames/index';
import { makeValueCurve } from '../../model/index';
import { norm, quatRotate } from '../../math/index';
import { sumNormals } from '../../sheets/index';
import { makeRegion, regionNumbers, type Region, type RegionMatter } from '../../solver/soft/index';
import { anchorShare, type Env, type PartRun, type PartTrack, type RunNeeds } from '../kind';
import { groundOf, type Ground } from '../ground';
import { ownArena } from '../ownArena';
import { farthest, longest } from '../stray';
import type { RegionPart } from './document';
import type { RegionLayout } from './layout';
import { limit } from './places';
import { stepsAt, type Steps } from '../steps';
import { SkinMotion } from './skinMotion';
import { REGION_SETTINGS } from './settings';
import type { RegionSource } from './source';
import { matterOf, rateOf, valuesOf, type RegionValues } from './values';
import { drivenBy } from '../driven';

const nothing = (): undefined => undefined;
/** Speeds, as a share of its size a second, below which it is at rest. */
const STILL = 2e-3;

/** A region of skin in motion. */
class RegionRun implements PartRun {
  readonly index: number;
  readonly points = null;
  readonly bodies = [];
  readonly slips = [];
  readonly gather = nothing;
  readonly loaded = nothing;
  readonly recalled = nothing;
  readonly note = nothing;
  // Vertices have places on whole frames alone.
  readonly writeAt = nothing;
  private readonly part: RegionPart;
  private readonly track: PartTrack<RegionLayout, RegionSource>;
  private readonly region: Region;
  private readonly skin: SkinMotion;
  private readonly value: RegionValues;
  /** The factor of keyed gravity. */
  private readonly pullAt: (frame: number) => number;
  private readonly steps: Steps;
  /** s: one step of its own. */
  private readonly h: number;
  private readonly shown: Float64Array;
  /** Of all points of the skin. */
  private readonly normals: Float64Array;
  private calmed = false;

  constructor(
    { part, index, track, runs }: RunNeeds<RegionPart, RegionLayout, RegionSource>,
    private readonly env: Env,
  ) {
    this.part = part;
    this.index = index;
    this.track = track;
    this.value = drivenBy(valuesOf(part), part.id, REGION_SETTINGS, env.track.drivers);
    this.pullAt = env.gravityKeys.length > 0 ? makeValueCurve(env.gravityKeys) : () => 1;
    const { lattice } = track.layout;
    this.steps = stepsAt(rateOf(part), env.fps, env.substeps);
    this.h = 1 / (env.fps * this.steps.aFrame);
    const share = new Float64Array(lattice.points).fill(1);
    this.region = makeRegion(
      { ...lattice, share },
      this.h,
      ownArena(env.track, part.id, regionNumbers(lattice)),
    );
    this.skin = new SkinMotion(track, env, runs, 1 / this.steps.aFrame);
    this.shown = new Float64Array(3 * lattice.points);
    this.normals = new Float64Array(3 * track.layout.points);
  }

  grownOn(node: number): Ground | null {
    const piece = this.track.layout.pieces.find((p) => p.node === node);
    if (!piece) return null;
    const pointOf = new Int32Array(1 + piece.picked.reduce((m, v) => Math.max(m, v), 0)).fill(-1);
    piece.picked.forEach((v, k) => (pointOf[v] = piece.pointOfPicked[k]!));
    return groundOf(pointOf, (frame) => this.strays(frame), null);
  }

  /** How far its points are shown from where they are animated. */
  private strays(frame: number): Float64Array {
    const { region, shown, value, part } = this;
    const amount = (value('amount', frame) / 100) * anchorShare(part.anchors, frame);
    limit(shown, region.u, value('reach', frame), value('soften', frame) / 100, amount);
    return shown;
  }

  get moving(): readonly Float64Array[] {
    return this.region.moving;
  }

  asides(): readonly Float64Array[] {
    return [...this.skin.state, this.region.share];
  }

  begin(row: number, frame: number, still: boolean): void {
    for (const list of this.region.moving) list.fill(0);
    this.skin.begin(row, still);
    this.readPaint(frame);
  }

  private readPaint(frame: number): void {
    const power = this.value('response', frame);
    this.track.layout.weight.forEach((w, p) => (this.region.share[p] = power === 1 ? w : w ** power));
  }

  advance(row: number, share: number, frame: number): void {
    const { every, within, aFrame } = this.steps;
    if (every > 1 && Math.round(share * this.env.substeps) % every !== 0) return;
    for (let k = within - 1; k >= 0; k--) this.stepTo(row + share - k / aFrame, frame);
  }

  private stepTo(moment: number, frame: number): void {
    const { region, skin, part, env, h, value } = this;
    const stands = skin.go(moment);
    if (part.keys.response?.length) this.readPaint(frame);
    const own = matterOf(value, frame);
    const matter = this.calmed ? { ...own, damping: Math.max(1, own.damping) } : own;
    const driven = region.driven(matter);
    const { drive } = region;
    if (stands) drive.fill(0);
    else {
      skin.accelerations(drive, { travel: value('travel', frame) / 100, turn: value('turn', frame) / 100 });
      const per = driven / (h * h);
      for (let o = 0; o < drive.length; o++) drive[o]! *= per;
    }
    const droop = driven * value('droop', frame) * this.pullAt(frame);
    if (droop !== 0) for (let o = 0; o < drive.length; o++) drive[o]! -= droop * env.gravity[o % 3]!;
    if (matter.along !== 1 || matter.volume > 0 || matter.swell !== 0) {
      sumNormals(this.normals, skin.borne, this.track.layout.triangles);
      region.normal.set(this.normals.subarray(0, region.normal.length));
    }
    this.swell(matter, driven);
    skin.turnsSince(region.turns);
    region.step(matter);
    skin.done(moment, stands);
  }

  /** Drives it out of its skin, so far that it rests there by what it swells. */
  private swell({ swell, hold, along }: RegionMatter, driven: number): void {
    if (swell === 0) return;
    const { drive, normal } = this.region;
    const pull = driven * (2 * Math.PI * hold) ** 2 * along * swell;
    for (let o = 0; o < drive.length; o += 3) {
      const long = norm(normal.subarray(o, o + 3));
      if (long > 0) for (let a = o; a < o + 3; a++) drive[a]! -= (pull * normal[a]!) / long;
    }
  }

  readonly speed = (): number => longest(this.region.moving[2]!);

  still(): boolean {
    return this.region.moving[2]!.every((v) => Math.abs(v) < STILL * this.track.layout.size);
  }

  travel(by: Float64Array): void {
    for (const list of this.region.moving)
      for (let o = 0; o < list.length; o += 3) quatRotate(list, o, by, 3, list, o);
    this.skin.travel(by);
  }

  calm(on: boolean): void {
    this.calmed = on;
  }

  anchorAt(): null {
    return null;
  }

  write(frames: Frames, f: number): void {
    const { env, track } = this;
    const { pieces, size } = track.layout;
    const shown = this.strays(env.track.first + f);
    let at = 3 * (f * sizesOf(frames).points + frames.parts[this.index]!.points.from);
    for (const { pointOfPicked } of pieces)
      for (let v = 0; v < pointOfPicked.length; v++) {
        const o = 3 * pointOfPicked[v]!;
        for (let a = 0; a < 3; a++) frames.points[at++] = shown[o + a]!;
      }
    const cell = f * frames.parts.length + this.index;
    const where = farthest(shown);
    const far = shown.length > 0 ? norm(shown.subarray(where, where + 3)) : 0;
    frames.offSource[cell] = (100 * far) / size;
    frames.tipOffSource[cell] = far;
    for (let a = 0; a < 3; a++)
      frames.tips[3 * cell + a] = (this.skin.borne[where + a] ?? 0) + (shown[where + a] ?? 0);
    for (const name of ['contacts', 'contactAt', 'depth', 'deepIn', 'slip', 'stretch', 'energy'] as const)
      frames[name][cell] = 0;
  }
}

export const makeRegionRun = (needs: RunNeeds<RegionPart, RegionLayout, RegionSource>, env: Env): PartRun =>
  new RegionRun(needs, env);
