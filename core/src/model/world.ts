import { z } from 'zod';
import { ValueKeys } from './curves';

/** Names, ids and small things that several parts of the shot document share. */
export const documentName = z
  .string()
  .trim()
  .min(1, { error: 'A name needs at least one letter' })
  .max(200, { error: 'A name may have at most 200 letters' });

export const documentId = z
  .string()
  .regex(/^[A-Za-z0-9_-]{1,40}$/, { error: 'An id is 1–40 letters, digits, - or _' });
export const PartId = documentId.brand('PartId');
export type PartId = z.infer<typeof PartId>;
export const ColliderId = documentId.brand('ColliderId');
export type ColliderId = z.infer<typeof ColliderId>;
export const ForceId = documentId.brand('ForceId');
export type ForceId = z.infer<typeof ForceId>;

export const frameNumber = z.int({ error: 'A frame is a whole number' }).min(-100_000).max(1_000_000);
const finite = z.number().min(-1e6).max(1e6);
export const vector = z.tuple([finite, finite, finite]);
const size = z.number().min(1e-6, { error: 'A size must be above 0' }).max(1e5);
const unit = z
  .tuple([finite, finite, finite, finite])
  .refine((q) => Math.abs(q[0] ** 2 + q[1] ** 2 + q[2] ** 2 + q[3] ** 2 - 1) < 2e-3, {
    error: 'A turn must be a unit quaternion',
  });

/** A joint by its node index in the file, with the name it had, so that a changed file is noticed. */
export const JointRef = z.strictObject({
  node: z.int().min(0).max(1_000_000),
  name: z.string().max(1000),
});
export type JointRef = z.infer<typeof JointRef>;

/**
 * A part of a mesh: a piece that hangs together (numbered by its first vertex, welded), what has a material (by
 * primitive), or what a joint weighs by half or more.
 */
export const MeshRegion = z.discriminatedUnion('by', [
  z.strictObject({ by: z.literal('piece'), piece: z.int().min(0).max(1_000_000) }),
  z.strictObject({ by: z.literal('material'), primitive: z.int().min(0).max(10_000) }),
  z.strictObject({ by: z.literal('joint'), joint: JointRef }),
]);
export type MeshRegion = z.infer<typeof MeshRegion>;

/** Shapes stand about their own origin; sizes in m. */
const ColliderShape = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('sphere'), radius: size }),
  /** Along its own y; `length` is between the two end centres. */
  z.strictObject({ kind: z.literal('capsule'), radius: size, length: z.number().min(0).max(1e5) }),
  /** Whole edge lengths. */
  z.strictObject({ kind: z.literal('box'), size: z.tuple([size, size, size]) }),
  /** The half space below its own x–z plane. */
  z.strictObject({ kind: z.literal('ground') }),
  /** A mesh of the character, by its node, as the source poses and skins it. */
  z.strictObject({
    kind: z.literal('mesh'),
    node: z.int().min(0).max(1_000_000),
    name: z.string().max(1000),
    /** m: fewer triangles that stay so near to it; 0 is the mesh as it is drawn. */
    simplified: z.number().min(0).max(1e4).default(0),
    /** Only a part of it, or all but that part; null is all. */
    part: z.strictObject({ region: MeshRegion, only: z.boolean() }).nullable().default(null),
  }),
]);
export type ColliderShape = z.infer<typeof ColliderShape>;

const PlaceKey = z.strictObject({
  frame: frameNumber,
  t: vector,
  r: unit,
  kind: z.enum(['stepped', 'linear', 'smooth']).default('smooth'),
});

