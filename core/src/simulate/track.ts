import { makePose, rootMatrix, updateWorld, type Character, type Pose } from '../character/index';
import {
  blendRows,
  matRotation,
  quatConjugate,
  quatMultiply,
  quatNormalise,
  quatRotate,
} from '../math/index';
import type { ChainLayout } from '../parts/index';
import { inOrder, type Collider } from '../model/index';
import { partsInOrder, type Shot } from '../shot/index';
import { clipOf } from './clip';
import { makeSource } from './source';
import { chainNumbers, makeArena, searchNumbers, type Arena } from '../solver/index';

/** What a chain hangs from: another chain's joint, or nothing that is simulated. */
export interface Hanging {
  /** Index of the chain in the track, or -1. */
  readonly chain: number;
  /** Its joint (and link). */
  readonly link: number;
}

/**
 * The source motion of every chain and of the joints that colliders ride, sampled at each frame from `from` to the end
 * of the range, one frame before and two after: row k is frame from − 1 + k.
 */
export interface SourceTrack {
  /** First frame of the range. */
  readonly first: number;
  /** Frames of the range. */
  readonly frames: number;
  /** First frame simulated: before `first` when the clip is run up to it. */
  readonly from: number;
  readonly chains: readonly ChainTrack[];
  /** Placements (7 numbers a row) of the joints that colliders ride, by node. */
  readonly joints: ReadonlyMap<number, Float64Array>;
  /** How the clip repeats over the range, or null when the shot does not loop or the clip does not. */
  readonly loop: Loop | null;
  /** Memory the rows stand in, with room for the solvers after them. */
  readonly arena: Arena;
  /** Numbers the rows take. */
  readonly size: number;
  /** Source pose, and world matrices of the nodes that matter, at frame first + f. */
  poseAt(f: number): Posed;
}

/** A clip that repeats: after `period` frames everything stands as at first, carried by a rigid travel. */
export interface Loop {
  readonly period: number;
  /** Place and turn, 7 numbers: where the travel takes the origin. */
  readonly travel: Float64Array;
}

export interface Posed {
  readonly pose: Pose;
  readonly world: Float64Array;
}

/** Poses are kept up to this many nodes × frames (about 200 bytes each); beyond it they are sampled again when asked. */
const MOST_KEPT = 1.5e6;

export interface ChainTrack {
  readonly layout: ChainLayout;
  readonly hanging: Hanging;
  /** Rows × (links + 1) × 3, m. */
  readonly points: Float64Array;
  /** Rows × links × 4, signs continuous in time. */
  readonly turns: Float64Array;
  /** Rows × 4: turn of what the first joint hangs from. */
  readonly body: Float64Array;
  /** Link lengths in the first pose, m, none 0. */
  readonly lengths: Float64Array;
}

/** Length given to links of no length, as a share of the chain's (or 1 mm when the whole chain has none). */
const LEAST_LENGTH = 1e-4;

/** Frames before the range that the clip is run up over. */
const runUp = (shot: Shot): number => (shot.start === 'run up' && !shot.loop ? shot.preRoll : 0);

/** The node a collider rides, or −1: a skinned mesh the first joint of its skin, about which it changes its shape. */
export function rideOf(character: Character, c: Collider): number {
  if (c.shape.kind !== 'mesh') return c.rides?.node ?? -1;
  const skin = character.skins[character.nodes[c.shape.node]?.skin ?? -1];
  return skin?.joints[0] ?? c.shape.node;
}

/** Joints that hold tips of parts that are not muted. */
const tiedTo = (shot: Shot): number[] =>
  partsInOrder(shot).flatMap((p) => (!p.muted && p.tie && 'joint' in p.tie.to ? [p.tie.to.joint.node] : []));

/** Nodes that colliders ride and tips are tied to. */
const ridden = (character: Character, shot: Shot): Set<number> =>
  new Set(
    inOrder(shot.colliders)
      .filter((c) => !c.muted)
      .map((c) => rideOf(character, c))
      .concat(tiedTo(shot))
      .filter((n) => n >= 0 && n < character.nodes.length),
  );

/** Everything a source track depends on; equal keys mean an equal track. */
export function trackKey(shot: Shot): string {
  return JSON.stringify([
    shot.character,
    shot.clip,
    shot.fps,
    shot.range,
    shot.inPlace,
    inOrder(shot.sourceTurns),
    shot.loop,
    runUp(shot),
    waits(shot),
    tiedTo(shot),
    inOrder(shot.colliders).map((c) => !c.muted && [c.rides, c.shape.kind === 'mesh' && c.shape.node]),
    partsInOrder(shot)
      .filter((p) => !p.muted)
      .map((p) => [p.id, p.joints]),
  ]);
}

