import { z } from 'zod';
import {
  Collider,
  documentId,
  documentName,
  Force,
  frameNumber,
  inOrder,
  KeyOptions,
  OscillumError,
  PartId,
  RefineLayer,
  AddedMotion,
  ValueKeys,
  vector,
} from '../model/index';
import { documentOf, Part } from '../parts/documents';
import { UPGRADES } from './upgrades';

/** Version of the shot document this build writes. Older ones are upgraded by {@link UPGRADES}; newer ones refused. */
export const SHOT_VERSION = 8;

/** At most this many frames, joints and parts in a shot; beyond them a file is refused rather than a machine filled. */
export const MAX_FRAMES = 20_000;
export const MAX_PARTS = 2_000;
const MAX_TAKES = 50;
const MOST_PRE_ROLL = 120;

export const CharacterHash = z
  .string()
  .regex(/^[0-9a-f]{64}$/, { error: 'A character is named by its SHA-256, 64 hex digits' })
  .brand('CharacterHash');
export type CharacterHash = z.infer<typeof CharacterHash>;

/** All that a shot is tuned by: what a take keeps. */
const tuned = {
  range: z.strictObject({ first: frameNumber, last: frameNumber }),
  /** Last frames of the range in which the clip holds its last pose, to see it settle: see {@link actionRange}. */
  settleFrames: z.int().min(0).max(MAX_FRAMES).default(0),
  /** s simulated before the range: on its first pose, or over the clip where it is run up. */
  preRollSeconds: z
    .number()
    .min(0, { error: 'Pre-roll is 0 s or more' })
    .max(MOST_PRE_ROLL, { error: `Pre-roll is at most ${MOST_PRE_ROLL} s` })
    .default(0.4),
  /** Steps a frame is cut into. */
  substeps: z.int().min(1).max(64).default(4),
  /** m/s², +Y up. */
  gravity: vector.default([0, -9.81, 0]),
  /** Keys of a factor on gravity; none is 1. */
  gravityKeys: ValueKeys.default([]),
  /** kg/m³ */
  airDensity: z.number().min(0).max(100).default(1.2),
  /**
   * How the range begins: waiting on the first pose for the pre-roll, running the clip up to it over the pre-roll, or
   * at rest in the first pose.
   */
  start: z.enum(['wait', 'run up', 'settled']).default('wait'),
  /** Find the motion that repeats exactly: the clip loops over the range. */
  loop: z.boolean().default(false),
  parts: z.record(z.string(), Part).default({}),
  colliders: z.record(z.string(), Collider).default({}),
  forces: z.record(z.string(), Force).default({}),
};

/** What a take measured for a part when it was kept; null where there was no number. */
const TakeMeasure = z.strictObject({
  /** Largest on the shot, degrees and m. */
  offSourceDegrees: z.number().nullable(),
  tipMetres: z.number().nullable(),
  /** On the standard quick turn: frames, %, frames. */
  lag: z.number().nullable(),
  overshoot: z.number().nullable(),
  settle: z.number().nullable(),
});
export type TakeMeasure = z.infer<typeof TakeMeasure>;

/** The settings of a moment, to compare with and come back to. What they give is simulated again, to the same bits. */
export const Take = z.strictObject({
  id: documentId.brand('TakeId'),
  name: documentName,
  order: z.number().default(0),
  note: z.string().max(2000).default(''),
  tuned: z.strictObject(tuned),
  /** By part. */
  measures: z.record(z.string(), TakeMeasure).default({}),
});
export type Take = z.infer<typeof Take>;
export const TUNED_FIELDS = Object.keys(tuned) as (keyof typeof tuned)[];

/** A shot as one of its takes has it. */
export const asTaken = (shot: Shot, take: Take): Shot => ({ ...shot, ...take.tuned });

const clipRef = { index: z.int().min(0), name: z.string().max(1000) };

