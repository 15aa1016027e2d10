import {
  makePose,
  restWorld,
  rootMatrix,
  samplePose,
  worldMatrices,
  type Character,
  type Clip,
  type Pose,
} from '../character/index';
import {
  atan2,
  matRotation,
  quatAngle,
  quatConjugate,
  quatFromAxis,
  quatMultiply,
  quatNormalise,
  quatPower,
  quatRotate,
  quatSlerp,
} from '../math/index';
import type { StartReport } from '../frames/index';
import type { Shot } from '../shot/index';

/** The node that carries the figure over the ground: the first whose place is keyed. */
export interface Carrier {
  readonly node: number;
  /** What points up, in its parent's space. */
  readonly up: Float64Array;
}

export function carrierOf(character: Character, clip: Clip | null, shot: Shot): Carrier | null {
  const keyed = new Set(clip?.channels.flatMap((c) => (c.path === 'translation' ? [c.node] : [])));
  const node = Array.from(character.order).find((n) => keyed.has(n));
  if (node === undefined) return null;
  const pose = makePose(character);
  samplePose(character, clip, shot.range.first / shot.fps, pose);
  const up = new Float64Array([0, 1, 0]);
  const { parent } = character.nodes[node]!;
  const world = new Float64Array(16 * character.nodes.length);
  const root = rootMatrix(shot.character.metresPerUnit, shot.character.upAxis);
  worldMatrices(character, pose, root, world);
  const turn = new Float64Array(4);
  if (parent >= 0) matRotation(turn, 0, world, 16 * parent);
  else matRotation(turn, 0, root, 0);
  quatConjugate(turn, 0, turn, 0);
  quatRotate(up, 0, turn, 0, up, 0);
  return { node, up };
}

/** A clip played on end. */
export interface Cycle {
  /** Frames of one time, and seconds of all. */
  readonly length: number;
  readonly total: number;
  /** The pose at a frame, counted from the clip's begin. */
  at(frame: number, out: Pose): void;
}

/** Below these a figure stays where it is: share of its size, and degrees. */
const STAYS = 0.01;
const STAYS_DEGREES = 1;

const smoothstep = (t: number): number => (t <= 0 ? 0 : t >= 1 ? 1 : t * t * (3 - 2 * t));

/** How far one time carries the figure, in its parent's space: a turn about up, and a way along the ground. */
interface Travel {
  readonly turn: Float64Array;
  readonly way: Float64Array;
}

function travelOf(carrier: Carrier, poses: Ends, size: number): Travel | null {
  const { node, up } = carrier;
  const { first, second, before, last } = poses;
  const turn = new Float64Array(4);
  const q = new Float64Array(4);
  quatConjugate(q, 0, first.r, 4 * node);
  quatMultiply(turn, 0, last.r, 4 * node, q, 0);
  // The twist of the turn about up.
  const along = turn[0]! * up[0]! + turn[1]! * up[1]! + turn[2]! * up[2]!;
  let angle = 2 * atan2(along, turn[3]!);
  if (angle > Math.PI) angle -= 2 * Math.PI;
  if (angle < -Math.PI) angle += 2 * Math.PI;
  const turns = Math.abs(angle) * (180 / Math.PI) > STAYS_DEGREES;
  quatFromAxis(turn, 0, up[0]!, up[1]!, up[2]!, turns ? angle : 0);
  const level = (v: Float64Array) => {
    const lift = v[0]! * up[0]! + v[1]! * up[1]! + v[2]! * up[2]!;
    for (let a = 0; a < 3; a++) v[a]! -= lift * up[a]!;
    return v;
  };
  const place = (p: Pose) => p.t.subarray(3 * node, 3 * node + 3);
  const end = place(last).map(
    (x, a) =>
      x +
      (poses.missing ? (place(second)[a]! - place(first)[a]! + place(last)[a]! - place(before)[a]!) / 2 : 0),
  );
  const far = level(end.map((x, a) => x - place(first)[a]!));
  const travels = Math.sqrt(far[0]! ** 2 + far[1]! ** 2 + far[2]! ** 2) > STAYS * size;
  if (!turns && !travels) return null;
  const turned = new Float64Array(3);
  quatRotate(turned, 0, turn, 0, place(first), 0);
  return { turn, way: level(end.map((x, a) => x - turned[a]!)) };
}