/** Whether the simulation begins at rest in the first pose rather than in the middle of the clip's motion. */
const waits = (shot: Shot): boolean => shot.start !== 'run up' && shot.preRoll > 0 && !shot.loop;

/** Samples the source. Chains come parents first, so that one hanging from another follows it. */
export function makeTrack(character: Character, shot: Shot, layouts: readonly ChainLayout[]): SourceTrack {
  const root = rootMatrix(shot.character.metresPerUnit, shot.character.upAxis);
  const source = makeSource(character, shot);
  const clip = clipOf(character, shot);
  const { first } = shot.range;
  const frames = shot.range.last - first + 1;
  const from = first - runUp(shot);
  const rows = shot.range.last - from + 4;
  const sorted = [...layouts].sort((a, b) => a.above.length - b.above.length);
  const owner = new Map<number, Hanging>();
  sorted.forEach((l, chain) => l.joints.forEach((node, link) => owner.set(node, { chain, link })));
  const size = sorted.reduce((sum, l) => sum + rows * (7 * l.joints.length + 3), 0);
  // Twice the rows: a delayed chain has rows of its own beside the source's. A chain may touch every collider and every
  // link before its own. What is not used is never touched.
  let needs = 2 * size;
  let others = inOrder(shot.colliders).length;
  for (const { joints } of sorted) {
    needs += chainNumbers(joints.length) + searchNumbers(joints.length, others);
    others += joints.length;
  }
  const arena = makeArena(needs);
  const chains = sorted.map((layout): ChainTrack => {
    const n = layout.joints.length;
    let hanging: Hanging = { chain: -1, link: -1 };
    for (const node of layout.above) hanging = owner.get(node) ?? hanging;
    return {
      layout,
      hanging,
      points: arena.alloc(rows * (n + 1) * 3),
      turns: arena.alloc(rows * n * 4),
      body: new Float64Array(rows * 4),
      lengths: new Float64Array(n),
    };
  });
  const joints = new Map([...ridden(character, shot)].map((node) => [node, new Float64Array(7 * rows)]));
  const needed = new Set<number>();
  for (const c of chains) {
    for (const node of c.layout.above) needed.add(node);
    for (const node of c.layout.joints) needed.add(node);
  }
  for (const node of joints.keys()) for (let n = node; n >= 0; n = character.nodes[n]!.parent) needed.add(n);
  for (const c of inOrder(shot.colliders)) {
    // A skinned mesh goes where its joints go.
    const skin = c.shape.kind === 'mesh' && !c.muted ? character.nodes[c.shape.node]?.skin : undefined;
    for (const joint of character.skins[skin ?? -1]?.joints ?? [])
      for (let n = joint; n >= 0; n = character.nodes[n]!.parent) needed.add(n);
  }
  const nodes = Array.from(character.order).filter((n) => needed.has(n));
  const sample = (frame: number, out: Posed) => {
    source.at(frame, out.pose);
    for (const n of nodes) updateWorld(character, out.pose, root, n, out.world);
  };
  const fresh = (): Posed => ({
    pose: makePose(character),
    world: new Float64Array(16 * character.nodes.length),
  });
  const keep = character.nodes.length * frames <= MOST_KEPT;
  const kept: Posed[] = [];
  const shared = fresh();
  const write = (k: number, world: Float64Array) => {
    for (const c of chains) writeSource(character, c, k, world);
    for (const [node, placed] of joints) writePlacement(placed, k, world, node);
  };
  for (let k = 0; k < rows; k++) {
    const f = from - 1 + k - first;
    const posed = keep && f >= 0 && f < frames ? fresh() : shared;
    // Waiting happens on the first pose, so the frame before the range is that pose again.
    sample(k === 0 && waits(shot) ? first : first + f, posed);
    write(k, posed.world);
    if (posed !== shared) kept.push(posed);
  }
  // Without a clip there is no end at which it would stop.
  const lasts = clip ? clip.duration * shot.fps - first : Infinity;
  const loop = shot.loop ? findLoop(chains, rows, frames, lasts) : null;
  // Outside the clip the source stands still; its neighbours at the ends of the range are continued instead, so that the
  // first and last frame keep their velocity. In a loop they are those of the other end.
  const before = !waits(shot) && from - 1 < 0;
  const after = (shot.range.last + 1) / shot.fps > (clip?.duration ?? 0);
  const moving: Moving[] = [
    ...chains.flatMap((c) => [
      { list: c.points, places: every(3, c.points.length / rows), turns: [] },
      { list: c.turns, places: [], turns: every(4, c.turns.length / rows) },
      { list: c.body, places: [], turns: [0] },
    ]),
    ...[...joints.values()].map((list) => ({ list, places: [0], turns: [3] })),
  ];
  for (const m of moving) {
    const width = m.list.length / rows;
    if (loop) wrapRows(m, width, loop, rows);
    else {
      if (before && rows > 4) continueRow(m.list, width, 0, 1, 2);
      if (after && rows > 4) {
        continueRow(m.list, width, rows - 2, rows - 3, rows - 4);
        continueRow(m.list, width, rows - 1, rows - 2, rows - 3);
      }
    }
  }
  for (const c of chains) measureLengths(c, first - from + 1);
  const poseAt = (f: number): Posed => {
    if (keep) return kept[f]!;
    sample(first + f, shared);
    return shared;
  };
  return { first, frames, from, chains, joints, loop, arena, size, poseAt };
}

