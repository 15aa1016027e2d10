import { z } from 'zod';
import { MAX_ROW_JOINTS, Minds, partBase } from '../../model/part';
import { documentName, frameNumber, JointRef } from '../../model/world';
import { ClothKeys, ClothSettings } from './settings';

/** Rows of joints, side by side, that are one sheet: their joints and tips are its points. */
export const PanelPart = z.strictObject({
  ...partBase,
  kind: z.literal('panel'),
  /** From root to tip, in their order across; each joint hangs from the one before it. */
  rows: z.array(z.array(JointRef).min(1).max(MAX_ROW_JOINTS)).min(2).max(200),
  /** Whether the last row is beside the first. */
  closed: z.boolean().default(false),
  /** What its joints do to follow the points: turn alone, turn and stretch, or go there and keep their turns. */
  moves: z.enum(['turns', 'places', 'points']).default('turns'),
  settings: ClothSettings.prefault({}),
  /** What it rests in: as its joints rest, the same but flat, or as the animation has them on a frame. */
  rest: z.enum(['mesh', 'flat', 'frame']).default('mesh'),
  /** The frame whose animated shape it rests in, where that is asked for. */
  restFrame: frameNumber.default(0),
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
export type PanelPart = z.infer<typeof PanelPart>;

/** A panel with defaults for everything that is not said. */
export const makePanelPart = (
  part: Partial<Omit<z.input<typeof PanelPart>, 'id' | 'kind'>> & {
    id: string;
    name: z.input<typeof documentName>;
    rows: z.input<typeof JointRef>[][];
  },
): PanelPart => PanelPart.parse({ kind: 'panel', ...part });