/** Poses at and beside the ends of a clip; whether a frame is missing between its last and its first. */
interface Ends {
  readonly first: Pose;
  readonly second: Pose;
  readonly before: Pose;
  readonly last: Pose;
  readonly missing: boolean;
}

function endsOf(character: Character, clip: Clip, fps: number, missing: boolean): Ends {
  const at = (time: number) => {
    const pose = makePose(character);
    samplePose(character, clip, time, pose);
    return pose;
  };
  return {
    first: at(0),
    second: at(1 / fps),
    before: at(clip.duration - 1 / fps),
    last: at(clip.duration),
    missing,
  };
}

const carriedTurn = new Float64Array(4);

/** Carries a node of a pose by a travel, so many times. */
function carry(pose: Pose, node: number, { turn, way }: Travel, times: number): void {
  const back = times < 0;
  const q = new Float64Array(4);
  if (back) quatConjugate(q, 0, turn, 0);
  else q.set(turn);
  for (let k = 0; k < Math.abs(times); k++) {
    if (back) for (let a = 0; a < 3; a++) pose.t[3 * node + a]! -= way[a]!;
    quatRotate(pose.t, 3 * node, q, 0, pose.t, 3 * node);
    if (!back) for (let a = 0; a < 3; a++) pose.t[3 * node + a]! += way[a]!;
    quatMultiply(carriedTurn, 0, q, 0, pose.r, 4 * node);
    pose.r.set(carriedTurn, 4 * node);
  }
}

/** What every node's place and turn in the last pose lacks to be those of a target: added by a share. */
function lead(out: Pose, from: Pose, to: Pose, share: number): void {
  const q = new Float64Array(4);
  for (let n = 0; n < out.r.length / 4; n++) {
    quatConjugate(q, 0, from.r, 4 * n);
    quatMultiply(q, 0, to.r, 4 * n, q, 0);
    quatPower(q, 0, q, 0, share);
    quatMultiply(out.r, 4 * n, q, 0, out.r, 4 * n);
    quatNormalise(out.r, 4 * n);
    for (let a = 3 * n; a < 3 * n + 3; a++) {
      out.t[a]! += share * (to.t[a]! - from.t[a]!);
      out.s[a]! += share * (to.s[a]! - from.s[a]!);
    }
  }
  for (const [node, weights] of out.morphs) {
    const [a, b] = [from.morphs.get(node)!, to.morphs.get(node)!];
    for (let k = 0; k < weights.length; k++) weights[k]! += share * (b[k]! - a[k]!);
  }
}

/** Takes a pose a share of the way to another. */
function mixTo(out: Pose, to: Pose, share: number): void {
  for (let q = 0; q < out.r.length; q += 4) quatSlerp(out.r, q, out.r, q, to.r, q, share);
  for (const key of ['t', 's'] as const)
    for (let k = 0; k < out[key].length; k++) out[key][k]! += share * (to[key][k]! - out[key][k]!);
  for (const [node, weights] of out.morphs)
    for (let k = 0; k < weights.length; k++) weights[k]! += share * (to.morphs.get(node)![k]! - weights[k]!);
}

const copyPose = (p: Pose): Pose => ({
  t: Float64Array.from(p.t),
  r: Float64Array.from(p.r),
  s: Float64Array.from(p.s),
  morphs: new Map([...p.morphs].map(([n, w]) => [n, Float64Array.from(w)])),
  points: new Map(p.points),
});

/** Whether a clip is played as it stands in its file. */
export const isPlain = ({ repeats, missingFrame, blend, frames }: Shot['cycle']): boolean =>
  repeats === 1 && !missingFrame && blend === 0 && frames === null;

