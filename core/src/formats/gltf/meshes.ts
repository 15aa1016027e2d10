import type { Mesh, Note, Primitive } from '../../character/index';
import type { AccessorReader } from './accessor';
import { fileError, type Container } from './container';
import { decodeDraco, type DracoModule, type DracoPrimitive } from './draco';
import { count } from './words';
import type { GltfJson } from './schema';

type RawPrimitive = NonNullable<GltfJson['meshes']>[number]['primitives'][number];

interface Tally {
  weights: number;
  modes: number;
  extraInfluences: number;
}

/** Meshes by their names and morph targets alone, without a triangle. */
export const readMeshNames = ({ json }: Container): Mesh[] =>
  (json.meshes ?? []).map((m, i) => ({
    name: m.name ?? `mesh ${i}`,
    primitives: [],
    weights: restWeights(m),
  }));

/** The weights of a mesh at rest: one for each of its morph targets, 0 where the file says nothing. */
function restWeights(m: NonNullable<Container['json']['meshes']>[number]): Float64Array {
  const targets = Math.max(0, ...m.primitives.map((p) => p.targets?.length ?? 0));
  const weights = new Float64Array(targets);
  weights.set((m.weights ?? []).slice(0, targets));
  return weights;
}

/** All meshes, triangles only. Weights are made to sum to 1; a vertex without any follows the first joint. */
export function readMeshes(
  container: Container,
  accessors: AccessorReader,
  draco: DracoModule | null,
  notes: Note[],
): Mesh[] {
  const tally: Tally = { weights: 0, modes: 0, extraInfluences: 0 };
  const meshes = (container.json.meshes ?? []).map((m, i): Mesh => {
    const primitives: Primitive[] = [];
    m.primitives.forEach((p, k) => {
      const mode = p.mode ?? 4;
      if (mode < 4) tally.modes++;
      else {
        const read = readPrimitive(
          container,
          accessors,
          draco,
          p,
          mode,
          `/meshes/${i}/primitives/${k}`,
          tally,
        );
        if (read) primitives.push(read);
      }
    });
    return { name: m.name ?? `mesh ${i}`, primitives, weights: restWeights(m) };
  });
  if (tally.weights)
    notes.push({
      kind: 'repaired',
      text: `${count(tally.weights, 'vertex', 'vertices')} whose weights do not sum to 1: scaled.`,
    });
  if (tally.modes)
    notes.push({
      kind: 'found',
      text: `${count(tally.modes, 'piece')} of points or lines: not drawn, kept in the file.`,
    });
  if (tally.extraInfluences)
    notes.push({
      kind: 'warning',
      text: `${count(tally.extraInfluences, 'piece')} with more than four joints a vertex: drawn with four, kept in the file.`,
    });
  return meshes;
}

const floats = (n: number) => new Float32Array(n);

