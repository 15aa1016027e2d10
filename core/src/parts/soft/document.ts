import { z } from 'zod';
import { partBase } from '../../model/part';
import { WeightMap } from '../../model/weightMap';
import { documentName, JointRef, vector } from '../../model/world';
import { RegionKeys, RegionSettings } from './settings';

const reach = z.number().min(0).max(1e4);

/**
 * Which vertices move and how much, 0..1: within a ball at rest (full up to its inner reach, none from its outer one),
 * as much as a joint weighs them, or as a map has them that is painted on the first mesh.
 */
const Where = z.discriminatedUnion('by', [
  z.strictObject({
    by: z.literal('ball'),
    /** Its middle at rest, m. */
    at: vector,
    inner: reach,
    outer: reach,
    /** A second ball on the other side of x = 0. */
    mirrored: z.boolean().default(false),
  }),
  z.strictObject({ by: z.literal('joint'), joint: JointRef }),
  z.strictObject({ by: z.literal('map') }),
]);
export type Where = z.infer<typeof Where>;

/** A region of a character's skin that quivers. */
export const RegionPart = z.strictObject({
  ...partBase,
  kind: z.literal('region'),
  mesh: JointRef,
  /** Further meshes that it spans, by the same ball or joint. */
  also: z.array(JointRef).max(30).default([]),
  where: Where,
  maps: z.partialRecord(z.enum(['weight']), WeightMap).default({}),
  settings: RegionSettings.prefault({}),
  keys: RegionKeys.prefault({}),
});
export type RegionPart = z.infer<typeof RegionPart>;

/** A region with defaults for everything that is not said. */
export const makeRegionPart = (
  part: Partial<Omit<z.input<typeof RegionPart>, 'id' | 'kind'>> & {
    id: string;
    name: z.input<typeof documentName>;
    mesh: z.input<typeof JointRef>;
    where: z.input<typeof Where>;
  },
): RegionPart => RegionPart.parse({ kind: 'region', ...part });
