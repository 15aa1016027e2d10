import { guessFps, rootMatrix, type Character } from '../character/index';
import { writeBvh } from '../formats/bvh/index';
import { motionOf, type Motion } from '../formats/motion/index';
import { writeUsda } from '../formats/usda/index';
import { OscillumError } from '../model/index';
import { motionTable, toCsv } from './table';

/** Formats that hold motion, beside GLB, which holds the whole character. */
export const MOTION_FORMATS = ['bvh', 'usda', 'csv', 'json'] as const;
export type MotionFormat = (typeof MOTION_FORMATS)[number];

/** Formats that hold the vertices that move one by one, frame after frame, and nothing else. */
export const POINT_FORMATS = ['points.usda', 'points.csv'] as const;
export type PointFormat = (typeof POINT_FORMATS)[number];

export interface MotionFileOptions {
  readonly fps: number;
  /** Metres a unit of the character's file is. */
  readonly metresPerUnit: number;
  /** Which way is up in the character's file. */
  readonly upAxis: 'Y' | 'Z';
  /** What a unit of the written file is, m; BVH is mostly read as centimetres. */
  readonly unit: number;
  readonly up: 'Y' | 'Z';
}

export interface MotionFile {
  readonly text: string;
  /** What the format cannot hold of what there is. */
  readonly notes: readonly string[];
}

/** What most programs take each format to be in. */
export const unitOf = (format: MotionFormat | PointFormat): number => (format === 'bvh' ? 0.01 : 1);

/** Frames that a motion file may have. */
const MOST_FRAMES = 1_000_000;

/**
 * A clip of a character as frames, from its first to its last. Throws OscillumError('bake.invalid') without such a
 * clip.
 */
export function clipMotion(
  character: Character,
  clip: number,
  o: Omit<MotionFileOptions, 'fps'> & { readonly fps?: number },
): Motion {
  const k = character.clips[clip];
  if (!k)
    throw new OscillumError(
      'bake.invalid',
      `There is no clip ${clip}; there are ${character.clips.length}`,
      'clip',
      'Give the number of a clip, from 0.',
    );
  const fps = o.fps ?? guessFps(k);
  if (!(k.duration * fps <= MOST_FRAMES))
    throw new OscillumError(
      'bake.invalid',
      `${k.name} has ${Math.round(k.duration * fps)} frames at ${fps} a second; ${MOST_FRAMES} may be written`,
      'fps',
      'Ask for fewer frames a second.',
    );
  const root = rootMatrix(o.metresPerUnit / o.unit, o.upAxis);
  if (o.up === 'Z') standUp(root);
  return motionOf(character, clip, { fps, first: 0, last: Math.round(k.duration * fps), root });
}

/** From +Y up to +Z up. */
function standUp(m: Float64Array): void {
  for (let c = 0; c < 16; c += 4) {
    const [y, z] = [m[c + 1]!, m[c + 2]!];
    m[c + 1] = -z;
    m[c + 2] = y;
  }
}

/** A clip of a character in a format for motion. */
export function writeMotion(
  character: Character,
  clip: number,
  format: MotionFormat,
  o: MotionFileOptions,
): MotionFile {
  const motion = clipMotion(character, clip, o);
  const meshes = character.meshes.length;
  const left = [
    ...(meshes > 0 ? [`Meshes, skin and materials stay in the character's own file.`] : []),
    ...(character.clips[clip]!.channels.some((c) => c.path === 'weights')
      ? ['Morph targets are left out.']
      : []),
  ];
  if (format === 'bvh') {
    const { text, notes } = writeBvh(motion);
    return { text, notes: [...left, ...notes] };
  }
  if (format === 'usda')
    return {
      text: writeUsda(motion, { name: character.name || 'Character', metresPerUnit: o.unit, upAxis: o.up }),
      notes: left,
    };
  const table = motionTable(motion);
  return { text: format === 'csv' ? toCsv(table) : `${JSON.stringify(table)}\n`, notes: left };
}