/**
 * A shot's clip as its `cycle` has it played: a missing frame added, its end led into its first pose, fitted to whole
 * frames, so many times on end with its travel carried on. `runs` says that frames before it belong to the time before.
 */
export function makeCycle(character: Character, clip: Clip | null, shot: Shot, runs = false): Cycle {
  const { repeats, missingFrame, blend, frames } = shot.cycle;
  const own = (clip?.duration ?? 0) * shot.fps;
  if (!clip || own <= 0 || (isPlain(shot.cycle) && !runs))
    return {
      length: own,
      total: clip?.duration ?? 0,
      at: (frame, out) => samplePose(character, clip, frame / shot.fps, out),
    };
  const lap = own + (missingFrame ? 1 : 0);
  const length = frames ?? lap;
  const faster = lap / length;
  const ends = endsOf(character, clip, shot.fps, missingFrame);
  const carrier = carrierOf(character, clip, shot);
  const travel = carrier && travelOf(carrier, ends, sizeOf(character));
  const target = copyPose(ends.first);
  if (travel) carry(target, carrier.node, travel, 1);
  return {
    length,
    total: (repeats * length) / shot.fps,
    at: (frame, out) => {
      const u = frame * faster;
      const most = repeats - 1;
      const time = Math.min(most, Math.max(runs ? -Infinity : 0, Math.floor(u / lap + 1e-9)));
      const at = Math.min(lap, Math.max(runs ? -Infinity : 0, u - time * lap));
      samplePose(character, clip, Math.min(at, own) / shot.fps, out);
      if (at > own) mixTo(out, target, Math.min(1, at - own));
      if (blend > 0 && !missingFrame) {
        const share = smoothstep((at - (lap - blend * faster)) / (blend * faster));
        if (share > 0) lead(out, ends.last, target, share);
      }
      if (travel && time !== 0) carry(out, carrier.node, travel, time);
    },
  };
}

/** Half the diagonal of the rig at rest, file units. */
function sizeOf(character: Character): number {
  const world = restWorld(character);
  let size = 0;
  for (let a = 12; a < 15; a++) {
    const along = Array.from(character.order, (n) => world[16 * n + a]!);
    size += (Math.max(...along) - Math.min(...along)) ** 2;
  }
  return Math.max(1e-9, Math.sqrt(size));
}

/** What keeps a clip from beginning again where it ends, and what cures it. */
export interface CycleFinding {
  readonly kind: 'closes' | 'missing frame' | 'part of a frame' | 'misses' | 'open';
  readonly sentence: string;
  /** What it sets in the shot's `cycle`. */
  readonly cure: Partial<Shot['cycle']> | null;
}

/** Shares of the rig's size, and degrees, by which a pose may be off to be the same; and up to which it is led in. */
const SAME = 1e-4;
const SAME_DEGREES = 0.05;
const NEAR = 0.08;
const NEAR_DEGREES = 12;
/** Share of the step over a seam by which it may differ from the steps beside it. */
const EVEN = 0.4;

/** Largest distance (share of the size) and turn (degrees) between two sets of world matrices; and of which node. */
function farthest(character: Character, a: Float64Array, b: Float64Array, size: number) {
  const [p, q] = [new Float64Array(4), new Float64Array(4)];
  let [share, degrees, node] = [0, 0, -1];
  for (const n of character.order) {
    const m = 16 * n;
    let d = 0;
    for (let k = m + 12; k < m + 15; k++) d += (a[k]! - b[k]!) ** 2;
    d = Math.sqrt(d) / size;
    matRotation(p, 0, a, m);
    matRotation(q, 0, b, m);
    degrees = Math.max(degrees, (quatAngle(p, 0, q, 0) * 180) / Math.PI);
    if (d > share) [share, node] = [d, n];
  }
  return { share, degrees, node };
}

/**
 * Looks how a shot's clip closes, as its `cycle` has it played: exactly, with its last frame left out, a little off, or
 * not at all; null without a clip.
 */
