import { acos } from '../math/index';
import { Force, ForceId, lengthText } from '../model/index';
import { CHAIN_SETTING_KEYS, droop, type ChainPart, type ChainSettingKey } from '../parts/chain/shared';
import { partsInOrder, type Shot } from '../shot/index';
import type { Frames, SourceTrack } from '../simulate/index';

/** What keeps a part from moving as one would like, where, and what would cure it. */
export interface Diagnosis {
  readonly cause:
    | 'nothing to follow'
    | 'not settled'
    | 'gravity outweighs it'
    | 'damping hides the swing'
    | 'starts inside'
    | 'passes through'
    | 'keyed but muted'
    | 'delay too long'
    | 'frame rate too low';
  readonly partId: string;
  /** Frames it concerns, first and last. */
  readonly frames: readonly [number, number];
  readonly sentence: string;
  readonly remedy: Remedy;
}

/** One change to the shot, as data: what to press, and what it sets. */
export interface Remedy {
  readonly says: string;
  readonly change:
    | { readonly kind: 'setting'; readonly key: ChainSettingKey; readonly value: number }
    | { readonly kind: 'shot'; readonly set: Partial<Pick<Shot, 'start' | 'substeps' | 'fps'>> }
    | { readonly kind: 'unmute' }
    /** A light wind on this part, and a thickness (m) for it to take hold of where there is none. */
    | { readonly kind: 'breeze'; readonly thickness: number }
    | { readonly kind: 'leave out'; readonly colliders: readonly string[] };
}

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

/** Largest turn (degrees) of a chain's first link and what it hangs from over the range, and how far its root travels (m). */
function rootMotion(track: SourceTrack, chain: number): { turn: number; travel: number } {
  const c = track.chains[chain]!;
  const n = c.lengths.length;
  const from = track.first - track.from + 1;
  let least = 1;
  let travel = 0;
  for (let k = from; k < from + track.frames; k++) {
    let dot = 0;
    for (let a = 0; a < 4; a++) dot += c.turns[4 * n * k + a]! * c.turns[4 * n * from + a]!;
    least = Math.min(least, Math.abs(dot));
    let d = 0;
    for (let a = 0; a < 3; a++)
      d += (c.points[3 * (n + 1) * k + a]! - c.points[3 * (n + 1) * from + a]!) ** 2;
    travel = Math.max(travel, Math.sqrt(d));
  }
  return { turn: (2 * acos(Math.min(1, least)) * 180) / Math.PI, travel };
}

/** Looks at a simulated shot and says what is wrong, per part, worst causes first. */
export function diagnose(shot: Shot, frames: Frames, track: SourceTrack): Diagnosis[] {
  const out: Diagnosis[] = [];
  const range = [frames.first, frames.first + frames.count - 1] as const;
  for (const part of partsInOrder(shot)) {
    if (part.muted) {
      const keyed = CHAIN_SETTING_KEYS.filter((k) => part.keys[k]?.length);
      if (keyed.length > 0)
        out.push({
          cause: 'keyed but muted',
          partId: part.id,
          frames: range,
          sentence: `${part.name} has keys but is muted, so they do nothing.`,
          remedy: { says: 'Unmute it', change: { kind: 'unmute' } },
        });
      continue;
    }
    const chain = frames.chains.findIndex((c) => c.partId === part.id);
    if (chain >= 0) out.push(...diagnosePart(shot, part, frames, track, chain));
  }
  return out;
}

