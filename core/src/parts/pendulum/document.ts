import { z } from 'zod';
import { ValueKeys } from '../../model/curves';
import { partBase } from '../../model/part';
import { documentId, documentName, JointRef, PartId } from '../../model/world';
import { PendulumKeys, PendulumSettings } from './settings';

const axis = z.enum(['x', 'y', 'z']);
const finite = z.number().min(-1e6).max(1e6);

/** One morph weight of a mesh: the node that carries the mesh, and which of its morph targets. */
const MorphRef = z.strictObject({
  node: z.int().min(0).max(1_000_000),
  name: z.string().max(1000),
  target: z.int().min(0).max(10_000),
});

/**
 * What is followed: how far a joint is turned (degrees) from its rest about an axis of its own, or moved (m) along an
 * axis of its parent's space; a morph weight; or a signal drawn with keys.
 */
const Input = z.discriminatedUnion('from', [
  z.strictObject({ from: z.literal('turn'), joint: JointRef, axis }),
  z.strictObject({ from: z.literal('place'), joint: JointRef, axis }),
  z.strictObject({ from: z.literal('morph'), morph: MorphRef }),
  z.strictObject({
    from: z.literal('drawn'),
    keys: ValueKeys.refine((keys) => keys.length > 0, { error: 'A drawn signal needs a key' }),
    /** Whether it begins again after its last key. */
    cycles: z.boolean().default(true),
  }),
]);
export type Input = z.infer<typeof Input>;

/**
 * What is driven: a turn (degrees) of a joint about an axis of its own, a way (m) along an axis of its parent's space,
 * its scale (a share more or less), a morph weight, or a setting of another part (in its unit).
 */
const Target = z.discriminatedUnion('does', [
  z.strictObject({ does: z.literal('turn'), joint: JointRef, axis }),
  z.strictObject({ does: z.literal('place'), joint: JointRef, axis }),
  z.strictObject({ does: z.literal('scale'), joint: JointRef, axis: z.enum(['x', 'y', 'z', 'all']) }),
  z.strictObject({ does: z.literal('morph'), morph: MorphRef }),
  z.strictObject({ does: z.literal('setting'), part: PartId, setting: z.string().max(40) }),
]);
export type Target = z.infer<typeof Target>;

const Output = z
  .strictObject({
    id: documentId,
    target: Target,
    /** Which of the two pendulums it takes. */
    pendulum: z.union([z.literal(1), z.literal(2)]).default(1),
    /** Frames it waits. */
    delay: z.number().min(0).max(240).default(0),
    /** In the target's unit for each unit of the input. */
    gain: finite.default(1),
    /** In the target's unit. */
    offset: finite.default(0),
    /** It comes near these, softly, and never passes them; null is no limit. */
    low: finite.nullable().default(null),
    high: finite.nullable().default(null),
    /**
     * For a turn or scale below a joint that is turned or scaled too: 'on top' adds to what the parent hands down;
     * 'instead' first takes out what this pair has given the parent.
     */
    order: z.enum(['on top', 'instead']).default('on top'),
  })
  .refine((o) => o.low === null || o.high === null || o.low < o.high, {
    error: 'The lower limit must lie below the upper one',
    path: ['low'],
  });
export type Output = z.infer<typeof Output>;

/** Two coupled pendulums that follow an input and drive outputs. */
export const PendulumPart = z.strictObject({
  ...partBase,
  kind: z.literal('pendulum'),
  input: Input,
  outputs: z
    .array(Output)
    .max(64, { error: 'A pendulum may drive at most 64 outputs' })
    .refine((list) => new Set(list.map((o) => o.id)).size === list.length, {
      error: 'Two outputs have the same id',
    })
    .default([]),
  /** Damps the pair so that nothing is ever passed, whatever the damping ratios. */
  noOvershoot: z.boolean().default(false),
  settings: PendulumSettings.prefault({}),
  keys: PendulumKeys.prefault({}),
});
export type PendulumPart = z.infer<typeof PendulumPart>;

/** A pendulum with defaults for everything that is not said. */
export const makePendulumPart = (
  part: Partial<Omit<z.input<typeof PendulumPart>, 'id' | 'kind'>> & {
    id: string;
    name: z.input<typeof documentName>;
    input: z.input<typeof Input>;
  },
): PendulumPart => PendulumPart.parse({ kind: 'pendulum', ...part });
