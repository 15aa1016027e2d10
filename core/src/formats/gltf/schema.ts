import { z } from 'zod';

/**
 * The part of glTF 2.0 JSON that is read; everything else passes through untouched (loose objects).
 * Bounds on counts are ours: beyond them a file is refused rather than a machine filled.
 */
const index = z.int().min(0).max(10_000_000);
const name = z.string().max(100_000).optional();
const finite = z.number();
const extensions = z.record(z.string(), z.looseObject({})).optional();
const list = <T extends z.ZodType>(item: T, most: number, what: string) =>
  z
    .array(item)
    .max(most, { error: `it claims more than ${most} ${what}` })
    .optional();

const Accessor = z.looseObject({
  bufferView: index.optional(),
  byteOffset: z.int().min(0).optional(),
  componentType: z.literal([5120, 5121, 5122, 5123, 5125, 5126], {
    error: 'an accessor has an unknown component type',
  }),
  normalized: z.boolean().optional(),
  count: z.int().min(0).max(100_000_000),
  type: z.enum(['SCALAR', 'VEC2', 'VEC3', 'VEC4', 'MAT2', 'MAT3', 'MAT4'], {
    error: 'an accessor has an unknown type',
  }),
  sparse: z
    .looseObject({
      count: z.int().min(0).max(100_000_000),
      indices: z.looseObject({
        bufferView: index,
        byteOffset: z.int().min(0).optional(),
        componentType: z.literal([5121, 5123, 5125]),
      }),
      values: z.looseObject({ bufferView: index, byteOffset: z.int().min(0).optional() }),
    })
    .optional(),
});
export type Accessor = z.infer<typeof Accessor>;

const BufferView = z.looseObject({
  buffer: index,
  byteOffset: z.int().min(0).optional(),
  byteLength: z.int().min(0),
  byteStride: z.int().min(0).max(1024).optional(),
  extensions,
});

const Node = z.looseObject({
  name,
  children: z.array(index).optional(),
  matrix: z.array(finite).length(16).optional(),
  translation: z.array(finite).length(3).optional(),
  rotation: z.array(finite).length(4).optional(),
  scale: z.array(finite).length(3).optional(),
  mesh: index.optional(),
  skin: index.optional(),
  weights: z.array(finite).max(100_000).optional(),
});

const Primitive = z.looseObject({
  attributes: z.record(z.string(), index),
  indices: index.optional(),
  material: index.optional(),
  mode: z.int().min(0).max(6).optional(),
  targets: z.array(z.record(z.string(), index)).max(10_000).optional(),
  extensions,
});

const Animation = z.looseObject({
  name,
  channels: z
    .array(
      z.looseObject({
        sampler: index,
        target: z.looseObject({ node: index.optional(), path: z.string().max(100) }),
      }),
    )
    .max(1_000_000),
  samplers: z
    .array(z.looseObject({ input: index, output: index, interpolation: z.string().max(100).optional() }))
    .max(1_000_000),
  extras: z.unknown().optional(),
});

export const GltfJson = z.looseObject({
  asset: z.looseObject(
    { version: z.string({ error: 'it has no asset version' }).max(100) },
    { error: 'it has no asset' },
  ),
  scene: index.optional(),
  scenes: list(z.looseObject({ nodes: z.array(index).optional() }), 10_000, 'scenes'),
  nodes: list(Node, 200_000, 'nodes'),
  meshes: list(
    z.looseObject({
      name,
      primitives: z.array(Primitive).max(10_000),
      weights: z.array(finite).max(100_000).optional(),
    }),
    100_000,
    'meshes',
  ),
  skins: list(
    z.looseObject({
      name,
      joints: z.array(index).max(200_000, { error: 'it claims more than 200000 joints' }),
      inverseBindMatrices: index.optional(),
    }),
    10_000,
    'skins',
  ),
  animations: list(Animation, 10_000, 'clips'),
  accessors: list(Accessor, 2_000_000, 'accessors'),
  bufferViews: list(BufferView, 2_000_000, 'buffer views'),
  buffers: list(
    z.looseObject({ uri: z.string().optional(), byteLength: z.int().min(0), extensions }),
    10_000,
    'buffers',
  ),
  materials: list(
    z.looseObject({
      name,
      doubleSided: z.boolean().optional(),
      pbrMetallicRoughness: z
        .looseObject({
          baseColorFactor: z.array(finite).length(4).optional(),
          baseColorTexture: z.looseObject({ index }).optional(),
        })
        .optional(),
    }),
    100_000,
    'materials',
  ),
  textures: list(z.looseObject({ source: index.optional(), extensions }), 100_000, 'textures'),
  images: list(
    z.looseObject({
      uri: z.string().optional(),
      bufferView: index.optional(),
      mimeType: z.string().max(200).optional(),
    }),
    100_000,
    'pictures',
  ),
  extensionsUsed: z.array(z.string().max(200)).max(1000).optional(),
  extensionsRequired: z.array(z.string().max(200)).max(1000).optional(),
});
export type GltfJson = z.infer<typeof GltfJson>;
