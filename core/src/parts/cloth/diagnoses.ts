import { pointSpans, sizesOf } from '../../frames/index';
import { lengthText } from '../../model/index';
import type { Diagnosis, Remedy } from '../diagnosis';
import type { Simulated } from '../kind';
import type { ClothPart } from './document';
import type { SheetLayout } from './layout';
import { leashed, type Leashed } from './leash';
import { adviseMatter, type MatterAdvice, type SimulatedSheet } from './matterAdvice';
import { valuesOf } from './values';

type Cause =
  | 'starts inside'
  | 'stopped by its leash'
  | 'nothing holds it'
  | 'goes through'
  | 'too long'
  | MatterAdvice['cause'];

/** Deeper than this a point shows inside what it touches, m. */
const DEEP = 0.002;
/** Mean share by which edges may be longer than at rest before it is said, beside what was asked for. */
const LONG = 0.02;
const MOST_SUBSTEPS = 16;
/** A leash that stops too much is lengthened by so much. */
const LONGER = 2;

/**
 * Whether it is lower at the end of the shot by a quarter of its size: what lies on something is not. Joints are not
 * looked at.
 */
function sinks({ frames, index, shot }: SimulatedSheet): boolean {
  const spans = pointSpans(frames, index);
  if (frames.done === 0 || spans.length === 0) return true;
  const down = shot.gravity;
  const heights = (row: number): Float64Array => {
    const at = sizesOf(frames).points * row;
    return Float64Array.from(
      spans.flatMap(({ from, to }) =>
        Array.from({ length: to - from }, (_, k) =>
          down.reduce((sum, g, a) => sum - g * frames.points[3 * (at + from + k) + a]!, 0),
        ),
      ),
    );
  };
  const mean = (list: Float64Array) => list.reduce((sum, h) => sum + h, 0) / list.length;
  const [begins, ends] = [heights(0), heights(frames.done - 1)];
  return mean(begins) - mean(ends) > (Math.max(...begins) - Math.min(...begins)) / 4;
}

/** What keeps a cloth from moving as one would like, worst causes first. */
export const diagnoseCloth = (simulated: Simulated<ClothPart>): Diagnosis[] =>
  diagnoseSheet(simulated, leashed(simulated));

/** The same of any sheet; `stopped` is what its leash stops, where that is known. */
export function diagnoseSheet(simulated: SimulatedSheet, stopped: Leashed | null = null): Diagnosis[] {
  const { part, frames, index, shot, track } = simulated;
  const out: Diagnosis[] = [];
  const range = [frames.first, frames.first + frames.count - 1] as const;
  const say = (cause: Cause, sentence: string, says: string, change: Remedy['change'], at = range) =>
    out.push({ cause, partId: part.id, frames: at, sentence, remedy: { says, change } });
  const { value } = valuesOf(part);
  const { held, ties } = track.parts[index]!.layout as SheetLayout;
  const falls = shot.gravity.some((g) => g !== 0) && value('gravity', frames.first) !== 0;
  const loose = !held.includes(1) && ties.every((t) => t.points.length === 0);
  if (
    loose &&
    value('hold', frames.first) === 0 &&
    value('leash', frames.first) > 10 &&
    falls &&
    sinks(simulated)
  )
    say(
      'nothing holds it',
      `Nothing holds ${part.name}, so it falls off the figure.`,
      'Hold it softly to the animation',
      { kind: 'setting', key: 'hold', value: 1 },
    );
  const of = (column: Float32Array) =>
    Float32Array.from({ length: frames.done }, (_, f) => column[f * frames.parts.length + index]!);
  const depth = of(frames.depth);
  const inside = frames.startsIn[index]!;
  if (inside.length > 0 && shot.start !== 'settled') {
    // What is let out at the start is not what goes through later.
    const out = depth.findIndex((d) => d <= DEEP);
    const until = out < 0 ? depth.length : out;
    const most = depth.subarray(0, until).reduce((m, d) => Math.max(m, d), 0);
    depth.fill(0, 0, until);
    const named = inside.map((id) => shot.colliders[id]?.name ?? id).join(', ');
    say(
      'starts inside',
      `${part.name} begins inside ${named}, ${lengthText(most)} deep: it is let out over the first frames.`,
      'Let it settle before the first frame',
      { kind: 'shot', set: { start: 'settled' } },
      [frames.first, frames.first + Math.max(0, until - 1)],
    );
  }
  const deepest = depth.reduce((m, d) => Math.max(m, d), 0);
  const finer = Math.min(MOST_SUBSTEPS, 2 * shot.substeps);
  if (deepest > DEEP && finer > shot.substeps)
    say(
      'goes through',
      `${part.name} goes ${lengthText(deepest)} into what it touches.`,
      `Finer steps: ${finer} a frame`,
      { kind: 'shot', set: { substeps: finer } },
      spanOf(depth, frames.first, DEEP),
    );
  if (stopped)
    say(
      'stopped by its leash',
      `The leash of ${part.name} stops ${stopped.where} (${(100 * stopped.share).toFixed(0)} % of it on frame ${stopped.frame}).`,
      `Lengthen it to ${lengthText(LONGER * value('leash', frames.first))}`,
      {
        kind: 'setting',
        key: 'leash',
        value: Number(Math.min(1000, LONGER * value('leash', frames.first)).toPrecision(3)),
      },
      stopped.frames,
    );
  const stretch = of(frames.stretch);
  const asked = value('stretch', frames.first) / 100;
  const longest = stretch.reduce((m, d) => Math.max(m, d), 0);
  // What is filled is meant to be taut.
  if (longest > LONG + asked && finer > shot.substeps && value('filling', frames.first) === 0)
    say(
      'too long',
      `${part.name} is ${(100 * longest).toFixed(1)} % longer than at rest on the whole.`,
      `Finer steps: ${finer} a frame`,
      { kind: 'shot', set: { substeps: finer } },
      spanOf(stretch, frames.first, LONG + asked),
    );
  for (const { cause, sentence, says, change } of adviseMatter(simulated)) say(cause, sentence, says, change);
  return out;
}

/** First and last frame on which a column is above a limit. */
function spanOf(column: Float32Array, first: number, limit: number): readonly [number, number] {
  const above = Array.from(column.keys()).filter((f) => column[f]! > limit);
  return [first + above[0]!, first + above.at(-1)!];
}