export function findCycle(character: Character, clip: Clip | null, shot: Shot): CycleFinding | null {
  if (!clip || clip.duration <= 0) return null;
  const { cycle, fps } = shot;
  const one = { ...shot, cycle: { ...cycle, repeats: 1 } };
  const ends = endsOf(character, clip, fps, cycle.missingFrame);
  const played = makeCycle(character, clip, one);
  const { length } = played;
  const carrier = carrierOf(character, clip, shot);
  const size = sizeOf(character);
  const root = rootMatrix(1, 'Y');
  /** World matrices of a pose beside its carrier: how the figure goes over the ground is no matter here. */
  const beside = (pose: Pose): Float64Array => {
    const still = copyPose(pose);
    if (carrier) {
      still.t.set(ends.first.t.subarray(3 * carrier.node, 3 * carrier.node + 3), 3 * carrier.node);
      still.r.set(ends.first.r.subarray(4 * carrier.node, 4 * carrier.node + 4), 4 * carrier.node);
    }
    const world = new Float64Array(16 * character.nodes.length);
    worldMatrices(character, still, root, world);
    return world;
  };
  const pose = makePose(character);
  const posed = (frame: number) => {
    played.at(frame, pose);
    return beside(pose);
  };
  const [first, last] = [beside(ends.first), posed(length)];
  const gap = farthest(character, first, last, size);
  const mm = gap.share * size * shot.character.metresPerUnit * 1000;
  const off = `${mm < 10 ? mm.toFixed(1) : mm.toFixed(0)} mm and ${gap.degrees.toFixed(1)}°`;
  const whole = Math.round(length);
  if (gap.share <= SAME && gap.degrees <= SAME_DEGREES) {
    if (Math.abs(length - whole) < 1e-3)
      return {
        kind: 'closes',
        sentence: `The clip closes: it ends as it begins, after ${whole} frames.`,
        cure: null,
      };
    return {
      kind: 'part of a frame',
      sentence: `The clip closes, but lasts ${length.toFixed(1)} frames at ${fps} fps: no frame is its first pose again.`,
      cure: { frames: whole },
    };
  }
  const [second, before] = [posed(1), posed(length - 1)];
  let [most, odd] = [0, 0];
  for (const n of character.order)
    for (let k = 16 * n + 12; k < 16 * n + 15; k++) {
      const seam = first[k]! - last[k]!;
      most = Math.max(most, Math.abs(seam));
      odd = Math.max(odd, Math.abs(seam - (second[k]! - first[k]! + last[k]! - before[k]!) / 2));
    }
  if (!cycle.missingFrame && cycle.blend === 0 && most > SAME * size && odd < EVEN * most)
    return {
      kind: 'missing frame',
      sentence: `The clip leaves out its repeated last frame: from its last pose to its first is one more step (${off}).`,
      cure: { missingFrame: true },
    };
  if (gap.share < NEAR && gap.degrees < NEAR_DEGREES)
    return {
      kind: 'misses',
      sentence: `The clip misses its first pose by ${off}${gap.node >= 0 ? ` at ${character.nodes[gap.node]!.name}` : ''}.`,
      cure: { blend: Math.max(3, Math.round(length / 8)) },
    };
  return {
    kind: 'open',
    sentence: `The clip does not end as it begins: it is ${off} off. It is no cycle.`,
    cure: null,
  };
}

/** Why a loop that was asked for was not found; null where it was, or none was asked for. */
export function loopTrouble(
  character: Character,
  clip: Clip | null,
  shot: Shot,
  { loop }: StartReport,
): string | null {
  if (!shot.loop || !loop || loop.found) return null;
  if (loop.why !== 'clip')
    return `It does not loop: the motion still differs by ${loop.gap.toPrecision(2)} after ${loop.laps} laps.`;
  const finding = findCycle(character, clip, shot);
  const why = !finding
    ? 'there is no clip that repeats.'
    : finding.kind === 'closes'
      ? `the range (${shot.range.first} to ${shot.range.last}) is not one whole time of the clip, or more.`
      : finding.sentence;
  return `It does not loop: ${why[0]!.toLowerCase()}${why.slice(1)}`;
}