export const Shot = z
  .strictObject({
    format: z.literal('oscillum-shot', {
      error: 'This is not an Oscillum shot: "format" must be "oscillum-shot"',
    }),
    version: z.literal(SHOT_VERSION),
    name: documentName,
    character: z.strictObject({
      hash: CharacterHash,
      fileName: z.string().max(400),
      /** Metres for one unit of the file. glTF says 1; rigs from other places differ. */
      metresPerUnit: z.number().min(1e-6, { error: 'Scale must be above 0' }).max(1e6).default(1),
      /** The axis that points up in the file. glTF says Y; some exporters leave Z. */
      upAxis: z.enum(['Y', 'Z']).default('Y'),
    }),
    /** The clip by index and name; null when the character has none. */
    clip: z
      .strictObject({
        ...clipRef,
        /** Parts that were baked into it, and the clip they were simulated on; null for the rest pose. */
        baked: z
          .strictObject({ over: z.strictObject(clipRef).nullable(), parts: z.array(PartId).max(MAX_PARTS) })
          .optional(),
      })
      .nullable(),
    /** Frames per second. Frame f is at f / fps seconds of the clip. */
    fps: z
      .number()
      .min(1, { error: 'Frames per second must be at least 1' })
      .max(480, { error: 'Frames per second must be at most 480' })
      .default(30),
    /** How the clip goes on after its end, and what closes it. */
    cycle: z
      .strictObject({
        /** Times it is played on end, its travel carried on. */
        repeats: z.int().min(1).max(1000).default(1),
        /** Its last frame comes one frame before its first again: the exporter left the repeated frame out. */
        missingFrame: z.boolean().default(false),
        /** Frames over which its end is led into its first pose. */
        blend: z.number().min(0).max(10_000).default(0),
        /** Frames that one time lasts; null is its own length. */
        frames: z.int().min(1).max(MAX_FRAMES).nullable().default(null),
      })
      .prefault({}),
    /** The clip stands in its pose on this frame; null lets it play. */
    stillAt: frameNumber.nullable().default(null),
    /** Turns and moves added to the clip's own motion. */
    addedMotions: z.record(z.string(), AddedMotion).default({}),
    /** Takes out how the clip travels over the range. */
    inPlace: z.boolean().default(false),
    ...tuned,
    /** Settings kept to come back to. */
    takes: z.record(z.string(), Take).default({}),
    /** How a bake is written as keys, and what is laid over it. */
    keys: KeyOptions.prefault({}),
    refine: RefineLayer.prefault({}),
  })
  .superRefine((shot, ctx) => {
    if (shot.range.last < shot.range.first) {
      ctx.addIssue({
        code: 'custom',
        path: ['range'],
        message: `The range ends (${shot.range.last}) before it starts (${shot.range.first})`,
      });
    }
    if (shot.range.last - shot.range.first + 1 > MAX_FRAMES) {
      ctx.addIssue({
        code: 'custom',
        path: ['range'],
        message: `A range may have at most ${MAX_FRAMES} frames`,
      });
    }
    for (const [list, what] of [
      [shot.parts, 'part'],
      [shot.colliders, 'collider'],
      [shot.forces, 'force'],
      [shot.takes, 'take'],
      [shot.addedMotions, 'addedMotion'],
    ] as const) {
      for (const [id, thing] of Object.entries(list))
        if (thing.id !== id)
          ctx.addIssue({
            code: 'custom',
            path: [`${what}s`, id, 'id'],
            message: `A ${what} is filed under another id than its own`,
          });
    }
    if (Object.keys(shot.takes).length > MAX_TAKES)
      ctx.addIssue({
        code: 'custom',
        path: ['takes'],
        message: `A shot may keep at most ${MAX_TAKES} takes`,
      });
    const ids = Object.keys(shot.parts);
    if (ids.length > MAX_PARTS)
      ctx.addIssue({
        code: 'custom',
        path: ['parts'],
        message: `A shot may have at most ${MAX_PARTS} parts`,
      });
    const owner = new Map<string, string>();
    for (const id of ids) {
      const part = shot.parts[id]!;
      for (const c of documentOf(part).claims(part)) {
        const key = `${c.node} ${c.path}`;
        const other = owner.get(key);
        if (c.shared) continue;
        if (other !== undefined) {
          ctx.addIssue({
            code: 'custom',
            path: ['parts', id, 'joints'],
            message: `Joint ${c.name || c.node} is already moved by ${shot.parts[other]!.name}`,
          });
          break;
        }
        owner.set(key, id);
      }
    }
  });
export type Shot = z.infer<typeof Shot>;

/** Frames of a shot's pre-roll. */
export const preRollFrames = ({ preRollSeconds, fps }: Pick<Shot, 'preRollSeconds' | 'fps'>): number =>
  Math.round(preRollSeconds * fps);

/** The frames of a shot without those that were added to see it settle: what is baked unless more is asked. */
export const actionRange = ({
  range: { first, last },
  settleFrames,
  loop,
}: Pick<Shot, 'range' | 'settleFrames' | 'loop'>): Shot['range'] => ({
  first,
  last: loop ? last : Math.max(first, last - settleFrames),
});

export const partsInOrder = (shot: Pick<Shot, 'parts'>): Part[] => inOrder(shot.parts);

/** Reads a shot document of this or any older version. Throws OscillumError with the place of the first fault. */
export function parseShot(data: unknown): Shot {
  if (typeof data !== 'object' || data === null || Array.isArray(data)) {
    throw new OscillumError(
      'shot.invalid',
      'This is not a shot document',
      '',
      'Choose a .json file saved by Oscillum.',
    );
  }
  let doc = data as Record<string, unknown>;
  if (typeof doc.version === 'number' && doc.version > SHOT_VERSION) {
    throw new OscillumError(
      'shot.newer',
      `This shot was saved by a newer Oscillum (version ${doc.version}; this one reads ${SHOT_VERSION})`,
      '/version',
      'Update Oscillum and open it again.',
    );
  }
  for (
    let v = doc.version;
    typeof v === 'number' && Number.isInteger(v) && v >= 0 && v < SHOT_VERSION;
    v = doc.version
  ) {
    doc = UPGRADES[v as number]!(doc);
  }
  const result = Shot.safeParse(doc);
  if (result.success) return result.data;
  const issue = result.error.issues[0]!;
  throw new OscillumError(
    'shot.invalid',
    issue.message,
    '/' + issue.path.join('/'),
    'Correct that value and open the file again.',
  );
}

export interface NewShot {
  name: string;
  hash: string;
  fileName: string;
  clip: { index: number; name: string; duration: number } | null;
  fps?: number;
  metresPerUnit?: number;
}

/** A shot with defaults for everything that was not said: the whole clip, or one second when there is none. */
export function makeShot(s: NewShot): Shot {
  const fps = s.fps ?? 30;
  const duration = s.clip ? s.clip.duration : 1;
  return parseShot({
    format: 'oscillum-shot',
    version: SHOT_VERSION,
    name: s.name,
    character: { hash: s.hash, fileName: s.fileName, metresPerUnit: s.metresPerUnit ?? 1 },
    clip: s.clip && { index: s.clip.index, name: s.clip.name },
    fps,
    range: { first: 0, last: lastFrame(duration, fps) },
  });
}

/** The last whole frame of a clip of `duration` seconds, never beyond what a shot may hold. */
export function lastFrame(duration: number, fps: number): number {
  return Math.min(MAX_FRAMES - 1, Math.max(1, Math.floor(duration * fps + 1e-3)));
}