/** Largest distance, as a share of the chains' lengths, that a pose may be off to count as the same. */
const SAME_POSE = 1e-4;

/**
 * Looks whether the last frame, or the one after it, is the first one again, carried by a rigid travel (`lasts`: frames of the clip from there on): the same turn
 * and step for every chain's source.
 */
function findLoop(chains: readonly ChainTrack[], rows: number, frames: number, lasts: number): Loop | null {
  if (chains.length === 0) return null;
  // A travel without a turn first: a body that turns to and fro is like itself, turned, at many moments.
  for (const turns of [false, true]) {
    for (const period of [frames - 1, frames]) {
      // The clip stands still after its end.
      if (period < 1 || period > lasts + 1e-3) continue;
      const travel = travelOf(chains[0]!, 1, 1 + period, turns);
      const same = chains.every((c) => agrees(c, travel, 1, 1 + period, rows));
      if (same && chains.every((c) => goesOn(c, travel, period, rows))) return { period, travel };
    }
  }
  return null;
}

const turned = new Float64Array(4);
const carried = new Float64Array(3);

/** The travel of what a chain hangs from, from row a to row b, with its turn or without. */
function travelOf(c: ChainTrack, a: number, b: number, turns: boolean): Float64Array {
  const out = new Float64Array(7);
  const size = 3 * (c.lengths.length + 1);
  out[6] = 1;
  if (turns) {
    quatConjugate(turned, 0, c.body, 4 * a);
    quatMultiply(out, 3, c.body, 4 * b, turned, 0);
    quatNormalise(out, 3);
  }
  quatRotate(out, 0, out, 3, c.points, a * size);
  for (let k = 0; k < 3; k++) out[k] = c.points[b * size + k]! - out[k]!;
  return out;
}

function agrees(c: ChainTrack, travel: Float64Array, a: number, b: number, rows: number): boolean {
  const size = c.points.length / rows;
  let length = 0;
  for (let k = 3; k < size; k++) length += Math.abs(c.points[a * size + k]! - c.points[a * size + k - 3]!);
  for (let p = 0; p < size; p += 3) {
    quatRotate(carried, 0, travel, 3, c.points, a * size + p);
    for (let k = 0; k < 3; k++)
      if (Math.abs(carried[k]! + travel[k]! - c.points[b * size + p + k]!) > SAME_POSE * length) return false;
  }
  return true;
}

/**
 * Whether the end of the loop goes over into its beginning without a jerk: the bend of the tip's path at the seam is
 * not much more than the sharpest within.
 */
function goesOn(c: ChainTrack, travel: Float64Array, period: number, rows: number): boolean {
  const size = c.points.length / rows;
  const tip = size - 3;
  const at = (k: number, a: number) => c.points[k * size + tip + a]!;
  let sharpest = 0;
  let length = 0;
  for (let k = 2; k <= period; k++) {
    let sum = 0;
    for (let a = 0; a < 3; a++) {
      sum += (at(k - 1, a) - 2 * at(k, a) + at(k + 1, a)) ** 2;
      length = Math.max(length, Math.abs(at(k, a) - c.points[k * size + a]!));
    }
    sharpest = Math.max(sharpest, Math.sqrt(sum));
  }
  // The step out of the first frame, carried to the end, beside the step into the last.
  let seam = 0;
  for (let a = 0; a < 3; a++) carried[a] = at(2, a) - at(1, a);
  quatRotate(carried, 0, travel, 3, carried, 0);
  for (let a = 0; a < 3; a++) seam += (carried[a]! - (at(1 + period, a) - at(period, a))) ** 2;
  return Math.sqrt(seam) <= 2 * sharpest + 1e-4 * length;
}

/** Rows of something sampled, and where in a row its places (3 numbers) and turns (4) stand. */
interface Moving {
  readonly list: Float64Array;
  readonly places: readonly number[];
  readonly turns: readonly number[];
}

const every = (step: number, width: number): number[] =>
  Array.from({ length: width / step }, (_, i) => step * i);

