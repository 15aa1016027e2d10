import type { Character } from '../../character/index';
import { meshTriangles, restWorld } from '../../character/index';
import type { Lines } from '../../formats/lines/index';
import { lengthText } from '../../model/index';
import { makeSurface } from '../../solver/index';
import { resample } from './brush';
import { cleanGuide, lengthOfGuide, MOST_GUIDES, MOST_POINTS } from './groom';
import { restPlaces } from './layout';

/** Guides that were taken from lines, and what was done to them, in sentences. */
export interface Taken {
  readonly guides: readonly Float64Array[];
  readonly notes: readonly string[];
}

/** Points that a guide of too many gets, and those of all guides together. */
const FEWER = 32;
const MOST_IN_ALL = 60_000;
/** Roots farther off the skin than this share of a guide are told of. */
const OFF = 0.05;
/** Lines shorter or longer than this are no hair, m. */
const SHORTEST = 1e-4;
const LONGEST = 1000;

/**
 * Makes guides of lines (places, m, in the axes of the character's file) on a mesh node: those of a length, not more
 * than can move, each from the end that is nearer to the skin.
 */
export function takeGuides(
  character: Character,
  node: number,
  metresPerUnit: number,
  lines: readonly Float64Array[],
): Taken {
  const notes: string[] = [];
  const whole = lines.flatMap((l) => cleanGuide(l) ?? []);
  const sized = whole.filter((g) => {
    const long = lengthOfGuide(g);
    return long >= SHORTEST && long <= LONGEST;
  });
  if (sized.length < lines.length)
    notes.push(`${lines.length - sized.length} of ${lines.length} lines have no length that hair can have.`);
  const step = Math.max(1, sized.length / MOST_GUIDES);
  const some = Array.from(
    { length: Math.min(sized.length, MOST_GUIDES) },
    (_, k) => sized[Math.floor(k * step)]!,
  );
  if (some.length < sized.length)
    notes.push(`${some.length} of ${sized.length} lines were taken, evenly: more cannot move.`);
  const most = Math.max(2, Math.min(MOST_POINTS, Math.floor(MOST_IN_ALL / Math.max(1, some.length))));
  const places = restPlaces(character, node, metresPerUnit);
  const surface = makeSurface(places, meshTriangles(character, node).indices);
  const found = new Float64Array(4);
  const farOff = (g: Float64Array, o: number) => {
    surface.nearest(found, g[o]!, g[o + 1]!, g[o + 2]!);
    return Math.abs(found[0]!);
  };
  let [thinned, off, farthest] = [0, 0, 0];
  const guides = some.map((line) => {
    let guide = line;
    if (guide.length / 3 > most) {
      thinned++;
      guide = new Float64Array(3 * Math.min(most, FEWER));
      resample(guide, 0, line, guide.length / 3, lengthOfGuide(line));
    }
    if (farOff(guide, guide.length - 3) < farOff(guide, 0)) guide = turnedRound(guide);
    const away = farOff(guide, 0);
    if (away > OFF * lengthOfGuide(guide)) off++;
    farthest = Math.max(farthest, away);
    return guide;
  });
  if (thinned > 0) notes.push(`${thinned} had more points than a guide can have, and have fewer now.`);
  if (off > 0)
    notes.push(
      `${off} begin off the skin, the farthest by ${lengthText(farthest)}: they ride at that distance.`,
    );
  return { guides, notes };
}

const turnedRound = (guide: Float64Array): Float64Array => {
  const n = guide.length / 3;
  return Float64Array.from(guide, (_, o) => guide[3 * (n - 1 - Math.floor(o / 3)) + (o % 3)]!);
};

/** A line through the places of some nodes at rest, m, with its last link once more: hair ends in a tip. */
export function lineOfJoints(
  character: Character,
  joints: readonly number[],
  metresPerUnit: number,
): Float64Array {
  const world = restWorld(character);
  const places = joints.flatMap((j) => [0, 1, 2].map((a) => metresPerUnit * world[16 * j + 12 + a]!));
  const [last, before] = [places.length - 3, places.length - 6];
  if (before >= 0) for (let a = 0; a < 3; a++) places.push(2 * places[last + a]! - places[before + a]!);
  return Float64Array.from(places);
}

/** Lines of a file in m and the axes of a character's file: those that say no unit have the character's. */
export function linesFor(
  { lines, metresPerUnit }: Lines,
  to: { readonly metresPerUnit: number; readonly upAxis: 'Y' | 'Z' },
): Float64Array[] {
  const by = metresPerUnit ?? to.metresPerUnit;
  // What says its unit stands +Y up.
  const turns = metresPerUnit !== null && to.upAxis === 'Z';
  return lines.map((l) =>
    l.map((x, o) => by * (!turns || o % 3 === 0 ? x : o % 3 === 1 ? -l[o + 1]! : l[o - 1]!)),
  );
}