function diagnosePart(
  shot: Shot,
  part: ChainPart,
  frames: Frames,
  track: SourceTrack,
  chain: number,
): Diagnosis[] {
  const out: Diagnosis[] = [];
  const c = frames.chains.length;
  const range: [number, number] = [frames.first, frames.first + frames.count - 1];
  const say = (
    cause: Diagnosis['cause'],
    at: readonly [number, number],
    sentence: string,
    says: string,
    change: Remedy['change'],
  ) => out.push({ cause, partId: part.id, frames: at, sentence, remedy: { says, change } });
  const { settings } = part;
  const length = track.chains[chain]!.lengths.reduce((a, b) => a + b, 0);
  const links = track.chains[chain]!.lengths.length;

  const { turn, travel } = rootMotion(track, chain);
  // A setting with keys is the animator's own doing, and its value is of no account.
  const keyed = (key: ChainSettingKey) => (part.keys[key]?.length ?? 0) > 0;
  const forced =
    part.pulls.length > 0 ||
    Object.values(shot.forces).some(
      (f) => !f.muted && (f.parts === 'all' || f.parts.some((id) => id === part.id)),
    );
  if (turn < LEAST_TURN && !forced) {
    if (travel > 0.2 * length) {
      if (settings.travel <= 100 && !keyed('travel'))
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
  const first = frames.first;
  if (frames.count > START && shot.start !== 'settled' && !shot.loop) {
    const move = Math.abs(frames.tipStray[START * c + chain]! - frames.tipStray[chain]!);
    const source = sourceTipWay(track, chain);
    if (move > UNSETTLED * length && source < UNSETTLED * length)
      say(
        'not settled',
        [first, first + START],
        `${part.name} is still falling into place when the range begins.`,
        'Begin settled',
        { kind: 'shot', set: { start: 'settled' } },
      );
  }
  const pull = shot.gravityKeys.length > 0 || keyed('gravity') ? 0 : settings.gravity * norm(shot.gravity);
  const held = (settings.hold > 0 || settings.bend > 0) && !keyed('hold') && !keyed('bend');
  const down = held ? droop(length, pull, settings.hold, settings.bend) : 0;
  let stray = 0;
  for (let f = 0; f < frames.count; f++) stray += frames.tipStray[f * c + chain]! / frames.count;
  if (down > HANGS && stray > HANGING * length) {
    const fits = Number(((settings.gravity * STANDS) / down).toPrecision(2));
    say(
      'gravity outweighs it',
      range,
      `${part.name} is ${lengthText(length)} long: gravity pulls it down ${down.toPrecision(2)} times as hard as hold and bend keep it up.`,
      `Set gravity to ${fits} ×`,
      { kind: 'setting', key: 'gravity', value: fits },
    );
  }
  if (settings.damping >= HIDING && (settings.hold > 0 || settings.bend > 0) && !keyed('damping'))
    say(
      'damping hides the swing',
      range,
      `${part.name} is damped so much (${settings.damping}) that it cannot swing past its pose.`,
      'Damp it to 0.4',
      { kind: 'setting', key: 'damping', value: 0.4 },
    );
  const depths = Array.from({ length: frames.count }, (_, f) => frames.depth[f * c + chain]!);
  // With no frames before it the first frame knows nothing yet; the second does.
  const inside = Math.max(depths[0]!, depths[1] ?? 0);
  const seen = Math.max(SEEN * length, 0.5 * settings.thickness);
  if (inside > seen)
    say(
      'starts inside',
      [first, first],
      `${part.name} begins ${lengthText(inside)} inside what it touches.`,
      frames.startsIn[chain]!.length > 1 ? 'Leave those colliders out' : 'Leave that collider out',
      { kind: 'leave out', colliders: frames.startsIn[chain]! },
    );
  // What began inside has to come out first.
  const out0 = inside > seen ? depths.findIndex((d, f) => f > 1 && d <= seen) : 1;
  const through = out0 < 0 ? null : span(depths, (d, f) => f > out0 && d > seen);
  if (through) {
    const into = new Set<string>();
    for (let f = through[0]; f <= through[1]; f++) {
      const k = frames.deepIn[f * c + chain]!;
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
  const hz = Math.max(settings.hold, settings.bend);
  if (!keyed('delay') && settings.delay > 0 && hz > 0 && settings.delay * (links - 1) > shot.fps / (2 * hz)) {
    const fits = Number((shot.fps / (2 * hz) / Math.max(1, links - 1)).toFixed(2));
    say(
      'delay too long',
      range,
      `The delay of ${part.name} adds up to ${(settings.delay * (links - 1)).toFixed(0)} frames, longer than its own swing.`,
      `Delay by ${fits} frames a link`,
      { kind: 'setting', key: 'delay', value: fits },
    );
  }
  for (const key of ['hold', 'bend'] as const) {
    const highest = shot.fps / FRAMES_A_SWING;
    if (settings[key] > highest && !keyed(key))
      say(
        'frame rate too low',
        range,
        `${part.name} swings ${settings[key]} times a second, more than ${shot.fps} frames a second can show.`,
        `Set ${key} to ${highest} Hz`,
        { kind: 'setting', key, value: highest },
      );
  }
  return out;
}

const norm = ([x, y, z]: readonly [number, number, number]) => Math.sqrt(x * x + y * y + z * z);

/** Way of the source's tip in the frames of the start, m. */
function sourceTipWay(track: SourceTrack, chain: number): number {
  const c = track.chains[chain]!;
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

/** Makes the change of a remedy to a draft of the shot. */
export function applyRemedy(draft: Shot, partId: string, remedy: Remedy): void {
  const part = draft.parts[partId];
  const { change } = remedy;
  if (change.kind === 'shot') Object.assign(draft, change.set);
  if (!part) return;
  if (change.kind === 'setting') part.settings[change.key] = change.value;
  if (change.kind === 'unmute') {
    part.muted = false;
    part.bakedInto = null;
  }
  if (change.kind === 'breeze') {
    const id = ForceId.parse(`breeze-${partId}`.slice(0, 40));
    draft.forces[id] = Force.parse({
      id,
      name: `Light wind on ${part.name}`.slice(0, 200),
      kind: 'wind',
      speed: 2,
      parts: [partId],
    });
    if (part.settings.thickness === 0) part.settings.thickness = change.thickness;
  }
  if (change.kind === 'leave out') {
    const mind = part.touches.colliders === 'all' ? Object.keys(draft.colliders) : part.touches.colliders;
    part.touches.colliders = mind.filter((id) => !change.colliders.includes(id));
  }
}
