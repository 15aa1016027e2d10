import { pointSpans, sizesOf } from '../../frames/index';
import { norm } from '../../math/index';
import { lengthText, minds } from '../../model/index';
import { lengthOf } from '../../sheets/index';
import type { Remedy } from '../diagnosis';
import type { Simulated } from '../kind';
import type { SheetPart } from './document';
import type { SheetLayout } from './layout';
import { CLOTH_SETTINGS } from './settings';
import { valuesOf } from './values';

/** What is said of a cloth's own settings, and the cure. */
export interface MatterAdvice {
  readonly cause:
    'hold swallows it' | 'too stretchy' | 'too coarse to fold' | 'wind finds nothing' | 'turns slip';
  readonly sentence: string;
  readonly says: string;
  readonly change: Remedy['change'];
}

/** A hold is firm from so many Hz, and swallows what strays by less than this share of the cloth's length. */
const FIRM = 2;
const LITTLE = 0.01;
/** Mean share by which a cloth lengthens that looks like rubber, and the setting from which that was asked for. */
const RUBBERY = 0.05;
const GIVES = 0.02;
/** Bending lengths shorter than this share of an edge cannot be seen as folds. */
const FINE = 0.5;

/** Turns slip that slide along what they lie on by more than this share of how fast the string itself goes; m/s. */
const SLIPS = 0.5;
const SLOW = 0.01;
/** A friction that holds turns, and the most there is. */
const HOLDS = 0.4;
const { max: MOST } = CLOTH_SETTINGS.friction;

const set = (key: string, value: number): Remedy['change'] => ({
  kind: 'setting',
  key,
  value: Number(value.toPrecision(2)),
});

/** What is known of a sheet once its shot is simulated. */
export type SimulatedSheet = Omit<Simulated, 'part'> & { readonly part: Omit<SheetPart, 'release'> };

/** Settings of a cloth that work against it. */
export function adviseMatter({ part, frames, index, shot, track }: SimulatedSheet): MatterAdvice[] {
  const out: MatterAdvice[] = [];
  const { value } = valuesOf(part);
  const at = (key: Parameters<typeof value>[0]) => value(key, frames.first);
  const { sheet, held } = track.parts[index]!.layout as SheetLayout;
  const metres = shot.character.metresPerUnit;
  const most = (column: Float32Array) => {
    let out = 0;
    for (let f = 0; f < frames.done; f++) out = Math.max(out, column[f * frames.parts.length + index]!);
    return out;
  };
  const far = most(frames.tipOffSource);
  if (at('hold') >= FIRM && at('amount') > 0 && far < LITTLE * lengthOf(sheet, held) * metres)
    out.push({
      cause: 'hold swallows it',
      sentence: `A hold of ${at('hold')} Hz keeps ${part.name} on its skin: it strays by ${lengthText(far)} at most.`,
      says: `A softer hold: ${Number((at('hold') / 4).toPrecision(2))} Hz`,
      change: set('hold', at('hold') / 4),
    });
  const stretched = most(frames.stretch);
  const asked = at('stretch') / 100;
  if (asked > GIVES && stretched > RUBBERY)
    out.push({
      cause: 'too stretchy',
      sentence: `${part.name} is too stretchy for its weight: it is ${(100 * stretched).toFixed(0)} % longer on the whole.`,
      says: `A quarter of the stretch: ${Number((25 * asked).toPrecision(2))} %`,
      change: set('stretch', 25 * asked),
    });
  const edges = Float64Array.from(sheet.length).sort();
  const edge = (edges[edges.length >> 1] ?? 0) * metres;
  // Joints of a panel are where they are; a mesh can have more vertices.
  if (frames.parts[index]!.points.length > 0 && at('bend') > 0 && at('bend') < FINE * edge)
    out.push({
      cause: 'too coarse to fold',
      sentence: `${part.name} bends within ${lengthText(at('bend'))}, and its edges are ${lengthText(edge)} long: it has too few vertices to show such folds.`,
      says: `A bending length of ${lengthText(Number(edge.toPrecision(2)))}`,
      change: set('bend', edge),
    });
  const blown = Object.values(shot.forces).find(
    (f) => f.kind === 'wind' && !f.muted && minds(f.parts, part.id),
  );
  if (blown && at('drag') === 0 && at('lift') === 0 && !part.keys.drag?.length && !part.keys.lift?.length)
    out.push({
      cause: 'wind finds nothing',
      sentence: `${blown.name} blows on ${part.name}, which air cannot take hold of: its drag and lift are 0.`,
      says: 'Give it air drag',
      change: set('drag', 1),
    });
  if (sheet.triangles.length === 0) out.push(...slipping({ part, frames, index, shot }, at('friction')));
  return out;
}

/** Turns of a string that slide along what they lie on rather than being taken along by it. */
function slipping(
  { part, frames, index, shot }: Pick<SimulatedSheet, 'part' | 'frames' | 'index' | 'shot'>,
  friction: number,
): MatterAdvice[] {
  const wide = sizesOf(frames).points;
  const { from, to } = pointSpans(frames, index)[0]!;
  let [slid, went, touching] = [0, 0, 0];
  for (let f = 1; f < frames.done; f++) {
    const cell = f * frames.parts.length + index;
    if (frames.contacts[cell] === 0) continue;
    touching++;
    slid += frames.slip[cell]!;
    for (let v = from; v < to; v++) {
      const [a, b] = [3 * (f * wide + v), 3 * ((f - 1) * wide + v)];
      went += norm([0, 1, 2].map((k) => frames.points[a + k]! - frames.points[b + k]!)) / (to - from);
    }
  }
  if (touching === 0) return [];
  const holds = Math.min(MOST, Math.max(HOLDS, 2 * friction));
  const [slides, goes] = [slid / touching, (went / touching) * shot.fps];
  if (slides < SLOW || slides < SLIPS * goes) return [];
  return [
    {
      cause: 'turns slip',
      sentence: `The turns of ${part.name} slip: they slide at ${lengthText(slides)} a second along what they lie on, and it goes at ${lengthText(goes)}.`,
      says: `A friction of ${holds.toPrecision(2)}`,
      change: set('friction', holds),
    },
  ];
}
