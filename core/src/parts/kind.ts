import type { Character, Pose } from '../character/index';
import type { Frames, MorphColumn, PointColumns, StartReport } from '../frames/index';
import type { AnchorPose, Collider, Minds, PartBase, ValueKeys } from '../model/index';
import type { Shot } from '../shot/index';
import type { Ground } from './ground';
import type { AskedFeel, Diagnosis, Feel, FittedFeel, ShotFeel } from './diagnosis';
import type { Arena, Body, Field } from '../solver/index';

/** A pose with the world matrices (16 numbers a node, m) of the nodes that matter in it. */
export interface Posed {
  readonly pose: Pose;
  readonly world: Float64Array;
}

/** The source of a shot: its clip, with what was added to it. */
export interface Source {
  /** The local pose at a frame, which may be a part of one. */
  at(frame: number, out: Pose): void;
}

/** A part of the shot found on its character. */
export interface PartLayout {
  readonly part: PartBase;
  /** Nodes of its joint columns. */
  readonly joints: Int32Array;
  /** End of its last joint in that joint's own space, file units, when its joints are a row. */
  readonly tip?: Float64Array;
  /** Nodes from a root down to the parent of its first joint: what it hangs from. */
  readonly above: Int32Array;
  /** Joints that weigh its skin, or that it hangs from or is tied to: when other parts move them, it goes along. */
  readonly borne?: readonly number[];
  /** Frames by which its source comes later than the clip. */
  readonly late?: number;
}

/** What stands in the frames for one part, beside its joints. */
export interface PartContents {
  /** Whether the rotation and the translation of each joint are moved: bits of frames/frames.ts. */
  readonly paths: Uint8Array;
  /** Nodes whose scale it moves, and its morph weights. */
  readonly scaled: readonly number[];
  readonly morphs: readonly MorphColumn[];
  /** Meshes whose vertices it moves. */
  readonly points: readonly PointColumns[];
  /** Names of its own readouts. */
  readonly readouts: readonly string[];
}

/** Rows of something sampled frame by frame, and where in a row its places (3 numbers) and turns (4) stand. */
export interface Moving {
  readonly list: Float64Array;
  readonly places: readonly number[];
  readonly turns: readonly number[];
}

/**
 * What a part hangs from: a joint of another part, by the place of both in the track, or nothing that is simulated
 * (−1).
 */
export interface Hanging {
  readonly part: number;
  readonly link: number;
}

/** What one part follows, sampled frame by frame into rows. */
export interface PartSource {
  /** Nodes whose world matrices `write` reads, beside those above it. */
  readonly nodes: readonly number[];
  /** Takes up the source at a row; rows come in order from 0. */
  write(row: number, posed: Posed): void;
  /** All its rows, so that they can be continued past the ends of the range or wrapped round a loop. */
  readonly moving: readonly Moving[];
  /**
   * What shows whether the clip repeats: places (3 numbers each) and the turn of what it hangs from; null for nothing.
   */
  readonly path: { readonly points: Float64Array; readonly body: Float64Array } | null;
  /** All rows are there; the range's first frame stands in this one. */
  finish(row: number): void;
}

/** One part in the sampled source of a shot. */
/** A joint of a skin, and the links of other parts that it goes along with: what bears the others first. */
export interface Bearer {
  readonly joint: number;
  readonly links: readonly Hanging[];
}

export interface PartTrack<L extends PartLayout = PartLayout, S extends PartSource = PartSource> {
  readonly layout: L;
  readonly hanging: Hanging;
  /** Of the joints that bear its skin those that other parts move. */
  readonly bearers: readonly Bearer[];
  readonly source: S;
}

/** A clip that repeats: after `period` frames everything stands as at first, carried by a rigid travel. */
export interface Loop {
  readonly period: number;
  /** Place and turn, 7 numbers: where the travel takes the origin. */
  readonly travel: Float64Array;
}

