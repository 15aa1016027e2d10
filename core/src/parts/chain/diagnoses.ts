import { questionUnit } from '../../character/index';
import { acos, quatConjugate, quatRotate } from '../../math/index';
import { lengthText } from '../../model/index';
import type { Diagnosis, Remedy } from '../diagnosis';
import type { Simulated, SourceTrack } from '../kind';
import type { ChainPart } from './document';
import type { ChainLayout } from './layout';
import { droop, type ChainSettingKey } from './settings';
import type { ChainSource } from './source';

/** Degrees the root must turn within the range for a chain to have something to follow. */
const LEAST_TURN = 3;
/** Frames that count as the start, and the share of the length a tip may move against its source in them. */
const START = 3;
const UNSETTLED = 0.02;
/** Tangent of the droop from which a chain hangs more than it holds, and the one its remedy leaves. */
const HANGS = 1;
const STANDS = 0.25;
/** Share of its length by which the tip then strays. */
const HANGING = 0.4;
/** From this damping on, an overshoot under 1 % is all there is. */
const HIDING = 0.9;
/** Depth inside a collider, as a share of the chain's length, that an eye sees. */
const SEEN = 0.01;
/** A frequency is drawn by at least this many frames a swing. */
const FRAMES_A_SWING = 5;

/**
 * Largest turn (degrees) of a chain's first link and what it hangs from over the range, how far its root travels, and
 * how far its way differs from an even one from frame to frame (m).
 */
function rootMotion(track: SourceTrack, chain: number): { turn: number; travel: number; jerk: number } {
  const c = sourceOf(track, chain);
  const n = c.lengths.length;
  const from = track.first - track.from + 1;
  let least = 1;
  let travel = 0;
  let jerk = 0;
  for (let k = from; k < from + track.frames; k++) {
    let dot = 0;
    for (let a = 0; a < 4; a++) dot += c.turns[4 * n * k + a]! * c.turns[4 * n * from + a]!;
    least = Math.min(least, Math.abs(dot));
    let d = 0;
    for (let a = 0; a < 3; a++)
      d += (c.points[3 * (n + 1) * k + a]! - c.points[3 * (n + 1) * from + a]!) ** 2;
    travel = Math.max(travel, Math.sqrt(d));
    if (k === from || k + 1 === from + track.frames) continue;
    const at = (row: number, a: number) => c.points[3 * (n + 1) * row + a]!;
    let bend = 0;
    for (let a = 0; a < 3; a++) bend += (at(k - 1, a) - 2 * at(k, a) + at(k + 1, a)) ** 2;
    jerk = Math.max(jerk, Math.sqrt(bend));
  }
  return { turn: (2 * acos(Math.min(1, least)) * 180) / Math.PI, travel, jerk };
}

/** A chain that is looked at, and what its looks share. */
interface Look extends Simulated<ChainPart> {
  /** Whole length, m. */
  readonly length: number;
  readonly links: number;
  readonly range: readonly [number, number];
  /** A setting with keys is the animator's own doing, and its value is of no account. */
  keyed(key: ChainSettingKey): boolean;
  say(
    cause: Cause,
    at: readonly [number, number],
    sentence: string,
    says: string,
    change: Remedy['change'],
  ): void;
}
type Cause =
  | 'size in doubt'
  | 'nothing to follow'
  | 'not settled'
  | 'gravity outweighs it'
  | 'damping hides the swing'
  | 'starts inside'
  | 'passes through'
  | 'delay too long'
  | 'frame rate too low';

/** What keeps a simulated chain from moving as one would like, worst causes first. */
export function diagnoseChain(x: Simulated<ChainPart>): Diagnosis[] {
  const { part, frames, track, index } = x;
  const out: Diagnosis[] = [];
  const { lengths } = sourceOf(track, index);
  const look: Look = {
    ...x,
    length: lengths.reduce((a, b) => a + b, 0),
    links: lengths.length,
    range: [frames.first, frames.first + frames.count - 1],
    keyed: (key) => (part.keys[key]?.length ?? 0) > 0,
    say: (cause, at, sentence, says, change) =>
      void out.push({ cause, partId: part.id, frames: at, sentence, remedy: { says, change } }),
  };
  lookAtSize(look);
  lookAtRoot(look);
  lookAtStart(look);
  lookAtGravity(look);
  lookAtDamping(look);
  lookAtDepth(look);
  lookAtDelay(look);
  lookAtFrameRate(look);
  return out;
}

const sourceOf = (track: SourceTrack, index: number): ChainSource =>
  track.parts[index]!.source as ChainSource;

