import { lengthText } from '../../model/index';
import type { Diagnosis, Remedy } from '../diagnosis';
import type { Simulated } from '../kind';
import { CELLS, type BodyPart } from './document';
import type { BodyLayout } from './layout';
import { FULL_HOLD } from './settings';
import { matterOf, valuesOf } from './values';

type Cause =
  | 'starts inside'
  | 'nothing holds it'
  | 'turned inside out'
  | 'loses volume'
  | 'goes through'
  | 'hold swallows it'
  | 'too few cells'
  | 'too few steps';

/** Deeper than this it shows inside what it touches, as a share of its size. */
const DEEP = 0.01;
/** Volume that may be lost on the whole. */
const LOST = 0.02;
const MOST_SUBSTEPS = 16;
/** A hold is firm from so many Hz, and swallows what strays by less than this share of its size. */
const FIRM = 5;
const LITTLE = 0.003;
/** Cells across its thinnest side that bending needs, where it is this many times as long. */
const ACROSS = 2;
const LONG = 3;
/** Steps in one turn of its first wobble at least. */
const STEPS = 8;

const two = (x: number): number => Number(x.toPrecision(2));

/** What keeps a soft body from moving as one would like, worst causes first. */
export function diagnoseBody({ part, frames, index, shot, track }: Simulated<BodyPart>): Diagnosis[] {
  const out: Diagnosis[] = [];
  const range = [frames.first, frames.first + frames.count - 1] as const;
  const say = (cause: Cause, sentence: string, says: string, change: Remedy['change'], at = range) =>
    out.push({ cause, partId: part.id, frames: at, sentence, remedy: { says, change } });
  const value = valuesOf(part);
  const at = (key: Parameters<typeof value>[0]) => value(key, frames.first);
  const { size, height, lattice, sides } = track.parts[index]!.layout as BodyLayout;
  const read = (k: number) =>
    Array.from(
      { length: frames.done },
      (_, f) => frames.readouts[f * frames.readoutNames.length + frames.parts[index]!.readouts.from + k]!,
    );
  const of = (column: ArrayLike<number>) =>
    Array.from({ length: frames.done }, (_, f) => column[f * frames.parts.length + index]!);
  const span = (column: readonly number[], is: (x: number) => boolean) => {
    const found = column.flatMap((x, f) => (is(x) ? [f] : []));
    return [frames.first + (found[0] ?? 0), frames.first + (found.at(-1) ?? 0)] as const;
  };
  const finer = Math.min(MOST_SUBSTEPS, 2 * shot.substeps);
  const depth = of(frames.depth);
  const inside = frames.startsIn[index]!;
  if (inside.length > 0) {
    const deep = depth[0]!;
    const lift = Number((part.lift + 1.05 * deep + at('thickness')).toPrecision(3));
    const named = inside.map((id) => shot.colliders[id]?.name ?? id).join(', ');
    say(
      'starts inside',
      `${part.name} begins inside ${named}, ${lengthText(deep)} deep: it is pushed out over the first frames.`,
      `Begin ${lengthText(lift)} higher, its animation unchanged`,
      { kind: 'part', set: { lift } },
      [frames.first, frames.first],
    );
    // What is let out at the start is not what goes through later.
    const until = depth.findIndex((d) => d <= DEEP * size);
    depth.fill(0, 0, until < 0 ? depth.length : until);
  }
  const falls = shot.gravity.some((g) => g !== 0) && at('gravity') !== 0;
  const stray = Math.max(0, ...of(frames.tipOffSource));
  if (at('hold') === 0 && falls && depth.every((d) => d === 0) && of(frames.contacts).every((n) => n === 0))
    say(
      'nothing holds it',
      `Nothing holds ${part.name} and nothing is under it, so it falls out of the picture.`,
      'Hold it softly to its animation',
      { kind: 'setting', key: 'hold', value: 2 },
    );
  const [volume, least] = [read(0), read(1)];
  const cells = Math.min(CELLS.most, Math.ceil(1.5 * part.cells));
  if (least.some((x) => x <= 0) && cells > part.cells)
    say(
      'turned inside out',
      `Cells of ${part.name} are turned inside out.`,
      `Finer cells: ${cells} along it`,
      { kind: 'part', set: { cells } },
      span(least, (x) => x <= 0),
    );
  const lost = 1 - Math.min(1, ...volume);
  if (lost > LOST && at('volume') < 100)
    say(
      'loses volume',
      `${part.name} loses ${(100 * lost).toFixed(0)} % of its volume.`,
      'Keep all of its volume',
      { kind: 'setting', key: 'volume', value: 100 },
      span(volume, (x) => 1 - x > LOST),
    );
  if (Math.max(0, ...depth) > DEEP * size && finer > shot.substeps)
    say(
      'goes through',
      `${part.name} is pressed ${lengthText(Math.max(...depth))} into what it touches; what is shown is pushed out.`,
      `Finer steps: ${finer} a frame`,
      { kind: 'shot', set: { substeps: finer } },
      span(depth, (x) => x > DEEP * size),
    );
  if (at('hold') >= FIRM && at('hold') < FULL_HOLD && at('amount') > 0 && stray < LITTLE * size)
    say(
      'hold swallows it',
      `A hold of ${at('hold')} Hz keeps ${part.name} on its animation: it strays by ${lengthText(stray)} at most.`,
      `A softer hold: ${two(at('hold') / 2)} Hz`,
      { kind: 'setting', key: 'hold', value: two(at('hold') / 2) },
    );
  const thin = Math.min(...sides);
  const needed = Math.ceil((ACROSS * size) / thin);
  if (size > LONG * thin && thin / lattice.size < ACROSS && needed <= CELLS.most)
    say(
      'too few cells',
      `${part.name} is ${(thin / lattice.size).toFixed(1)} cells thick: it bends too stiffly.`,
      `Finer cells: ${needed} along it`,
      { kind: 'part', set: { cells: needed } },
    );
  const { first } = matterOf(value, frames.first, height);
  if (first * STEPS > shot.fps * Math.max(shot.substeps, 120 / shot.fps) && finer > shot.substeps)
    say(
      'too few steps',
      `${part.name} is so firm that it wobbles ${two(first)} times a second: its steps are too long to show that.`,
      `Finer steps: ${finer} a frame`,
      { kind: 'shot', set: { substeps: finer } },
    );
  return out;
}
