import { bakeRefined, fitCosts, type BakeOptions, type FitCost, type VertexFit } from '../bake/index';
import type { Character } from '../character/index';
import type { Shot } from '../shot/index';
import { POINT_FORMATS, type PointFormat } from './files';
import { writePoints } from './points';

/** What a bake's vertices cost in several ways. */
export interface Weighed {
  /** Of each way, in the order they were asked for. */
  readonly fits: readonly FitCost[];
  /** Bytes of files of points. */
  readonly points: Readonly<Record<PointFormat, number>>;
}

/**
 * Bakes a shot and fits the vertices it moves one by one in several ways, so that errors and sizes can be compared. A
 * generator: yields the share done.
 */
export function* weighFits(
  character: Character,
  shot: Shot,
  o: BakeOptions,
  choices: readonly VertexFit[],
): Generator<number, Weighed> {
  const { clip } = yield* shareOf(bakeRefined(character, shot, o), 0);
  const fits = yield* shareOf(fitCosts(character, shot, clip, choices), 0.5);
  const { metresPerUnit, upAxis } = shot.character;
  const file = { fps: shot.fps, metresPerUnit, upAxis, unit: 1, up: 'Y' } as const;
  const bytes = POINT_FORMATS.map((f) => [f, writePoints(character, clip, f, file)?.text.length ?? 0]);
  return { fits, points: Object.fromEntries(bytes) as Record<PointFormat, number> };
}

/** A generator as half of the work. */
function* shareOf<T>(run: Generator<number, T>, from: number): Generator<number, T> {
  for (;;) {
    const step = run.next();
    if (step.done) return step.value;
    yield from + step.value / 2;
  }
}