function readPrimitive(
  container: Container,
  accessors: AccessorReader,
  draco: DracoModule | null,
  p: RawPrimitive,
  mode: number,
  place: string,
  tally: Tally,
): Primitive | null {
  const a = p.attributes;
  if (a.POSITION === undefined) return null;
  const fail = (message: string) => fileError(container.fileName, 'file.invalid', message, place);
  const compressed = p.extensions?.KHR_draco_mesh_compression as
    { bufferView?: unknown; attributes?: Record<string, number> } | undefined;
  const declared = accessors.accessor(a.POSITION, place).count;
  let packed: DracoPrimitive | null = null;
  if (compressed && typeof compressed.bufferView === 'number') {
    if (!draco)
      throw fileError(
        container.fileName,
        'file.unsupported',
        'is compressed with Draco, and no decoder is at hand',
        place,
      );
    packed = decodeDraco(draco, accessors.view(compressed.bufferView, place).bytes, declared, fail);
  }
  try {
    const attribute = <T extends Float32Array | Uint16Array>(
      key: string,
      make: (n: number) => T,
      types: ('VEC2' | 'VEC3' | 'VEC4')[],
      whole = false,
    ): T | null => {
      const id = a[key];
      if (id === undefined) return null;
      const dracoId = compressed?.attributes?.[key];
      const size = types[0] === 'VEC2' ? 2 : types[0] === 'VEC3' ? 3 : 4;
      const out =
        packed && dracoId !== undefined
          ? ((packed.attribute(dracoId, size, whole) as T | null) ?? make(0))
          : accessors.read(id, `${place}/attributes/${key}`, make, types);
      return out;
    };
    const positions = attribute('POSITION', floats, ['VEC3'])!;
    const vertices = positions.length / 3;
    if (packed && positions.some((x) => !Number.isFinite(x)))
      throw fail('holds a position that is not a number');
    const same = <T extends { length: number } | null>(x: T, size: number): T | null =>
      x && x.length === vertices * size ? x : null;
    const joints = same(
      attribute('JOINTS_0', (n) => new Uint16Array(n), ['VEC4'], true),
      4,
    );
    const weights = same(attribute('WEIGHTS_0', floats, ['VEC4']), 4);
    if (a.JOINTS_1 !== undefined) tally.extraInfluences++;
    if (joints && weights) tally.weights += normaliseWeights(weights);
    const colourSize =
      a.COLOR_0 === undefined ? 4 : accessors.accessor(a.COLOR_0, place).type === 'VEC3' ? 3 : 4;
    let colours = same(attribute('COLOR_0', floats, colourSize === 3 ? ['VEC3'] : ['VEC4']), colourSize);
    if (colours && colourSize === 3) colours = withAlpha(colours);
    let indices: Uint32Array;
    if (packed) indices = packed.indices;
    else if (p.indices !== undefined)
      indices = accessors.read(p.indices, `${place}/indices`, (n) => new Uint32Array(n), ['SCALAR']);
    else indices = Uint32Array.from({ length: vertices }, (_, i) => i);
    for (let i = 0; i < indices.length; i++)
      if (indices[i]! >= vertices) throw fail(`has index ${indices[i]} beyond its ${vertices} vertices`);
    return {
      positions,
      normals: same(attribute('NORMAL', floats, ['VEC3']), 3),
      uvs: same(attribute('TEXCOORD_0', floats, ['VEC2']), 2),
      colours,
      joints: joints && weights ? joints : null,
      weights: joints && weights ? weights : null,
      indices: triangles(indices, mode),
      material:
        p.material !== undefined && p.material < (container.json.materials?.length ?? 0) ? p.material : -1,
      targets: (p.targets ?? []).map((t, k) => {
        const read =
          t.POSITION === undefined
            ? null
            : accessors.read(t.POSITION, `${place}/targets/${k}`, floats, ['VEC3']);
        return read && read.length === positions.length ? read : new Float32Array(positions.length);
      }),
    };
  } finally {
    packed?.free();
  }
}

/** Scales each vertex's four weights to sum to 1, in place. Returns how many were off by more than 1 %. */
function normaliseWeights(weights: Float32Array): number {
  let off = 0;
  for (let i = 0; i < weights.length; i += 4) {
    const sum = weights[i]! + weights[i + 1]! + weights[i + 2]! + weights[i + 3]!;
    if (Math.abs(sum - 1) > 0.01) off++;
    if (sum > 0) for (let k = 0; k < 4; k++) weights[i + k]! /= sum;
    else weights[i] = 1;
  }
  return off;
}

function withAlpha(rgb: Float32Array): Float32Array<ArrayBuffer> {
  const out = new Float32Array((rgb.length / 3) * 4);
  for (let i = 0, o = 0; i < rgb.length; i += 3, o += 4) {
    out.set(rgb.subarray(i, i + 3), o);
    out[o + 3] = 1;
  }
  return out;
}

/** A list of triangles from triangles (4), a strip (5) or a fan (6). */
function triangles(indices: Uint32Array, mode: number): Uint32Array {
  if (mode === 4) return indices.subarray(0, indices.length - (indices.length % 3));
  const out: number[] = [];
  for (let i = 0; i + 2 < indices.length; i++) {
    if (mode === 5) out.push(indices[i]!, indices[i + 1 + (i % 2)]!, indices[i + 2 - (i % 2)]!);
    else out.push(indices[0]!, indices[i + 1]!, indices[i + 2]!);
  }
  return Uint32Array.from(out);
}
