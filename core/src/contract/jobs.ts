import { z } from 'zod';
import { DEFAULT_FIT, MOST_SHAPES } from '../bake/index';
import {
  HAND_OFF_FORMATS,
  MOST_CARD_JOINTS,
  MOST_CARDS,
  MOST_STRANDS,
  type HandOffPlan,
} from '../handoff/index';
import { KeyOptions } from '../model/index';
import { Shot } from '../shot/index';

/** At most so many jobs in one action. */
const MAX_JOBS = 200;

const Plan = z.strictObject({
  bake: z.strictObject({
    first: z.int(),
    last: z.int(),
    step: z.number(),
    parts: z.array(z.string().max(40)).max(2000).nullable(),
    joints: z.array(z.int().min(0)).max(100_000).nullable(),
    lead: z.boolean(),
    into: z.enum(['new', 'replace', 'offset']),
    name: z.string().max(1000),
    thin: KeyOptions.shape.thin,
    vertices: z
      .discriminatedUnion('to', [
        z.strictObject({
          to: z.literal('morphs'),
          most: z.int().min(0).max(MOST_SHAPES),
          millimetres: z.number().min(0),
          largest: z.boolean().optional(),
          sparse: z.boolean().optional(),
        }),
        z.strictObject({
          to: z.literal('joints'),
          count: z.int().min(1).max(MOST_SHAPES),
          under: z.int().min(0).nullable(),
        }),
      ])
      .default(DEFAULT_FIT),
  }),
  clips: z.array(z.int().min(0)).min(1).max(500).nullable(),
  formats: z.array(z.enum(HAND_OFF_FORMATS)).min(1, { error: 'Choose at least one kind of file' }),
  stem: z.string().regex(/^[^\p{Cc}/\\]{1,200}$/u, { error: 'A file name has 1–200 letters and no slash' }),
  unit: z.number().gt(0).nullable(),
  up: z.enum(['Y', 'Z']),
  hair: z
    .strictObject({
      cards: z.int().min(1).max(MOST_CARDS),
      joints: z.int().min(1).max(MOST_CARD_JOINTS),
      strands: z.int().min(0).max(MOST_STRANDS).default(0),
    })
    .optional(),
  pack: z.enum(['none', 'meshopt', 'draco']).default('none'),
}) satisfies z.ZodType<HandOffPlan>;

/** Kinds of film, and the ending of each. */
export const FILM_KINDS = ['webm', 'four', 'png', 'sheet'] as const;
const place = z.tuple([z.number(), z.number(), z.number()]);

/** A film as the page draws it: from where, with what shown. */
export const FilmRequest = z.strictObject({
  kind: z.enum(FILM_KINDS),
  numbers: z.boolean(),
  size: z.strictObject({ width: z.int().min(64).max(1920), height: z.int().min(64).max(1080) }),
  camera: z.strictObject({ target: place, at: place, zoom: z.number().gt(0) }),
  /** What of the stage is shown: ghost, trails … */
  shown: z.record(z.string().max(40), z.boolean()),
});
export type FilmRequest = z.infer<typeof FilmRequest>;

const BakeJob = z.strictObject({ shot: Shot, plan: Plan });
export type BakeJob = z.infer<typeof BakeJob>;
const FilmJob = z.strictObject({ shot: Shot, film: FilmRequest });
export const JobRequest = z.union([BakeJob, FilmJob]);
export type JobRequest = z.infer<typeof JobRequest>;
export const PostJobs = z.strictObject({ jobs: z.array(JobRequest).min(1).max(MAX_JOBS) });

export const JobId = z.string().regex(/^[a-z0-9]{12,32}$/, { error: 'A job id is 12–32 letters and digits' });

const Difference = z.object({
  ...{ file: z.string(), clip: z.string(), by: z.string(), fine: z.boolean() },
  ...{ joints: z.int(), frames: z.int(), joint: z.string(), frame: z.number() },
  ...{ distance: z.number(), share: z.number(), degrees: z.number(), turnJoint: z.string().default('') },
  ...{ scale: z.number().default(0), scaleJoint: z.string().default('') },
});

/** What a job has made. */
export const JobResult = z.object({
  files: z.array(
    z.object({
      name: z.string(),
      format: z.enum([...HAND_OFF_FORMATS, 'webm', 'zip', 'png']),
      clips: z.array(z.string()),
      bytes: z.int(),
      /** SHA-256 of its bytes. */
      hash: z.string(),
    }),
  ),
  clips: z.array(
    z.object({
      ...{ clip: z.string(), frames: z.int(), missed: z.array(z.string()) },
      ...{ before: z.int(), after: z.int(), degrees: z.number(), millimetres: z.number() },
      fits: z
        .array(
          z.object({
            ...{ node: z.int(), shapes: z.int(), joints: z.int(), bytes: z.int() },
            ...{ rms: z.number(), largest: z.number() },
          }),
        )
        .default([]),
    }),
  ),
  notes: z.array(z.string()),
  checks: z.array(Difference),
  faults: z.array(z.string()),
});
export type JobResult = z.infer<typeof JobResult>;

export const Job = z.object({
  id: JobId,
  title: z.string(),
  state: z.enum(['waiting', 'running', 'done', 'failed', 'cancelled']),
  /** 0..1 */
  progress: z.number(),
  /** Why it failed: what, where and what to do. */
  error: z.string().nullable(),
  result: JobResult.nullable(),
  createdAt: z.string(),
  updatedAt: z.string(),
});
export type Job = z.infer<typeof Job>;