/** The sampled source of all parts: row k is frame from − 1 + k. */
export interface SourceTrack {
  /** First frame of the range, and frames in it. */
  readonly first: number;
  readonly frames: number;
  /** First frame simulated: before `first` when the clip is run up to it. */
  readonly from: number;
  readonly parts: readonly PartTrack[];
  /** Placements (7 numbers a row) of the joints that colliders ride and parts ask for, by node. */
  readonly joints: ReadonlyMap<number, Float64Array>;
  /** How the clip repeats over the range, or null when the shot does not loop or the clip does not. */
  readonly loop: Loop | null;
  /** Memory the rows stand in, with room for the solvers after them. */
  readonly arena: Arena;
  /** Numbers the rows take. */
  readonly size: number;
  /** What drives the source, by part. */
  readonly drivers: ReadonlyMap<string, Driver>;
  /** Source pose, and world matrices of the nodes that matter, at frame first + f. */
  poseAt(f: number): Posed;
}

/** A collider of the shot and its body in the simulation. */
export interface ColliderRun {
  readonly collider: Collider;
  readonly body: Body;
  /** Puts a body that is not free where it stands at a share of the way from track row `row` to the next. */
  place(row: number, share: number, frame: number): void;
}

/** The air and the attractors one part feels, at the moment last set. */
export interface PartForces {
  /** Whether there is anything but still air. */
  readonly any: boolean;
  at(frame: number): void;
  readonly field: Field;
}

/** Gravity of a shot: m/s², and keys of a factor on it. */
export interface Gravity {
  readonly gravity: readonly [number, number, number];
  readonly gravityKeys: ValueKeys;
}

/** What a run moves in. */
export interface Env extends Gravity {
  readonly character: Character;
  readonly fps: number;
  readonly substeps: number;
  /** s: one substep. */
  readonly h: number;
  readonly looping: boolean;
  /** kg/m³ */
  readonly airDensity: number;
  readonly metresPerUnit: number;
  readonly upAxis: 'Y' | 'Z';
  readonly track: SourceTrack;
  readonly colliders: readonly ColliderRun[];
  forcesOn(partId: string): PartForces;
}

/**
 * A set of points that others may push: places and speeds (3 numbers a point, the root first), masses of points 1..n.
 */
export interface Touchable {
  /** Places as they are, and as the source has them. */
  readonly x: Float64Array;
  readonly source: Float64Array;
  readonly mass: Float64Array;
  readonly v: Float64Array;
  readonly vOld: Float64Array;
  /** Acceleration of gravity on points 1..n, m/s². */
  readonly basic: Float64Array;
  /** Acceleration that waits for points 1..n in the next step: add to it, then say so. */
  readonly push: Float64Array;
  pushed(): void;
  /** kg that ride on points 1..n beside their own: fixed before the first step. */
  readonly hung: Float64Array;
}

/** Where a joint of a part stands, as its source has it and as it is: kept up to date by its run. */
export interface Anchor {
  readonly source: Float64Array;
  readonly place: Float64Array;
  /** Turn from the source's orientation. */
  readonly turn: Float64Array;
}

/** Something that has let go for good once it has: 0 or 1, by an id that holds in the whole shot. */
export interface Slip {
  readonly id: string;
  readonly memory: Uint8Array;
}

/**
 * The simulated joints and weights at a moment that is no frame of the range: a row of the columns of {@link Frames}.
 */
export interface MomentRow {
  readonly frame: number;
  readonly rotations: Float64Array;
  readonly translations: Float64Array;
  readonly scales: Float64Array;
  readonly weights: Float64Array;
}

