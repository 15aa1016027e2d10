import { z } from 'zod';
import { Minds, partBase } from '../../model/part';
import { documentName, frameNumber, JointRef, PartId, vector } from '../../model/world';
import { WeightMap } from '../../model/weightMap';
import { ClothKeys, ClothSettings } from './settings';

/**
 * What holds a cloth to its skin: vertices that a joint weighs at least so much, or the rim (a closed edge of the mesh)
 * with a number, the shortest first.
 */
const Hold = z.discriminatedUnion('by', [
  z.strictObject({
    by: z.literal('joint'),
    joint: JointRef,
    /** Share of a vertex's weight, 0..1. */
    from: z.number().min(0.01).max(1).default(0.5),
  }),
  z.strictObject({ by: z.literal('rim'), rim: z.int().min(0).max(1000) }),
]);
export type Hold = z.infer<typeof Hold>;

/**
 * What ties points of a cloth to something: those that it names go where a joint takes them, or to the nearest points
 * of another cloth. With `pulls` what they are tied to feels it too.
 */
const Tie = z.strictObject({
  what: Hold,
  to: z.discriminatedUnion('by', [
    z.strictObject({ by: z.literal('joint'), joint: JointRef }),
    z.strictObject({ by: z.literal('cloth'), part: PartId }),
  ]),
  pulls: z.boolean().default(false),
});
export type Tie = z.infer<typeof Tie>;

/** A hand that holds a cloth about one of its vertices along a recorded path. */
const ClothPull = z.strictObject({
  id: z.string().regex(/^[A-Za-z0-9_-]{1,40}$/),
  /** The vertex that was grabbed, and how far about it the hand reaches, m. */
  vertex: z.int().min(0).max(1_000_000),
  reach: z.number().min(0).max(1e4),
  first: frameNumber,
  /** Places of the hand, m, one a frame from `first`. */
  path: z.array(vector).min(1).max(20_000),
  /** Hz: how stiffly the hand holds. */
  strength: z.number().min(0.1).max(30).default(6),
  /** m: the hand slips off when it is farther away than this. */
  slip: z.number().min(0).max(1e5).default(1e5),
});
export type ClothPull = z.infer<typeof ClothPull>;

/** Settings that a map of shares may lie on, one a vertex: what acts at a vertex is the setting times its share. */
export const MAPPED = ['leash', 'inner', 'hold', 'damping', 'bend'] as const;
/** What may be painted: those settings, and when each vertex that is held is let go. */
export const MAPS = [...MAPPED, 'release'] as const;
export type MapKey = (typeof MAPS)[number];

/** A sheet of the character's mesh that moves by itself. */
export const ClothPart = z.strictObject({
  ...partBase,
  kind: z.literal('cloth'),
  mesh: JointRef,
  holds: z.array(Hold).max(200).default([]),
  ties: z.array(Tie).max(50).default([]),
  pulls: z.array(ClothPull).max(100).default([]),
  settings: ClothSettings.prefault({}),
  /** What it rests in: the mesh as it is, the same but flat, or as the animation has it on a frame. */
  rest: z.enum(['mesh', 'flat', 'frame']).default('mesh'),
  /** The frame whose animated shape it rests in, where that is asked for. */
  restFrame: frameNumber.default(0),
  maps: z.partialRecord(z.enum(MAPS), WeightMap).default({}),
  /**
   * What is held lets go between two frames: by the map of release a vertex with a share of 0 does so on the first, one
   * with a share of 1 on the last, all on the first without a map. Null holds for good.
   */
  release: z
    .strictObject({ first: frameNumber, last: frameNumber })
    .refine((r) => r.first <= r.last, { error: 'A release must not end before it begins' })
    .nullable()
    .default(null),
  keys: ClothKeys.prefault({}),
  collidesWith: z
    .strictObject({
      colliders: Minds.default('all'),
      /** Chains that it touches, and that feel it. */
      parts: Minds.default([]),
      /** Whether its own layers keep apart. */
      itself: z.boolean().default(false),
    })
    .prefault({}),
});
export type ClothPart = z.infer<typeof ClothPart>;

/** What every part has whose points are a sheet, whatever carries them. */
export type SheetPart = Pick<
  ClothPart,
  'id' | 'name' | 'settings' | 'keys' | 'anchors' | 'rest' | 'restFrame' | 'release' | 'collidesWith'
>;

/** A cloth with defaults for everything that is not said. */
export const makeClothPart = (
  part: Partial<Omit<z.input<typeof ClothPart>, 'id' | 'kind'>> & {
    id: string;
    name: z.input<typeof documentName>;
    mesh: z.input<typeof JointRef>;
  },
): ClothPart => ClothPart.parse({ kind: 'cloth', ...part });
