import { z } from 'zod';
import { Minds, partBase } from '../../model/part';
import { WeightMap } from '../../model/weightMap';
import { documentId, documentName, JointRef } from '../../model/world';
import { BodyKeys, BodySettings } from './settings';

/** What may be painted: how much of its hold and of its firmness each vertex has. */
export const BODY_MAPS = ['hold', 'firm'] as const;
export type BodyMapKey = (typeof BODY_MAPS)[number];

/** Cells along the longest side at least and at most. */
export const CELLS = { least: 1, most: 32 } as const;

/** Strings that a body may hang on. */
export const MOST_STRINGS = 16;

/** A whole mesh of a character that goes soft: its vertices are carried by a lattice of cells. */
export const BodyPart = z.strictObject({
  ...partBase,
  kind: z.literal('body'),
  mesh: JointRef,
  /** Cells along its longest side. */
  cells: z.int().min(CELLS.least).max(CELLS.most).default(8),
  /** m: how much higher than its animation it begins. */
  lift: z.number().min(0).max(1e4).default(0),
  /** Frames by which its animation comes later. Its keys stand where they act. */
  start: z.int().min(-10_000).max(10_000).default(0),
  /** Bodies of the same link have their set-up in common: what is set on one holds for all. */
  link: documentId.nullable().default(null),
  /** Strings that it hangs on: each from the place of its surface nearest at rest to a joint, and so long, m. */
  strings: z
    .array(z.strictObject({ joint: JointRef, length: z.number().min(1e-3).max(1e4) }))
    .max(MOST_STRINGS)
    .default([]),
  maps: z.partialRecord(z.enum(BODY_MAPS), WeightMap).default({}),
  settings: BodySettings.prefault({}),
  keys: BodyKeys.prefault({}),
  collidesWith: z
    .strictObject({
      colliders: Minds.default('all'),
      /** Chains and other soft bodies that it touches, and that feel it. */
      parts: Minds.default([]),
    })
    .prefault({}),
});
export type BodyPart = z.infer<typeof BodyPart>;

/** A soft body with defaults for everything that is not said. */
export const makeBodyPart = (
  part: Partial<Omit<z.input<typeof BodyPart>, 'id' | 'kind'>> & {
    id: string;
    name: z.input<typeof documentName>;
    mesh: z.input<typeof JointRef>;
  },
): BodyPart => BodyPart.parse({ kind: 'body', ...part });