/** One part in motion. The engine calls it in the order of the track: what it hangs from has stepped already. */
export interface PartRun {
  /** Its place in the track of the whole shot. */
  readonly index: number;
  /** Puts it on its source at a track row, moving with it or, when `still`, at rest. */
  begin(row: number, frame: number, still: boolean): void;
  /** One substep, to `share` of the way from track row `row` to the next, which is the time of `frame`. */
  advance(row: number, share: number, frame: number): void;
  /** Takes up what others pushed it with since. */
  gather(): void;
  /** What moves, for loops; and what else it remembers. Arrays are the same for the life of the run. */
  readonly moving: readonly Float64Array[];
  asides(): readonly (Float64Array | Uint8Array)[];
  readonly slips: readonly Slip[];
  /** After `moving` was written from outside; after all it remembers was. */
  loaded(): void;
  recalled(): void;
  /** Whether it no longer moves, and how fast its fastest point still does, m/s. */
  still(): boolean;
  speed(): number;
  /** For how long it hung in its pose by itself before it began, and how it was then; null where it did not. */
  readonly waited?: NonNullable<StartReport['settled']> | null;
  /** Carries its whole state by a rigid travel: place and turn, 7 numbers. */
  travel(by: Float64Array): void;
  /** Damps it at least critically, to find its rest. */
  calm(on: boolean, frame: number): void;
  /** Other parts may push these points, hang from its joints and touch its bodies. */
  readonly points: Touchable | null;
  anchorAt(link: number): Anchor | null;
  readonly bodies: readonly Body[];
  /** For what is fine: the same of what moves without bodies, made where it is asked for. */
  shell?(): Body | null;
  /** For what is fine and grows on a mesh whose vertices it moves: how they go; null for another mesh. */
  grownOn?(node: number): Ground | null;
  /** For what a skin may lie over. It is written before that. */
  readonly shows?: Shows;
  /** Takes note of the contacts of a substep for the frame that is written next. */
  note(frames: Frames, begins: boolean): void;
  /** Writes its columns of frame f of the range. `shown` holds the world matrices of the nodes as they are shown. */
  write(frames: Frames, f: number, shown: Float64Array): void;
  /** Writes its joints and weights at any moment, with the source as posed there: the run has to stand there. */
  writeAt(row: MomentRow, frames: Frames, frame: number, posed: Posed, shown: Float64Array): void;
}

/** What a skin that lies over a part goes by: the part's own surface, as it is shown on the frame that is written. */
export interface Shows {
  /** Where its points are animated, m, 3 numbers each, and how far each is shown from there. */
  readonly places: Float64Array;
  readonly off: Float64Array;
}

/** What a run is made from. */
export interface RunNeeds<D extends PartBase, L extends PartLayout, S extends PartSource> {
  readonly part: D;
  readonly index: number;
  /** Its track, with what it hangs from numbered by the runs of this world. */
  readonly track: PartTrack<L, S>;
  /** The runs before it. */
  readonly runs: readonly PartRun[];
  /** Bodies of earlier runs that it touches, and whether a later run touches it, or hangs from it. */
  readonly touching: readonly Body[];
  readonly touched: boolean;
  readonly carries: boolean;
}

/** What drives the source: added to its pose before anything follows it, and to settings. */
export interface Driver {
  /** Adds what it does at a frame to a pose that has all before it. */
  add(frame: number, pose: Pose): void;
  /** What it adds to settings of other parts, in their units. */
  readonly settings: readonly {
    readonly part: string;
    readonly setting: string;
    readonly at: (frame: number) => number;
  }[];
}

/** What a driver is made from. */
export interface DriveNeeds<L extends PartLayout> {
  readonly character: Character;
  readonly layout: L;
  readonly shot: Shot;
  /** The source with the drivers before it. */
  readonly below: Source;
  /** First frame that is simulated, and frames after which the source repeats, or null. */
  readonly from: number;
  readonly period: number | null;
}

/** What is known of one part once its shot is simulated. */
export interface Simulated<D extends PartBase = PartBase> {
  readonly shot: Shot;
  readonly part: D;
  readonly frames: Frames;
  readonly track: SourceTrack;
  /** Its place in the track and in the frames. */
  readonly index: number;
}