/** Whether the file's unit can be what it is taken for. */
function lookAtSize({ shot, part, track, index, length, range, say }: Look): void {
  const { rig } = track.parts[index]!.layout as ChainLayout;
  const { metresPerUnit } = shot.character;
  const likely = questionUnit(rig, metresPerUnit, length);
  if (likely)
    say(
      'size in doubt',
      range,
      `${part.name} is ${lengthText(length)} long, on a figure ${lengthText(rig * metresPerUnit)} across.`,
      `Take one unit of the file for ${likely.name}`,
      { kind: 'unit', metres: likely.metres },
    );
}

/** Below this acceleration (m/s²) a travel is even. */
const EVEN_TRAVEL = 1;

/** The joint that a chain hangs from, or its first, and an axis of it about which the chain swings sideways. */
function baseOf(track: SourceTrack, index: number) {
  const c = sourceOf(track, index);
  const { above, base } = track.parts[index]!.layout as ChainLayout;
  const row = track.first - track.from + 1;
  const p = 3 * (c.lengths.length + 1) * row;
  const way = [0, 1, 2].map((a) => c.points[p + 3 * c.lengths.length + a]! - c.points[p + a]!);
  const upright = Math.abs(way[1]!) > 0.8 * Math.sqrt(way[0]! ** 2 + way[1]! ** 2 + way[2]! ** 2);
  const axis = Float64Array.from(upright ? [0, 0, 1] : [0, 1, 0]);
  const back = new Float64Array(4);
  if (above.length > 0) quatConjugate(back, 0, c.body, 4 * row);
  else quatConjugate(back, 0, c.turns, 4 * c.lengths.length * row);
  quatRotate(axis, 0, back, 0, axis, 0);
  const tidy = (x: number) => Number(x.toFixed(4));
  return {
    joint: base,
    axis: [tidy(axis[0]!), tidy(axis[1]!), tidy(axis[2]!)] as const,
  };
}

/** Whether there is anything to follow. */
function lookAtRoot({ shot, part, track, index, length, range, keyed, say }: Look): void {
  const { turn, travel, jerk } = rootMotion(track, index);
  const forced =
    part.pulls.length > 0 ||
    Object.values(shot.forces).some(
      (f) => !f.muted && (f.parts === 'all' || f.parts.some((id) => id === part.id)),
    );
  if (turn >= LEAST_TURN || forced) return;
  if (travel > 0.2 * length && jerk * shot.fps ** 2 < EVEN_TRAVEL) {
    say(
      'nothing to follow',
      range,
      `The root of ${part.name} travels evenly and hardly turns (${turn.toFixed(1)}°). Travel response does little where nothing speeds up.`,
      'Swing its base a little over the cycle',
      { kind: 'swing', ...baseOf(track, index) },
    );
  } else if (travel > 0.2 * length) {
    if (part.settings.travel <= 100 && !keyed('travel'))
      say(
        'nothing to follow',
        range,
        `The root of ${part.name} travels but hardly turns (${turn.toFixed(1)}°), so there is little to follow.`,
        'Raise travel response to 200 %',
        { kind: 'setting', key: 'travel', value: 200 },
      );
  } else
    say(
      'nothing to follow',
      range,
      `The root of ${part.name} hardly moves in this clip (${turn.toFixed(1)}°), so there is nothing to follow.`,
      'Let a light wind move it',
      { kind: 'breeze', thickness: 0.02 * length },
    );
}

/** Whether it is at rest where the range begins. */
function lookAtStart({ shot, part, frames, track, index, length, say }: Look): void {
  const { first } = frames;
  if (frames.count <= START || shot.start === 'settled' || shot.loop) return;
  const move = Math.abs(
    frames.tipOffSource[START * frames.parts.length + index]! - frames.tipOffSource[index]!,
  );
  if (move > UNSETTLED * length && sourceTipWay(track, index) < UNSETTLED * length)
    say(
      'not settled',
      [first, first + START],
      `${part.name} is still falling into place when the range begins.`,
      'Begin settled',
      { kind: 'shot', set: { start: 'settled' } },
    );
}

/** Whether gravity pulls it down more than hold and bend keep it up. */
function lookAtGravity({ shot, part, frames, index, length, range, keyed, say }: Look): void {
  const { settings } = part;
  const pull = shot.gravityKeys.length > 0 || keyed('gravity') ? 0 : settings.gravity * norm(shot.gravity);
  const held = (settings.hold > 0 || settings.bend > 0) && !keyed('hold') && !keyed('bend');
  const down = held ? droop(length, pull, settings.hold, settings.bend) : 0;
  let offSource = 0;
  for (let f = 0; f < frames.count; f++)
    offSource += frames.tipOffSource[f * frames.parts.length + index]! / frames.count;
  if (down <= HANGS || offSource <= HANGING * length) return;
  const fits = Number(((settings.gravity * STANDS) / down).toPrecision(2));
  say(
    'gravity outweighs it',
    range,
    `${part.name} is ${lengthText(length)} long: gravity pulls it down ${down.toPrecision(2)} times as hard as hold and bend keep it up.`,
    `Set gravity to ${fits} ×`,
    { kind: 'setting', key: 'gravity', value: fits },
  );
}

