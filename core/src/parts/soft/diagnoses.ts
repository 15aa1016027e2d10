import { lengthText } from '../../model/index';
import type { Diagnosis, Remedy } from '../diagnosis';
import type { Simulated } from '../kind';
import type { RegionPart } from './document';
import type { RegionLayout } from './layout';
import { valuesOf } from './values';

type Cause = 'nothing is soft' | 'hold swallows it' | 'stopped by its reach' | 'too few steps';

/** A hold is firm from so many Hz, and swallows what strays by less than this share of the region's size. */
const FIRM = 4;
const LITTLE = 0.003;
/** Nearer to its reach than this share it is stopped by it. */
const AT_END = 0.9;
/** A quiver of a period shorter than so many frames cannot be told from noise. */
const FRAMES = 4;

const two = (x: number): number => Number(x.toPrecision(2));

/** What keeps a region from moving as one would like, worst causes first. */
export function diagnoseRegion({ part, frames, index, shot, track }: Simulated<RegionPart>): Diagnosis[] {
  const out: Diagnosis[] = [];
  const range = [frames.first, frames.first + frames.count - 1] as const;
  const say = (cause: Cause, sentence: string, says: string, change: Remedy['change']) =>
    out.push({ cause, partId: part.id, frames: range, sentence, remedy: { says, change } });
  const value = valuesOf(part);
  const at = (key: Parameters<typeof value>[0]) => value(key, frames.first);
  const { lattice, size } = track.parts[index]!.layout as RegionLayout;
  if (lattice.points === 0) {
    const { where } = part;
    if (where.by === 'ball')
      say(
        'nothing is soft',
        `No vertex lies within the outer reach of ${part.name} (${lengthText(where.outer)}), so nothing moves.`,
        `An outer reach of ${lengthText(two(2 * Math.max(where.outer, 0.001)))}`,
        { kind: 'part', set: { where: { ...where, outer: two(2 * Math.max(where.outer, 0.001)) } } },
      );
    else
      say(
        'nothing is soft',
        where.by === 'joint'
          ? `${where.joint.name} weighs no vertex of ${part.name}, so nothing moves.`
          : `Nothing of ${part.name} is painted, so nothing moves.`,
        'Mute it',
        { kind: 'part', set: { muted: true } },
      );
    return out;
  }
  let far = 0;
  for (let f = 0; f < frames.done; f++)
    far = Math.max(far, frames.tipOffSource[f * frames.parts.length + index]!);
  if (at('hold') >= FIRM && at('amount') > 0 && far < LITTLE * size && far < AT_END * at('reach'))
    say(
      'hold swallows it',
      `A hold of ${at('hold')} Hz keeps ${part.name} on its skin: it strays by ${lengthText(far)} at most.`,
      `A softer hold: ${two(at('hold') / 2)} Hz`,
      { kind: 'setting', key: 'hold', value: two(at('hold') / 2) },
    );
  if (at('reach') > 0 && (100 * far) / at('amount') > AT_END * at('reach'))
    say(
      'stopped by its reach',
      `${part.name} comes to the end of its reach of ${lengthText(at('reach'))}.`,
      `A reach of ${lengthText(two(2 * at('reach')))}`,
      { kind: 'setting', key: 'reach', value: two(Math.min(1000, 2 * at('reach'))) },
    );
  if (at('hold') * FRAMES > shot.fps && far >= LITTLE * size)
    say(
      'too few steps',
      `${part.name} quivers ${at('hold')} times a second, which ${shot.fps} frames a second cannot show.`,
      `A hold of ${two(shot.fps / FRAMES)} Hz`,
      { kind: 'setting', key: 'hold', value: two(shot.fps / FRAMES) },
    );
  return out;
}
