import { z } from 'zod';
import { ValueKeys } from './curves';
import { documentName, frameNumber, PartId } from './world';

/** Joints that a row in a part may have at most. */
export const MAX_ROW_JOINTS = 400;

/** Which of some things, by id, a part minds. */
export const Minds = z.union([z.literal('all'), z.array(z.string().max(40)).max(2000)]);
export type Minds = z.infer<typeof Minds>;
export const minds = (list: Minds, id: string): boolean => list === 'all' || list.includes(id);

/** A frame at which a part meets its source exactly, with frames to come to it and to leave it. */
const AnchorPose = z.strictObject({
  frame: frameNumber,
  easeIn: z.number().min(0).max(10_000).default(8),
  easeOut: z.number().min(0).max(10_000).default(8),
});
export type AnchorPose = z.infer<typeof AnchorPose>;

/** What a part of every kind has; a kind's document spreads it and adds its own. */
export const partBase = {
  id: PartId,
  name: documentName,
  /** Place in lists; ties are broken by id. */
  order: z.number().default(0),
  muted: z.boolean().default(false),
  /** The clip that holds its motion since a bake muted it for that; null when it was not, or was muted by hand. */
  bakedInto: z.string().max(1000).nullable().default(null),
  anchors: z
    .array(AnchorPose)
    .max(1000)
    .refine((a) => new Set(a.map((p) => p.frame)).size === a.length, {
      error: 'Two anchor poses of one part stand on the same frame',
    })
    .default([]),
};

/** The fields of {@link partBase}, with what every kind has in its own way: a kind, settings and keys of them. */
export interface PartBase {
  readonly kind: string;
  id: PartId;
  name: string;
  order: number;
  muted: boolean;
  bakedInto: string | null;
  anchors: AnchorPose[];
  settings: Record<string, number>;
  keys: { [key: string]: ValueKeys | undefined };
}

/** Things of the document in their stable order: by `order`, then by id. */
export function inOrder<T extends { readonly order: number; readonly id: string }>(
  things: Readonly<Record<string, T>>,
): T[] {
  return Object.values(things).sort((a, b) => a.order - b.order || (a.id < b.id ? -1 : 1));
}