function lookAtDamping({ part, range, keyed, say }: Look): void {
  const { settings } = part;
  if (settings.damping >= HIDING && (settings.hold > 0 || settings.bend > 0) && !keyed('damping'))
    say(
      'damping hides the swing',
      range,
      `${part.name} is damped so much (${settings.damping}) that it cannot swing past its pose.`,
      'Damp it to 0.4',
      { kind: 'setting', key: 'damping', value: 0.4 },
    );
}

/** Whether it stands in something at the start, or is driven into something later. */
function lookAtDepth({ part, frames, index, length, say }: Look): void {
  const { first } = frames;
  const depths = Array.from(
    { length: frames.count },
    (_, f) => frames.depth[f * frames.parts.length + index]!,
  );
  // With no frames before it the first frame knows nothing yet; the second does.
  const inside = Math.max(depths[0]!, depths[1] ?? 0);
  const seen = Math.max(SEEN * length, 0.5 * part.settings.thickness);
  if (inside > seen)
    say(
      'starts inside',
      [first, first],
      `${part.name} begins ${lengthText(inside)} inside what it touches.`,
      frames.startsIn[index]!.length > 1 ? 'Leave those colliders out' : 'Leave that collider out',
      { kind: 'leave out', colliders: frames.startsIn[index]! },
    );
  // What began inside has to come out first.
  const out = inside > seen ? depths.findIndex((d, f) => f > 1 && d <= seen) : 1;
  const through = out < 0 ? null : span(depths, (d, f) => f > out && d > seen);
  if (!through) return;
  const into = new Set<string>();
  for (let f = through[0]; f <= through[1]; f++) {
    const k = frames.deepIn[f * frames.parts.length + index]!;
    if (k > 0 && depths[f]! > seen) into.add(frames.colliders[k - 1]!);
  }
  say(
    'passes through',
    [first + through[0], first + through[1]],
    `${part.name} goes ${lengthText(Math.max(...depths.slice(through[0], through[1] + 1)))} into what it touches: it is driven or squeezed into it.`,
    into.size > 1 ? 'Leave those colliders out' : 'Leave that collider out',
    { kind: 'leave out', colliders: [...into] },
  );
}

function lookAtDelay({ shot, part, links, range, keyed, say }: Look): void {
  const { settings } = part;
  const hz = Math.max(settings.hold, settings.bend);
  const longest = shot.fps / (2 * hz);
  if (
    keyed('delayPerJoint') ||
    settings.delayPerJoint <= 0 ||
    hz <= 0 ||
    settings.delayPerJoint * (links - 1) <= longest
  )
    return;
  const fits = Number((longest / Math.max(1, links - 1)).toFixed(2));
  say(
    'delay too long',
    range,
    `The delay of ${part.name} adds up to ${(settings.delayPerJoint * (links - 1)).toFixed(0)} frames, longer than its own swing.`,
    `Delay by ${fits} frames a link`,
    { kind: 'setting', key: 'delayPerJoint', value: fits },
  );
}

function lookAtFrameRate({ shot, part, range, keyed, say }: Look): void {
  const highest = shot.fps / FRAMES_A_SWING;
  for (const key of ['hold', 'bend'] as const)
    if (part.settings[key] > highest && !keyed(key))
      say(
        'frame rate too low',
        range,
        `${part.name} swings ${part.settings[key]} times a second, more than ${shot.fps} frames a second can show.`,
        `Set ${key} to ${highest} Hz`,
        { kind: 'setting', key, value: highest },
      );
}

const norm = ([x, y, z]: readonly [number, number, number]) => Math.sqrt(x * x + y * y + z * z);

/** Way of the source's tip in the frames of the start, m. */
function sourceTipWay(track: SourceTrack, chain: number): number {
  const c = sourceOf(track, chain);
  const width = 3 * (c.lengths.length + 1);
  const row = track.first - track.from + 1;
  let sum = 0;
  for (let a = 1; a <= 3; a++)
    sum += (c.points[(row + 1 + START) * width - a]! - c.points[(row + 1) * width - a]!) ** 2;
  return Math.sqrt(sum);
}

/** First and last frame at which something is so. */
function span(values: readonly number[], is: (v: number, f: number) => boolean): [number, number] | null {
  const first = values.findIndex(is);
  if (first < 0) return null;
  let last = first;
  values.forEach((v, f) => is(v, f) && (last = f));
  return [first, last];
}
