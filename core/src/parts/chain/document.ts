import { z } from 'zod';
import { MAX_ROW_JOINTS, Minds, partBase } from '../../model/part';
import { ColliderId, frameNumber, JointRef, PartId, vector } from '../../model/world';
import { ChainKeys, ChainProfiles, ChainSettings } from './settings';

/** A recorded drag of one link by hand. */
const Pull = z.strictObject({
  id: z.string().regex(/^[A-Za-z0-9_-]{1,40}$/),
  /** The link grabbed (0 at the root) and where along it, 0..1. */
  link: z.int().min(0).max(399),
  along: z.number().min(0).max(1).default(1),
  first: frameNumber,
  /** Places of the hand, m, one a frame from `first`. */
  path: z.array(vector).min(1).max(20_000),
  /** Hz: how stiffly the hand holds. */
  strength: z.number().min(0.1).max(30).default(6),
  /** m: the hand slips off when it is farther away than this. */
  slip: z.number().min(0).max(1e5).default(1e5),
});
export type Pull = z.infer<typeof Pull>;

/** Pulls of one part that may hold it on one frame. */
const MAX_PULLS_AT_ONCE = 6;
const atOnce = (pulls: readonly Pull[], frame: number): number =>
  pulls.filter((p) => p.first <= frame && frame < p.first + p.path.length).length;

/** What holds a chain's tip: a joint or a collider, at a place in its space. */
const TipPin = z.strictObject({
  to: z.union([z.strictObject({ joint: JointRef }), z.strictObject({ collider: ColliderId })]),
  /** m, in the space of what it is tied to */
  t: vector.default([0, 0, 0]),
  /** m: beyond this distance it slips off and stays off. */
  breakAt: z.number().min(0).max(1e5).default(1e5),
});
export type TipPin = z.infer<typeof TipPin>;

/** Springs from each joint of a chain to the same joint of a neighbour: they keep the spacing of the source. */
const Spring = z.strictObject({
  to: PartId,
  /** Hz: the frequency at which two joints of their masses would swing against each other. */
  stiffness: z.number().min(0.1).max(240).default(8),
  /** Ratio of critical. */
  damping: z.number().min(0).max(4).default(0.7),
});
export type Spring = z.infer<typeof Spring>;

/** Neighbours a chain may be linked to, from its side. */
const MOST_SPRINGS = 8;

/** A row of joints that moves by itself. */
export const ChainPart = z.strictObject({
  ...partBase,
  kind: z.literal('chain'),
  /** Root to tip; each the parent of the next. */
  joints: z
    .array(JointRef)
    .min(1, { error: 'A chain needs at least one joint' })
    .max(MAX_ROW_JOINTS, { error: `A chain may have at most ${MAX_ROW_JOINTS} joints` }),
  /** Joints at its ends that would belong to it but stay with their source: they can be let in again. */
  still: z
    .strictObject({ first: JointRef.nullable().default(null), last: JointRef.nullable().default(null) })
    .prefault({}),
  settings: ChainSettings.prefault({}),
  /** Root to tip multipliers of single settings. */
  profiles: ChainProfiles.prefault({}),
  /** Keys of single settings, in place of their value. */
  keys: ChainKeys.prefault({}),
  /** Keeps it in the plane across this axis of its first joint's parent. */
  staysInPlane: z.enum(['none', 'x', 'y', 'z']).default('none'),
  /** Whose swing is handed down by its overlap: of the joint above it, or of its first joint. */
  overlapFrom: z.enum(['above', 'first']).default('above'),
  collidesWith: z
    .strictObject({
      colliders: Minds.default('all'),
      /** Other parts; a part never minds itself between neighbouring links. */
      parts: Minds.default([]),
    })
    .prefault({}),
  /** Whether it pulls back on the simulated part it hangs from. */
  pullsParent: z.boolean().default(false),
  tipPin: TipPin.nullable().default(null),
  /** Neighbours in a row or a ring of chains; each pair is named by one of the two. */
  springs: z.array(Spring).max(MOST_SPRINGS).default([]),
  pulls: z
    .array(Pull)
    .max(100)
    .refine((pulls) => pulls.every((p) => atOnce(pulls, p.first) <= MAX_PULLS_AT_ONCE), {
      error: `At most ${MAX_PULLS_AT_ONCE} pulls may hold a part at once`,
    })
    .default([]),
});
export type ChainPart = z.infer<typeof ChainPart>;

/** A chain with defaults for everything that is not said. */
export function makeChainPart(
  part: Pick<z.input<typeof ChainPart>, 'name' | 'joints'> &
    Partial<Omit<z.input<typeof ChainPart>, 'id' | 'kind'>> & { id: string },
): ChainPart {
  return ChainPart.parse({ kind: 'chain', ...part });
}

/** Whether a part is a chain; nothing is none. */
export const isChain = <P extends { readonly kind: string }>(
  part: P | undefined,
): part is P & { readonly kind: 'chain' } => part?.kind === 'chain';

/** A part that is known to be a chain. Throws TypeError when it is not. */
export function asChain(part: { readonly kind: string } | undefined): ChainPart {
  if (part?.kind !== 'chain') throw new TypeError('This part is not a chain');
  return part as ChainPart;
}
