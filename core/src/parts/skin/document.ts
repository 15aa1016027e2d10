import { z } from 'zod';
import { partBase } from '../../model/part';
import { WeightMap } from '../../model/weightMap';
import { documentName, JointRef, PartId } from '../../model/world';
import { SkinKeys, SkinSettings } from './settings';

/** Soft bodies that a skin may lie over. */
export const MOST_BELOW = 32;

/** A soft body below a skin: the part, and the mesh that it moves. */
const Below = z.strictObject({ part: PartId, mesh: JointRef });
export type Below = z.infer<typeof Below>;

/** A skinned mesh that is carried along by the soft bodies below it, as skin is by muscle and fat. */
export const SkinPart = z.strictObject({
  ...partBase,
  kind: z.literal('skin'),
  mesh: JointRef,
  below: z.array(Below).max(MOST_BELOW),
  /** m: how near a body skin is, in the rest pose, that goes along with it. The farther half of it goes along less. */
  reach: z.number().min(1e-6).max(1e4),
  maps: z.partialRecord(z.enum(['share']), WeightMap).default({}),
  settings: SkinSettings.prefault({}),
  keys: SkinKeys.prefault({}),
});
export type SkinPart = z.infer<typeof SkinPart>;

/** A skin with defaults for everything that is not said. */
export const makeSkinPart = (
  part: Partial<Omit<z.input<typeof SkinPart>, 'id' | 'kind'>> & {
    id: string;
    name: z.input<typeof documentName>;
    mesh: z.input<typeof JointRef>;
    below: z.input<typeof Below>[];
    reach: number;
  },
): SkinPart => SkinPart.parse({ kind: 'skin', ...part });
