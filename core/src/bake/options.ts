import { OscillumError } from '../model/index';
import { actionRange, movesPoints, type Part, type Shot } from '../shot/index';
import { isRefined } from '../refine/index';
import { stepsAFrame } from '../simulate/index';
import { documentOf } from '../parts/documents';

export interface BakeOptions {
  /** Frames to write, inclusive; within the shot's range. */
  readonly first: number;
  readonly last: number;
  /** Every n-th frame, or a half, a third … of one; the last frame is always written. */
  readonly step: number;
  /** Parts to bake; all that are not muted when null. */
  readonly parts: readonly string[] | null;
  /** Nodes of their joints to write; all when null. */
  readonly joints: readonly number[] | null;
  /** Write the frames simulated before the range too. */
  readonly lead: boolean;
  /**
   * A clip beside the shot's; in its place; or one that adds to it: turns to follow the source's own, way to be added,
   * for the parts alone.
   */
  readonly into: 'new' | 'replace' | 'offset';
  /** Name of the clip; when it takes the place of another it keeps that one's. */
  readonly name: string;
  /** Fewer keys within a tolerance, or null for all. */
  readonly thin: Thinning | null;
  /** What vertices that move one by one become. */
  readonly vertices: VertexFit;
}

/** Morph targets: the fewest that leave no more than an error (mm), at most so many; or helper joints. */
export type VertexFit =
  | {
      readonly to: 'morphs';
      readonly most: number;
      readonly millimetres: number;
      /** The error is that of the vertex that is farthest off, not the RMS. */
      readonly largest?: boolean | undefined;
      /** Vertices that a target leaves where they are take no room in the file. */
      readonly sparse?: boolean | undefined;
    }
  | { readonly to: 'joints'; readonly count: number; readonly under: number | null };

/** Morph targets enough for what is looked at closely. */
export const DEFAULT_FIT = { to: 'morphs', most: 64, millimetres: 1 } as const satisfies VertexFit;
/** Helper joints that games mostly have room for. */
export const DEFAULT_JOINTS = { to: 'joints', count: 24, under: null } as const satisfies VertexFit;
/** Morph targets and helper joints of one mesh at most. */
export const MOST_SHAPES = 256;

export type Thinning = NonNullable<Shot['keys']['thin']>;

/**
 * The range without frames that were added to see it settle, all parts, with the shot's own choice of
 * keys, into a new clip named after the old.
 */
export function defaultBake(shot: Shot): BakeOptions {
  return {
    ...actionRange(shot),
    step: shot.keys.step,
    parts: null,
    joints: null,
    lead: false,
    into: 'new',
    name: `${shot.clip?.name ?? 'Rest'} with follow-through`,
    thin: shot.keys.thin,
    vertices: DEFAULT_FIT,
  };
}

/** What most people want of thinning. */
export const DEFAULT_THINNING: Thinning = { kind: 'cubic', degrees: 0.5, millimetres: 5 };