/** The rows before and after the range of a loop are those of its other end, carried by the travel back and on. */
function wrapRows({ list, places, turns }: Moving, width: number, loop: Loop, rows: number): void {
  const carryRow = (to: number, from: number, travel: Float64Array) => {
    for (const p of places) {
      quatRotate(carried, 0, travel, 3, list, from * width + p);
      for (let k = 0; k < 3; k++) list[to * width + p + k] = carried[k]! + travel[k]!;
    }
    for (const q of turns) {
      quatMultiply(list, to * width + q, travel, 3, list, from * width + q);
      keepSign(list, to * width + q, (to === 0 ? 1 : to - 1) * width + q);
    }
  };
  carryRow(0, loop.period, inverseTravel(loop.travel));
  // Rows past the period, in order: the range's last frame may be the first again.
  for (let k = 1 + loop.period; k < rows; k++) carryRow(k, k - loop.period, loop.travel);
}

/** The travel that undoes another. */
export function inverseTravel(travel: Float64Array): Float64Array {
  const out = new Float64Array(7);
  quatConjugate(out, 3, travel, 3);
  quatRotate(out, 0, out, 3, travel, 0);
  for (let k = 0; k < 3; k++) out[k] = -out[k]!;
  return out;
}

/** Row `to` = 2 · row `a` − row `b`; turns are made unit when they are used. */
function continueRow(rows: Float64Array, size: number, to: number, a: number, b: number): void {
  for (let k = 0; k < size; k++) rows[to * size + k] = 2 * rows[a * size + k]! - rows[b * size + k]!;
}

/** Place and turn of a node as row k. */
function writePlacement(placed: Float64Array, k: number, world: Float64Array, node: number): void {
  for (let a = 0; a < 3; a++) placed[7 * k + a] = world[16 * node + 12 + a]!;
  matRotation(placed, 7 * k + 3, world, 16 * node);
  if (k > 0) keepSign(placed, 7 * k + 3, 7 * (k - 1) + 3);
}

/** Makes the quaternion at `at` the nearer of its two signs to the one at `beside`. */
function keepSign(q: Float64Array, at: number, beside: number): void {
  let dot = 0;
  for (let a = 0; a < 4; a++) dot += q[at + a]! * q[beside + a]!;
  if (dot < 0) for (let a = 0; a < 4; a++) q[at + a] = -q[at + a]!;
}

function writeSource(character: Character, c: ChainTrack, k: number, world: Float64Array): void {
  const { joints, tip } = c.layout;
  const above = character.nodes[joints[0]!]!.parent;
  if (above >= 0) matRotation(c.body, 4 * k, world, 16 * above);
  else c.body[4 * k + 3] = 1;
  if (k > 0) keepSign(c.body, 4 * k, 4 * (k - 1));
  const n = joints.length;
  const p = k * (n + 1) * 3;
  for (let i = 0; i < n; i++) {
    const m = 16 * joints[i]!;
    for (let a = 0; a < 3; a++) c.points[p + 3 * i + a] = world[m + 12 + a]!;
    const q = (k * n + i) * 4;
    matRotation(c.turns, q, world, m);
    if (k > 0) keepSign(c.turns, q, q - 4 * n);
  }
  const m = 16 * joints[n - 1]!;
  for (let a = 0; a < 3; a++) {
    c.points[p + 3 * n + a] =
      world[m + a]! * tip[0]! +
      world[m + 4 + a]! * tip[1]! +
      world[m + 8 + a]! * tip[2]! +
      world[m + 12 + a]!;
  }
}

/** Lengths in the first pose of the range, which is row `k`. */
function measureLengths(c: ChainTrack, k: number): void {
  const n = c.layout.joints.length;
  const row = k * (n + 1) * 3;
  const link = (i: number) =>
    [0, 1, 2].map((a) => c.points[row + 3 * (i + 1) + a]! - c.points[row + 3 * i + a]!) as [
      number,
      number,
      number,
    ];
  const norm = (v: readonly [number, number, number]) => Math.sqrt(v[0] * v[0] + v[1] * v[1] + v[2] * v[2]);
  let total = 0;
  for (let i = 0; i < n; i++) total += c.lengths[i] = norm(link(i));
  const least = total > 0 ? total * LEAST_LENGTH : 1e-3;
  for (let i = 0; i < n; i++) c.lengths[i] = Math.max(c.lengths[i]!, least);
}

/** Row `row` of rows of `width` numbers, on the way to the next by `share`, as the solver places its source. */
export function rowAt(
  out: Float64Array,
  rows: Float64Array,
  width: number,
  row: number,
  share: number,
): void {
  blendRows(out, rows, width, rows.length / width - 1, row, share);
}