export const Collider = z
  .strictObject({
    id: ColliderId,
    name: documentName,
    order: z.number().default(0),
    muted: z.boolean().default(false),
    shape: ColliderShape,
    /** Where it stands, m: in the world, or in the space of its joint (without that joint's scale). */
    t: vector.default([0, 0, 0]),
    r: unit.default([0, 0, 0, 1]),
    /** The joint it is attached to, or null; a mesh is always attached to its own. */
    attachedTo: JointRef.nullable().default(null),
    /** Keys of t and r; none stands still. */
    keys: z
      .array(PlaceKey)
      .max(5000)
      .refine((keys) => new Set(keys.map((k) => k.frame)).size === keys.length, {
        error: 'Two keys of one collider stand on the same frame',
      })
      .default([]),
    /** Moved by the simulation from where it stands at the start. */
    free: z
      .strictObject({
        /** kg */
        mass: z.number().min(1e-6, { error: 'Mass must be above 0' }).max(1e6),
        /** m/s at the start */
        velocity: vector.default([0, 0, 0]),
        /** rad/s at the start */
        spin: vector.default([0, 0, 0]),
      })
      .nullable()
      .default(null),
    friction: z.number().min(0).max(4).default(0.4),
    bounce: z.number().min(0).max(1).default(0),
    /** The one it was mirrored from or to: its like on the other side of the body. */
    twin: ColliderId.nullable().default(null),
  })
  .refine((c) => !c.free || (c.shape.kind !== 'ground' && c.shape.kind !== 'mesh'), {
    error: 'The ground and a mesh of the character cannot be free',
    path: ['free'],
  });
export type Collider = z.infer<typeof Collider>;

const forceBase = {
  id: ForceId,
  name: documentName,
  order: z.number().default(0),
  muted: z.boolean().default(false),
  /** The parts it acts on. */
  parts: z.union([z.literal('all'), z.array(PartId).max(2000)]).default('all'),
};
const share = z.number().min(0).max(10);

export const Force = z.discriminatedUnion('kind', [
  z.strictObject({
    ...forceBase,
    kind: z.literal('wind'),
    /** Toward where it blows; its length is of no account. */
    direction: vector.default([0, 0, 1]),
    /** m/s */
    speed: z.number().min(0).max(200).default(4),
    /** Share of the speed by which gusts rise and fall. */
    gust: share.default(0.4),
    /** Hz */
    gustFrequency: z.number().min(0).max(20).default(0.5),
    /** Share of the speed that swirls. */
    turbulence: share.default(0.2),
    /** Size of the swirls, m. */
    swirl: size.default(0.5),
    seed: z
      .int()
      .min(0)
      .max(2 ** 31)
      .default(1),
    /** Keys of the speed instead of its value. */
    speedKeys: ValueKeys.default([]),
  }),
  z.strictObject({
    ...forceBase,
    kind: z.literal('burst'),
    frame: frameNumber.default(0),
    /** Frames it lasts. */
    frames: z.number().min(0.1).max(1000).default(3),
    /** m, in the world */
    t: vector.default([0, 0, 0]),
    /** Air speed at its heart, m/s; negative sucks in. */
    speed: z.number().min(-500).max(500).default(20),
    /** Reach, m. */
    radius: size.default(1),
  }),
  z.strictObject({
    ...forceBase,
    kind: z.literal('attractor'),
    t: vector.default([0, 0, 0]),
    /** m/s² at half its reach; negative pushes away. */
    strength: z.number().min(-1000).max(1000).default(5),
    /** m */
    radius: size.default(1),
    strengthKeys: ValueKeys.default([]),
  }),
]);
export type Force = z.infer<typeof Force>;

export const AddedMotionId = documentId.brand('AddedMotionId');

/**
 * A motion of a joint added to what the clip has: it turns about an axis of the joint's own space, or moves along an
 * axis of the world. Steadily, to and fro, with an axis that goes round in a circle, or by keys of its own.
 */
export const AddedMotion = z.strictObject({
  id: AddedMotionId,
  name: documentName,
  order: z.number().default(0),
  muted: z.boolean().default(false),
  joint: JointRef,
  /** Whether it turns the joint or moves it. */
  path: z.enum(['rotation', 'translation']).default('rotation'),
  kind: z.enum(['turn', 'swing', 'circle', 'keys']).default('swing'),
  /** In the joint's own space where it turns, in the world where it moves; a circle goes round across it. */
  axis: vector
    .refine((v) => v.some((x) => x !== 0), { error: 'An axis must point somewhere' })
    .default([1, 0, 0]),
  /** Degrees, or m where it moves: of each time, of a swing to each side, of a circle from its middle. */
  amount: z.number().min(-3600).max(3600).default(15),
  /** Times over the range. */
  count: z.number().min(-1000).max(1000).default(1),
  /** Share of one time by which it is ahead. */
  phase: z.number().min(-10).max(10).default(0),
  /** Degrees or m, of the kind 'keys'. */
  keys: ValueKeys.default([]),
  /** Whether keys begin again after the last. */
  cycles: z.boolean().default(true),
});
export type AddedMotion = z.infer<typeof AddedMotion>;
