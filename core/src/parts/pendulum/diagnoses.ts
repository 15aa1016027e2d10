import type { Diagnosis, Remedy } from '../diagnosis';
import type { Simulated } from '../kind';
import type { Shot } from '../../shot/index';
import { drivenSetting } from '../documents';
import type { Output, PendulumPart } from './document';
import { pairAt, valuesOf } from './answer';
import type { PendulumLayout } from './layout';
import { PENDULUM_PRESETS, signalKeys } from './presets';

type Cause = 'nothing to follow' | 'driven twice' | 'no room left' | 'drives nothing' | 'frame rate too low';

/** The input moves when its values differ by more than this share of what any output could show. */
const MOVES = 1e-6;
/** Share of the way to a limit from which on a peak is held back. */
const FULL = 0.97;
/** A frequency is drawn by at least this many frames a swing. */
const FRAMES_A_SWING = 5;

function unitOf({ target }: Output, parts: Shot['parts']): string {
  if (target.does === 'setting') return ` ${drivenSetting(parts, target)?.info.unit ?? ''}`.trimEnd();
  return target.does === 'turn' ? '°' : target.does === 'place' ? ' m' : '';
}
function nameOf({ target }: Output, parts: Shot['parts']): string {
  if (target.does === 'setting') {
    const driven = drivenSetting(parts, target);
    return driven ? `${driven.part.name}, ${driven.info.label}` : 'a setting that is not there';
  }
  return target.does === 'morph' ? target.morph.name : target.joint.name;
}

/** What keeps a pendulum from moving as one would like, worst causes first. */
export function diagnosePendulum(x: Simulated<PendulumPart>): Diagnosis[] {
  const { part, frames, track, index, shot } = x;
  const out: Diagnosis[] = [];
  const range = [frames.first, frames.first + frames.count - 1] as const;
  const say = (cause: Cause, sentence: string, says: string, change: Remedy['change'], at = range) =>
    out.push({ cause, partId: part.id, frames: at, sentence, remedy: { says, change } });
  const column = (k: number) => {
    const at = frames.parts[index]!.readouts.from + k;
    return Array.from(
      { length: frames.count },
      (_, f) => frames.readouts[f * frames.readoutNames.length + at]!,
    );
  };
  const input = column(0);
  if (Math.max(...input) - Math.min(...input) < MOVES && part.input.from !== 'drawn')
    say(
      'nothing to follow',
      `What ${part.name} follows does not move in this clip.`,
      'Follow a drawn breath instead',
      {
        kind: 'part',
        set: { input: { from: 'drawn', cycles: true, keys: signalKeys(PENDULUM_PRESETS[0]!, shot.fps) } },
      },
    );
  if (part.outputs.length > 0 && part.outputs.every((o) => o.gain === 0))
    say('drives nothing', `Every gain of ${part.name} is 0, so it moves nothing.`, 'Set all gains to 1', {
      kind: 'part',
      set: { outputs: part.outputs.map((o) => ({ ...o, gain: 1 })) },
    });
  for (const o of drivenTwice(part, x))
    say(
      'driven twice',
      `${part.name} ${o.target.does}s ${nameOf(o, shot.parts)}, which hangs from a joint that it ${o.target.does}s too, so it gets both.`,
      `Take out of ${nameOf(o, shot.parts)} what its parent has`,
      {
        kind: 'part',
        set: { outputs: part.outputs.map((p) => (p.id === o.id ? { ...p, order: 'instead' as const } : p)) },
      },
    );
  part.outputs.forEach((o, k) => {
    const values = column(3 + k);
    const [low, high] = [Math.min(...values), Math.max(...values)];
    const past = o.high !== null && o.high > 0 && high > FULL * o.high ? o.high : null;
    const under = o.low !== null && o.low < 0 && low < FULL * o.low ? o.low : null;
    if (past === null && under === null) return;
    const f = values.indexOf(past !== null ? high : low);
    const limit = (past ?? under)!;
    const gain = Number((o.gain * 0.75).toPrecision(3));
    say(
      'no room left',
      `${nameOf(o, shot.parts)} is pressed against its limit of ${limit}${unitOf(o, shot.parts)}.`,
      `Set its gain to ${gain}`,
      { kind: 'part', set: { outputs: part.outputs.map((p) => (p.id === o.id ? { ...p, gain } : p)) } },
      [frames.first + f, frames.first + f],
    );
  });
  const pair = pairAt(part, valuesOf(part), track.first);
  const highest = shot.fps / FRAMES_A_SWING;
  for (const key of ['frequency', 'frequency2'] as const)
    if (pair[key] > highest && !part.keys[key]?.length)
      say(
        'frame rate too low',
        `${part.name} swings ${pair[key]} times a second, more than ${shot.fps} frames a second can show.`,
        `Set it to ${highest} Hz`,
        { kind: 'setting', key, value: highest },
      );
  return out;
}

/** Outputs that turn or scale a joint below another that this part turns or scales, without taking that out. */
function drivenTwice(part: PendulumPart, { track, index }: Simulated<PendulumPart>): Output[] {
  const { parents } = track.parts[index]!.layout as PendulumLayout;
  return part.outputs.filter(({ target, order, gain }) => {
    if ((target.does !== 'turn' && target.does !== 'scale') || order === 'instead' || gain === 0)
      return false;
    for (let n = parents.get(target.joint.node) ?? -1; n >= 0; n = parents.get(n) ?? -1)
      if (
        part.outputs.some(
          (o) => o.target.does === target.does && 'joint' in o.target && o.target.joint.node === n,
        )
      )
        return true;
    return false;
  });
}
