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
/** Fewer than this are one cell, which cannot bend at all. */
const ALONE = 1.5;
/** Steps in one turn of its first wobble at least. */
const STEPS = 8;
/** Steps a second that are taken at least. */
const LEAST_RATE = 120;

const two = (x: number): number => Number(x.toPrecision(2));

/** What is read of a body that was simulated. */
class Findings {
  readonly out: Diagnosis[] = [];
  readonly layout: BodyLayout;
  readonly depth: number[];
  /** Substeps that would be finer; what there are where there can be no more. */
  readonly finer: number;

  constructor(readonly x: Simulated<BodyPart>) {
    this.layout = x.track.parts[x.index]!.layout as BodyLayout;
    this.depth = this.of(x.frames.depth);
    this.finer = Math.min(MOST_SUBSTEPS, 2 * x.shot.substeps);
  }

  say(cause: Cause, sentence: string, says: string, change: Remedy['change'], frames = this.range): void {
    this.out.push({ cause, partId: this.x.part.id, frames, sentence, remedy: { says, change } });
  }

  get range(): readonly [number, number] {
    const { first, count } = this.x.frames;
    return [first, first + count - 1];
  }

  at(key: Parameters<ReturnType<typeof valuesOf>>[0]): number {
    return valuesOf(this.x.part)(key, this.x.frames.first);
  }

  of(column: ArrayLike<number>): number[] {
    const { frames, index } = this.x;
    return Array.from({ length: frames.done }, (_, f) => column[f * frames.parts.length + index]!);
  }

  /** One of its own readouts, frame by frame. */
  read(k: number): number[] {
    const { frames, index } = this.x;
    const { from } = frames.parts[index]!.readouts;
    return Array.from(
      { length: frames.done },
      (_, f) => frames.readouts[f * frames.readoutNames.length + from + k]!,
    );
  }

  /** First and last frame on which something is so. */
  span(column: readonly number[], is: (x: number) => boolean): readonly [number, number] {
    const { first } = this.x.frames;
    const found = column.flatMap((v, f) => (is(v) ? [f] : []));
    return [first + (found[0] ?? 0), first + (found.at(-1) ?? 0)];
  }
}

/** What keeps a soft body from moving as one would like, worst causes first. */
export function diagnoseBody(x: Simulated<BodyPart>): Diagnosis[] {
  const f = new Findings(x);
  adviseStart(f);
  adviseVolume(f);
  adviseContact(f);
  adviseMatter(f);
  return f.out;
}

/** It begins inside of something, or nothing keeps it in the picture. */
function adviseStart(f: Findings): void {
  const { part, frames, index, shot } = f.x;
  const { depth, layout } = f;
  const inside = frames.startsIn[index]!;
  if (inside.length > 0) {
    const deep = depth[0]!;
    const lift = Number((part.lift + 1.05 * deep + f.at('thickness')).toPrecision(3));
    const named = inside.map((id) => shot.colliders[id]?.name ?? id).join(', ');
    f.say(
      'starts inside',
      `${part.name} begins inside ${named}, ${lengthText(deep)} deep: it is pushed out over the first frames.`,
      `Begin ${lengthText(lift)} higher, its animation unchanged`,
      { kind: 'part', set: { lift } },
      [frames.first, frames.first],
    );
    // What is let out at the start is not what goes through later.
    const until = depth.findIndex((d) => d <= DEEP * layout.size);
    depth.fill(0, 0, until < 0 ? depth.length : until);
  }
  const falls = shot.gravity.some((g) => g !== 0) && f.at('gravity') !== 0;
  if (f.at('hold') === 0 && falls && f.of(frames.contacts).every((n) => n === 0))
    f.say(
      'nothing holds it',
      `Nothing holds ${part.name} and nothing is under it, so it falls out of the picture.`,
      'Hold it softly to its animation',
      { kind: 'setting', key: 'hold', value: 2 },
    );
}

/** Cells that are turned inside out, and volume that is lost. */
function adviseVolume(f: Findings): void {
  const { part } = f.x;
  const [volume, least] = [f.read(0), f.read(1)];
  const cells = Math.min(CELLS.most, Math.ceil(1.5 * part.cells));
  if (least.some((v) => v <= 0) && cells > part.cells)
    f.say(
      'turned inside out',
      `Cells of ${part.name} are turned inside out.`,
      `Finer cells: ${cells} along it`,
      { kind: 'part', set: { cells } },
      f.span(least, (v) => v <= 0),
    );
  const lost = 1 - Math.min(1, ...volume);
  if (lost > LOST && f.at('volume') < 100)
    f.say(
      'loses volume',
      `${part.name} loses ${(100 * lost).toFixed(0)} % of its volume.`,
      'Keep all of its volume',
      { kind: 'setting', key: 'volume', value: 100 },
      f.span(volume, (v) => 1 - v > LOST),
    );
}

/** It is pressed into what it touches, or does not stray from its animation. */
function adviseContact(f: Findings): void {
  const { part, shot, frames } = f.x;
  const { depth, layout, finer } = f;
  const deep = DEEP * layout.size;
  const hold = f.at('hold');
  if (Math.max(0, ...depth) > deep && finer > shot.substeps && hold < FULL_HOLD)
    f.say(
      'goes through',
      `${part.name} is pressed ${lengthText(Math.max(...depth))} into what it touches; what is shown is pushed out.`,
      `Finer steps: ${finer} a frame`,
      { kind: 'shot', set: { substeps: finer } },
      f.span(depth, (d) => d > deep),
    );
  const stray = Math.max(0, ...f.of(frames.tipOffSource));
  if (hold >= FIRM && hold < FULL_HOLD && f.at('amount') > 0 && stray < LITTLE * layout.size)
    f.say(
      'hold swallows it',
      `A hold of ${hold} Hz keeps ${part.name} on its animation: it strays by ${lengthText(stray)} at most.`,
      `A softer hold: ${two(hold / 2)} Hz`,
      { kind: 'setting', key: 'hold', value: two(hold / 2) },
    );
}

/** Too few cells for it to bend, or steps that are too long for how firm it is. */
function adviseMatter(f: Findings): void {
  const { part, shot, frames } = f.x;
  const { lattice, height, sides, size } = f.layout;
  const thin = Math.min(...sides);
  const needed = Math.ceil((ACROSS * size) / thin - 0.05);
  const across = thin / lattice.size;
  if ((size > LONG * thin ? across < ACROSS : across < ALONE) && needed <= CELLS.most)
    f.say(
      'too few cells',
      `${part.name} is ${across.toFixed(1)} cells thick: it bends too stiffly.`,
      `Finer cells: ${needed} along it`,
      { kind: 'part', set: { cells: needed } },
    );
  const { first } = matterOf(valuesOf(part), frames.first, height);
  if (first * STEPS > shot.fps * Math.max(shot.substeps, LEAST_RATE / shot.fps) && f.finer > shot.substeps)
    f.say(
      'too few steps',
      `${part.name} is so firm that it wobbles ${two(first)} times a second: its steps are too long to show that.`,
      `Finer steps: ${f.finer} a frame`,
      { kind: 'shot', set: { substeps: f.finer } },
    );
}