/** Throws OscillumError('bake.invalid') saying which choice cannot be baked. */
export function checkBake(shot: Shot, o: BakeOptions): void {
  const refuse = (message: string, place: string, remedy: string) =>
    new OscillumError('bake.invalid', message, place, remedy);
  const { first, last } = shot.range;
  if (!Number.isInteger(o.first) || !Number.isInteger(o.last) || o.first > o.last)
    throw refuse(
      `Frames ${o.first} to ${o.last} are not a range`,
      'frames',
      'Give a first frame and a last frame at or after it.',
    );
  if (o.first < first || o.last > last)
    throw refuse(
      `Frames ${o.first} to ${o.last} reach outside the shot (${first} to ${last})`,
      'frames',
      'Choose frames inside the range, or change the range in Tune.',
    );
  const between = momentsOf(o.step);
  if (between === null)
    throw refuse(
      `Every ${o.step} frames is not a step`,
      'step',
      'Give a whole number, or a half, a third or a quarter of a frame.',
    );
  const free = Object.values(shot.colliders).some((c) => c.free && !c.muted);
  const substeps = stepsAFrame(shot.fps, shot.substeps, free);
  if (substeps % between !== 0)
    throw refuse(
      `This shot is stepped ${substeps} times a frame, which ${between} does not divide`,
      'step',
      `Choose another step, or a number of substeps that ${between} divides, in Tune.`,
    );
  if (o.into !== 'replace' && !o.name.trim())
    throw refuse('The new clip has no name', 'name', 'Give it one.');
  if (o.into === 'replace' && !shot.clip)
    throw refuse('There is no clip to replace', 'clip', 'Bake into a new clip.');
  if (o.into === 'offset' && !shot.clip)
    throw refuse('There is no clip that an offset could be added to', 'clip', 'Bake into a new clip.');
  if (o.into === 'offset' && isRefined(shot))
    throw refuse(
      'Refinements are laid on whole curves, not on what is added to others',
      'refine',
      'Bake into a new clip, or mute the refinements in Refine.',
    );
  if (o.thin && !(o.thin.degrees > 0 && o.thin.degrees <= 90))
    throw refuse(`${o.thin.degrees}° is not a tolerance`, 'thin', 'Give degrees above 0, up to 90.');
  if (o.thin && !(o.thin.millimetres > 0))
    throw refuse(`${o.thin.millimetres} mm is not a tolerance`, 'thin', 'Give millimetres above 0.');
  checkFit(shot, o);
  for (const id of o.parts ?? []) {
    if (!shot.parts[id]) throw refuse(`There is no part ${id}`, 'parts', 'Choose parts of this shot.');
    if (shot.parts[id].muted)
      throw refuse(
        `${shot.parts[id].name} is muted, so it has no simulated motion`,
        'parts',
        'Unmute it, or leave it out.',
      );
  }
  const chosen = o.parts
    ? o.parts.map((id) => shot.parts[id]!)
    : Object.values(shot.parts).filter((p) => !p.muted);
  if (chosen.length === 0 && !(shot.clip && isRefined(shot)))
    throw refuse(
      'Nothing moves by simulation, so there is nothing to bake',
      'parts',
      'Make a part in Tune, or unmute one.',
    );
  const moves = (p: Part) =>
    documentOf(p)
      .claims(p)
      .some((c) => o.joints!.includes(c.node));
  if (o.joints && !chosen.some(moves))
    throw refuse(
      'None of the chosen joints is in the chosen parts',
      'joints',
      'Choose joints that move by simulation.',
    );
}

function checkFit(shot: Shot, { vertices, into }: BakeOptions): void {
  const refuse = (message: string, remedy: string) =>
    new OscillumError('bake.invalid', message, 'vertices', remedy);
  const count = vertices.to === 'joints' ? vertices.count : vertices.most;
  const least = vertices.to === 'joints' ? 1 : 0;
  if (!Number.isInteger(count) || count < least || count > MOST_SHAPES)
    throw refuse(
      `${count} ${vertices.to === 'joints' ? 'helper joints' : 'morph targets'} cannot be made`,
      `Ask for ${least} to ${MOST_SHAPES}.`,
    );
  if (vertices.to === 'morphs' && !(vertices.millimetres >= 0))
    throw refuse(`${vertices.millimetres} mm is not an error`, 'Give 0 or more.');
  const moves = Object.values(shot.parts).some((p) => !p.muted && movesPoints(p));
  if (vertices.to === 'joints' && into === 'offset' && moves)
    throw refuse(
      'An additive clip cannot move helper joints: other clips have keys for them already',
      'Bake into a new clip, or to morph targets.',
    );
}

/** Moments written in a frame: 1 for steps of whole frames, 2 for half a frame …; null for what is neither. */
export function momentsOf(step: number): number | null {
  if (Number.isInteger(step) && step >= 1) return 1;
  const between = Math.round(1 / step);
  return step > 0 && step < 1 && between <= 16 && Math.abs(step * between - 1) < 0.01 ? between : null;
}
