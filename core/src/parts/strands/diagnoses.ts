import { lengthText, withoutMinded } from '../../model/index';
import type { Diagnosis, Remedy } from '../diagnosis';
import type { Simulated } from '../kind';
import type { StrandsPart } from './document';
import type { StrandsLayout } from './layout';
import { valuesOf } from './values';

type Cause =
  | 'no guides'
  | 'pierces a cloth'
  | 'starts inside'
  | 'roots inside'
  | 'nothing holds it'
  | 'hold swallows it'
  | 'flings'
  | 'hair too thin';

/** A hold is firm from so many Hz, and swallows what strays by less than this share of the length. */
const FIRM = 3;
const LITTLE = 0.02;
/** Strands fling that stray by more than so many times their length. */
const FLUNG = 1.5;

/** So many strands are lost to the eye when they are thinner than this share of their length; and what is seen. */
const MANY = 300;
const THIN = 2e-4;
const THICK = 0.01;

/** Which of its readouts say how many are rooted inside, and how many go through a cloth. */
const ROOTED = 2;
/** It is said where more than this share of the guides is: those at a rim may be. */
const SOME = 0.2;
const PIERCES = 3;

const two = (x: number): number => Number(x.toPrecision(2));

/** What keeps strands from moving as one would like, worst causes first. */
export function diagnoseStrands({ part, frames, index, shot, track }: Simulated<StrandsPart>): Diagnosis[] {
  const out: Diagnosis[] = [];
  const range = [frames.first, frames.first + frames.count - 1] as const;
  const say = (cause: Cause, sentence: string, says: string, change: Remedy['change']) =>
    out.push({ cause, partId: part.id, frames: range, sentence, remedy: { says, change } });
  const { shapes, length } = track.parts[index]!.layout as StrandsLayout;
  const value = valuesOf(part);
  const at = (key: Parameters<typeof value>[0]) => value(key, frames.first);
  if (shapes.length === 0) {
    say('no guides', `${part.name} has no guides, so nothing moves.`, 'Mute it', {
      kind: 'part',
      set: { muted: true },
    });
    return out;
  }
  const inside = frames.startsIn[index] ?? [];
  if (inside.length > 0) {
    const name = shot.colliders[inside[0]!]?.name ?? 'a collider';
    const colliders = withoutMinded(part.collidesWith.colliders, inside[0]!);
    say(
      'starts inside',
      `The groom of ${part.name} stands inside ${name} on frame ${frames.first}, and comes out of it slowly.`,
      `Pass through ${name}`,
      { kind: 'part', set: { collidesWith: { ...part.collidesWith, colliders } } },
    );
  }
  let far = 0;
  for (let f = 0; f < frames.done; f++)
    far = Math.max(far, frames.tipOffSource[f * frames.parts.length + index]!);
  if (at('hold') === 0 && at('bend') === 0)
    say(
      'nothing holds it',
      `${part.name} has neither hold nor bend: nothing brings it back to its groom.`,
      'A hold of 1 Hz',
      { kind: 'setting', key: 'hold', value: 1 },
    );
  else if (at('hold') >= FIRM && at('amount') > 0 && far < LITTLE * length)
    say(
      'hold swallows it',
      `A hold of ${at('hold')} Hz keeps ${part.name} in its groom: it strays by ${lengthText(far)} at most.`,
      `A softer hold: ${two(at('hold') / 2)} Hz`,
      { kind: 'setting', key: 'hold', value: two(at('hold') / 2) },
    );
  if (far > FLUNG * length && at('drag') < 8)
    say(
      'flings',
      `${part.name} is flung about: it strays by ${lengthText(far)}, and is ${lengthText(length)} long.`,
      `More air drag: ${two(2 * Math.max(0.5, at('drag')))}`,
      { kind: 'setting', key: 'drag', value: two(2 * Math.max(0.5, at('drag'))) },
    );
  const rooted = frames.readouts[frames.parts[index]!.readouts.from + ROOTED] ?? 0;
  if (rooted > SOME * shapes.length)
    say(
      'roots inside',
      `${rooted} of ${shapes.length} guides of ${part.name} are rooted so deep in a collider that half of each stays there.`,
      'Pass through all colliders',
      { kind: 'part', set: { collidesWith: { ...part.collidesWith, colliders: [] } } },
    );
  const pierces = frames.readouts[frames.parts[index]!.readouts.from + PIERCES] ?? 0;
  if (pierces > 0)
    say(
      'pierces a cloth',
      `${pierces} of ${shapes.length} guides of ${part.name} go through a cloth on frame ${frames.first}: they do not touch it.`,
      'Pass through all cloth',
      { kind: 'part', set: { collidesWith: { ...part.collidesWith, parts: [] } } },
    );
  const { strands, width } = part.look;
  if (strands > MANY && width < THIN * length)
    say(
      'hair too thin',
      `${part.name} has ${strands} strands of ${lengthText(width)}: at a usual distance they are not seen.`,
      `A width of ${lengthText(THICK * length)}`,
      { kind: 'part', set: { look: { ...part.look, width: Number((THICK * length).toPrecision(2)) } } },
    );
  return out;
}
