import { z } from 'zod';
import { documentId, documentName, JointRef } from './world';

/** A frame of a clip, parts of one too. */
const moment = z.number().min(-100_000).max(1_000_000);
const share = z.number().min(0).max(1);
const finite = z.number().min(-1e6).max(1e6);
const MOST_KEYS = 200_000;

/** Values of one joint over time. */
export const ChannelRef = z.strictObject({ joint: JointRef, path: z.enum(['rotation', 'translation']) });
export type ChannelRef = z.infer<typeof ChannelRef>;

/** Which keys, as frames for each channel in their order; all that lie in the span when null. */
const Keys = z.array(z.array(moment).max(MOST_KEYS)).max(2000).nullable();
/** x, y or z: degrees as read in Euler angles from the rest pose, or the place in the file's unit. */
const component = z.int().min(0).max(2);

/** A key as it was copied: value, and slopes of a cubic key a second; null for a straight one. */
const CopiedKey = z
  .strictObject({
    /** Frames after the first one copied. */
    after: z.number().min(0).max(1_000_000),
    value: z.array(finite).min(3).max(4),
    slopes: z.tuple([z.array(finite), z.array(finite)]).nullable(),
  })
  .refine(({ value, slopes }) => !slopes || slopes.every((s) => s.length === value.length), {
    error: 'A slope has as many numbers as its value',
  });
export type CopiedKey = z.infer<typeof CopiedKey>;

const Tool = z.discriminatedUnion('tool', [
  /** Blended with its average over some frames. */
  z.strictObject({ tool: z.literal('smooth'), amount: share, width: z.number().min(0.5).max(200) }),
  /** Times as far from the line between its ends, or from the source. */
  z.strictObject({
    tool: z.literal('exaggerate'),
    amount: z.number().min(-2).max(5),
    about: z.enum(['line', 'source']),
  }),
  /** Comes to rest sooner (above 0) or later. */
  z.strictObject({ tool: z.literal('settle'), amount: z.number().min(-1).max(1) }),
  /** Each joint so many frames later than the one above it. */
  z.strictObject({ tool: z.literal('offset'), frames: z.number().min(-60).max(60) }),
  z.strictObject({ tool: z.literal('to source'), amount: share }),
  /** To the pose next to the span. */
  z.strictObject({ tool: z.literal('to pose'), amount: share, pose: z.enum(['before', 'after']) }),
  /** The last frame becomes the first one. */
  z.strictObject({ tool: z.literal('close loop') }),
  z.strictObject({ tool: z.literal('remove jitter'), amount: share }),
  /** Keys in time (frames) and one of their components. */
  z.strictObject({ tool: z.literal('move'), keys: Keys, frames: finite, component, by: finite }),
  z.strictObject({ tool: z.literal('insert'), frames: z.array(moment).min(1).max(MOST_KEYS) }),
  z.strictObject({ tool: z.literal('delete'), keys: Keys }),
  z.strictObject({ tool: z.literal('slope'), keys: Keys, kind: z.enum(['auto', 'flat', 'straight']) }),
  /** One slope by hand, a frame; of one side or both. */
  z.strictObject({
    tool: z.literal('handle'),
    keys: Keys,
    side: z.enum(['in', 'out', 'both']),
    component,
    slope: finite,
  }),
  z.strictObject({ tool: z.literal('paste'), at: moment, keys: z.array(z.array(CopiedKey).max(20_000)) }),
]);
export type RefineTool = z.infer<typeof Tool>;

/** One named change to baked curves. */
export const Refinement = z
  .strictObject({
    id: documentId,
    name: documentName,
    muted: z.boolean().default(false),
    channels: z.array(ChannelRef).min(1).max(2000),
    first: moment,
    last: moment,
    /** Frames over which it comes and goes at the ends of its span. */
    ease: z.number().min(0).max(10_000).default(0),
    does: Tool,
  })
  .refine(({ first, last }) => last >= first, { error: 'A refinement ends before it begins' })
  .refine(({ channels, does }) => !('keys' in does && does.keys) || does.keys.length === channels.length, {
    error: 'A refinement names keys for as many channels as it has',
  });
export type Refinement = z.infer<typeof Refinement>;

/** What a channel was under the refinements when they were made: every `every`th frame from `first`. */
const Seen = z.strictObject({
  first: z.int(),
  every: z.int().min(1),
  values: z.array(z.number().min(-1e9).max(1e9)).max(4000),
});
export type Seen = z.infer<typeof Seen>;

/** What is laid over a bake. */
export const RefineLayer = z.strictObject({
  muted: z.boolean().default(false),
  /** In the order they were made; each is laid on those before it. */
  steps: z.array(Refinement).max(2000).default([]),
  /** By node and path: `12/rotation`. */
  seen: z.record(z.string().max(40), Seen).default({}),
});
export type RefineLayer = z.infer<typeof RefineLayer>;

/** How keys are written: every n-th frame, or a half, a third … of one; thinned within a tolerance, or all. */
export const KeyOptions = z.strictObject({
  step: z
    .number()
    .min(1 / 16)
    .max(1000)
    .default(1),
  thin: z
    .strictObject({
      kind: z.enum(['linear', 'cubic']),
      /** Largest error of any joint. */
      degrees: z.number().gt(0, { error: 'Degrees off must be above 0' }).max(90),
      /** Largest way of a chain's tip from where all keys have it, through all joints above it in the chain. */
      millimetres: z.number().gt(0, { error: 'Millimetres off must be above 0' }).max(1e6),
    })
    .nullable()
    .default(null),
});
