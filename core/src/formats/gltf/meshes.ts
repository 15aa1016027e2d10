import type { Mesh, Note, Primitive } from '../../character/index';
import type { AccessorReader } from './accessor';
import type { Container } from './container';
import { fileError } from './fault';
import { decodeDraco, type DracoModule, type DracoPrimitive } from './draco';
import { count, shownName } from './words';
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

/** Whether a piece of a mesh has edges: all but loose points are read, and numbered one after the other. */
export const hasEdges = (p: Pick<RawPrimitive, 'mode'>): boolean => (p.mode ?? 4) >= 1;

/**
 * All meshes: their triangles and lines. Weights are made to sum to 1; a vertex without any follows the first joint.
 */
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
      if (!hasEdges(p)) tally.modes++;
      else {
        const piece = { container, accessors, raw: p, place: `/meshes/${i}/primitives/${k}` };
        const read = readPrimitive(piece, draco, tally);
        if (read) primitives.push(read);
      }
    });
    return { name: shownName(m.name) ?? `mesh ${i}`, primitives, weights: restWeights(m) };
  });
  if (tally.weights)
    notes.push({
      kind: 'repaired',
      text: `${count(tally.weights, 'vertex', 'vertices')} whose weights do not sum to 1: scaled.`,
    });
  if (tally.modes)
    notes.push({
      kind: 'found',
      text: `${count(tally.modes, 'piece')} of points: not drawn, kept in the file.`,
    });
  if (tally.extraInfluences)
    notes.push({
      kind: 'warning',
      text: `${count(tally.extraInfluences, 'piece')} with more than four joints a vertex: drawn with four, kept in the file.`,
    });
  return meshes;
}

const floats = (n: number) => new Float32Array(n);

/** Reads attributes by name, from the file or from what Draco packed; null where there is none. */
type ReadAttribute = <T extends Float32Array | Uint16Array>(
  key: string,
  make: (n: number) => T,
  types: ('VEC2' | 'VEC3' | 'VEC4')[],
  whole?: boolean,
) => T | null;

/** A piece of a mesh being read. */
interface Piece {
  readonly container: Container;
  readonly accessors: AccessorReader;
  readonly raw: RawPrimitive;
  readonly place: string;
}

/** The triangles packed in a piece by Draco; null when it is not packed. */
function unpack(
  { container, accessors, raw, place }: Piece,
  draco: DracoModule | null,
): DracoPrimitive | null {
  const compressed = compressionOf(raw);
  if (typeof compressed?.bufferView !== 'number') return null;
  if (!draco)
    throw fileError(
      container.fileName,
      'file.unsupported',
      'is compressed with Draco, and no decoder is at hand',
      place,
    );
  const declared = accessors.accessor(raw.attributes.POSITION!, place).count;
  const fail = (message: string) => fileError(container.fileName, 'file.invalid', message, place);
  return decodeDraco(draco, accessors.view(compressed.bufferView, place).bytes, declared, fail);
}

const compressionOf = (raw: RawPrimitive) =>
  raw.extensions?.KHR_draco_mesh_compression as
    { bufferView?: unknown; attributes?: Record<string, number> } | undefined;

const attributesOf =
  ({ accessors, raw, place }: Piece, packed: DracoPrimitive | null): ReadAttribute =>
  (key, make, types, whole = false) => {
    const id = raw.attributes[key];
    if (id === undefined) return null;
    const dracoId = compressionOf(raw)?.attributes?.[key];
    const size = types[0] === 'VEC2' ? 2 : types[0] === 'VEC3' ? 3 : 4;
    return packed && dracoId !== undefined
      ? ((packed.attribute(dracoId, size, whole) as ReturnType<typeof make> | null) ?? make(0))
      : accessors.read(id, `${place}/attributes/${key}`, make, types);
  };

/** Corners of triangles and ends of lines as indices of vertices. */
function readIndices(
  { container, accessors, raw, place }: Piece,
  packed: DracoPrimitive | null,
  vertices: number,
): Pick<Primitive, 'indices' | 'lines'> {
  const indices = packed
    ? packed.indices
    : raw.indices !== undefined
      ? accessors.read(raw.indices, `${place}/indices`, (n) => new Uint32Array(n), ['SCALAR'])
      : Uint32Array.from({ length: vertices }, (_, i) => i);
  const beyond = indices.find((i) => i >= vertices);
  if (beyond !== undefined)
    throw fileError(
      container.fileName,
      'file.invalid',
      `has index ${beyond} beyond its ${vertices} vertices`,
      place,
    );
  const mode = raw.mode ?? 4;
  const none = new Uint32Array(0);
  return mode < 4
    ? { indices: none, lines: lines(indices, mode) }
    : { indices: triangles(indices, mode), lines: none };
}

/** Morph targets: how far each vertex goes; one that says nothing moves nothing. */
const readTargets = ({ accessors, raw, place }: Piece, size: number): Float32Array[] =>
  (raw.targets ?? []).map((t, k) => {
    const read =
      t.POSITION === undefined ? null : accessors.read(t.POSITION, `${place}/targets/${k}`, floats, ['VEC3']);
    return read && read.length === size ? read : new Float32Array(size);
  });

function readPrimitive(piece: Piece, draco: DracoModule | null, tally: Tally): Primitive | null {
  const { container, accessors, raw, place } = piece;
  const a = raw.attributes;
  if (a.POSITION === undefined) return null;
  const packed = unpack(piece, draco);
  try {
    const attribute = attributesOf(piece, packed);
    const positions = attribute('POSITION', floats, ['VEC3'])!;
    const vertices = positions.length / 3;
    if (packed && positions.some((x) => !Number.isFinite(x)))
      throw fileError(container.fileName, 'file.invalid', 'holds a position that is not a number', place);
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
    return {
      positions,
      normals: same(attribute('NORMAL', floats, ['VEC3']), 3),
      uvs: same(attribute('TEXCOORD_0', floats, ['VEC2']), 2),
      colours,
      joints: joints && weights ? joints : null,
      weights: joints && weights ? weights : null,
      ...readIndices(piece, packed, vertices),
      material:
        raw.material !== undefined && raw.material < (container.json.materials?.length ?? 0)
          ? raw.material
          : -1,
      targets: readTargets(piece, positions.length),
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

/** A list of lines from single ones (1), a loop (2) or a strip (3). */
function lines(indices: Uint32Array, mode: number): Uint32Array {
  if (mode === 1) return indices.subarray(0, indices.length - (indices.length % 2));
  const out: number[] = [];
  for (let i = 0; i + 1 < indices.length; i++) out.push(indices[i]!, indices[i + 1]!);
  if (mode === 2 && indices.length > 2) out.push(indices.at(-1)!, indices[0]!);
  return Uint32Array.from(out);
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