/** How much room a part takes in the arena: its rows, its run, and bodies that later parts may touch. */
export interface Room {
  readonly rows: number;
  readonly run: number;
  readonly bodies: number;
}

/** A kind of part: everything that the rest of the core asks of it. */
export interface PartKind<
  D extends PartBase = PartBase,
  L extends PartLayout = PartLayout,
  S extends PartSource = PartSource,
> {
  /**
   * Finds it on the character, whose file has units of so many m. Throws OscillumError('shot.invalid') when it does
   * not fit.
   */
  layout(character: Character, part: D, metresPerUnit: number): L;
  /** The same with less detail, which answers much sooner; kinds that are fast have none. */
  coarsen?(layout: L): L;
  /** Whether it folds: its motion need not come to repeat, so a loop ends by becoming its beginning. */
  readonly folds?: true;
  /** Whether others lie on it: it steps before them, and they feel where it has come to. */
  readonly solid?: true;
  /** Whether it lies on all others, cloth too: it steps after them. */
  readonly fine?: true;
  columns(layout: L, part: D): PartContents;
  /** All that its layout, its rows and its driver depend on, as plain data. */
  sampled(part: D): unknown;
  /** Nodes whose placements it asks for in the track. */
  follows(part: D): readonly number[];
  /** What it minds: colliders and other parts that touch it. */
  collidesWith(part: D): { readonly colliders: Minds; readonly parts: Minds };
  /** Other parts that it is tied to without touching them. */
  tied(part: D): readonly string[];
  /** Whether what a collider does may change what it does. */
  concerns(part: D, collider: Collider): boolean;
  room(layout: L, rows: number, others: number): Room;
  source(layout: L, character: Character, rows: number, arena: Arena): S;
  run(needs: RunNeeds<D, L, S>, env: Env): PartRun;
  /** For kinds that drive the source of all others. */
  drive?(needs: DriveNeeds<L>): Driver;
  /** Its feel on the standard quick turn, and settings that give an asked one; by its place in the track. */
  feel(shot: Shot, track: SourceTrack, index: number): Feel;
  /** Parts that it answers as where it has no feel of its own: that of the first of them that moves is shown. */
  answersAs?(part: D): readonly string[];
  fit(shot: Shot, track: SourceTrack, index: number, asked: AskedFeel): FittedFeel;
  /** Of strands: widths at root and tip, m, and colours there, linear red, green and blue, 0..1. */
  curveLook?(part: D): {
    readonly widths: readonly [number, number];
    readonly colours: readonly [readonly number[], readonly number[]];
  };
  measureShot(x: Simulated<D>): ShotFeel;
  /** What is wrong with it, worst causes first. */
  diagnose(x: Simulated<D>): Diagnosis[];
  /** The last frame up to which two settings of one part simulate alike: −∞ for none, Infinity for all. */
  alikeUntil(a: D, b: D): number;
}

/** 0 to 1 with no kick in speed or acceleration at either end: 6t⁵ − 15t⁴ + 10t³. */
const ease = (t: number): number => (t >= 1 ? 1 : t * t * t * (10 + t * (6 * t - 15)));

/** How much of the simulation shows beside one anchor pose: 0 on it and while it is held, 1 away from it. */
export function anchorAway(
  a: Pick<AnchorPose, 'frame' | 'hold' | 'easeIn' | 'easeOut'>,
  frame: number,
): number {
  const d = frame < a.frame ? frame - a.frame : Math.max(0, frame - a.frame - a.hold);
  const over = d < 0 ? a.easeIn : a.easeOut;
  return d === 0 ? 0 : Math.abs(d) < over ? ease(Math.abs(d) / over) : 1;
}

/** How much of the simulation shows at a frame for anchor poses that meet the source: 0 on them, 1 away from them. */
export function anchorShare(anchors: readonly AnchorPose[], frame: number): number {
  let share = 1;
  for (const a of anchors) if (a.turns === null) share = Math.min(share, anchorAway(a, frame));
  return share;
}
