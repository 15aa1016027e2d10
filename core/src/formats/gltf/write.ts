import type { Channel, Clip } from '../../character/index';
import { OscillumError } from '../../model/index';
import type { Container } from './container';
import { fileError, LIMITS } from './fault';
import type { GltfJson } from './schema';

/** Keys of one node and path, to be written as float32; times never negative. Weights hold all targets of a mesh. */
export type BakedChannel = Channel;

/** Strands of a part that move point by point: they are no mesh, so a GLB does not hold them. */
export interface BakedCurves {
  /** The part that they are, and its name. */
  readonly part: string;
  readonly name: string;
  /** The node of the mesh that they grow on. */
  readonly node: number;
  /** Points of each strand. */
  readonly counts: readonly number[];
  /** Width at root and tip, m, and colours there, linear RGB 0..1. */
  readonly widths: readonly [number, number];
  readonly colours: readonly [readonly number[], readonly number[]];
  /** s, and places of all points at each, m, 3 numbers a point. */
  readonly times: Float64Array;
  readonly values: Float64Array;
}

export interface BakedClip {
  readonly name: string;
  readonly channels: readonly BakedChannel[];
  readonly curves?: readonly BakedCurves[];
  /** The clip whose other channels are carried over, or -1. */
  readonly source: number;
  /** The clip it adds to, where it does. */
  readonly over?: Clip['over'];
  /** Take the place of the source clip instead of standing beside it. */
  readonly replace: boolean;
  /** Seconds added to every key carried over, so that a range that begins before 0 begins at 0. */
  readonly shift: number;
  /** Kept in the clip's extras. */
  readonly extras: Record<string, unknown>;
}

/** Type of a channel's output, and numbers in one element of it. */
const SHAPES = {
  rotation: ['VEC4', 4],
  translation: ['VEC3', 3],
  scale: ['VEC3', 3],
  weights: ['SCALAR', 1],
} as const;

/**
 * Writes a container with one clip added or replaced, as a GLB. Everything else is the file's own JSON and bytes,
 * carried over as they stand: the glTF SDK would drop extensions it does not know and re-encode compressed data.
 */
export function writeGlb(container: Container, clip: BakedClip): Uint8Array<ArrayBuffer> {
  const json = structuredClone(container.json) as GltfJson;
  const pieces = ownBinary(container, json);
  const tail = new Tail(json, pieces);

  const source = clip.source >= 0 ? json.animations?.[clip.source] : undefined;
  const taken = new Set(clip.channels.map((c) => `${c.node}/${c.path}`));
  const samplers: { input: number; output: number; interpolation?: string }[] = [];
  const channels: { sampler: number; target: Record<string, unknown> }[] = [];
  const carried = new Map<number, number>();
  const shifted = new Map<number, number>();
  for (const c of source?.channels ?? []) {
    if (taken.has(`${c.target.node}/${c.target.path}`)) continue;
    let at = carried.get(c.sampler);
    if (at === undefined) {
      const sampler = { ...source!.samplers[c.sampler]! };
      let input = shifted.get(sampler.input);
      if (input === undefined) {
        const times = timesOf(container, sampler.input);
        const even = times && separated(times);
        if (clip.shift !== 0 && !even) throw packedTimes();
        const same = clip.shift === 0 && (!even || even.every((t, k) => t === times![k]));
        input = same
          ? sampler.input
          : tail.add(
              even!.map((t) => t + clip.shift),
              'SCALAR',
              1,
              true,
            );
        shifted.set(sampler.input, input);
      }
      sampler.input = input;
      at = samplers.push(sampler) - 1;
      carried.set(c.sampler, at);
    }
    channels.push({ ...c, sampler: at });
  }
  const inputs = new Map<string, number>();
  for (const c of clip.channels) {
    const key = c.times.join(' ');
    let input = inputs.get(key);
    if (input === undefined) {
      input = tail.add(c.times, 'SCALAR', 1, true);
      inputs.set(key, input);
    }
    if (c.path === 'points') throw noPoints(container, c.node);
    const [type, width] = SHAPES[c.path];
    const output = tail.add(c.values, type, width, false);
    channels.push({
      sampler: samplers.push({ input, output, interpolation: c.interpolation }) - 1,
      target: { node: c.node, path: c.path },
    });
  }
  const extras = { ...(clip.replace ? (source?.extras as object | undefined) : undefined), ...clip.extras };
  const animation = { ...(clip.replace ? source : {}), name: clip.name, channels, samplers, extras };
  json.animations ??= [];
  if (clip.replace && source) json.animations[clip.source] = animation as (typeof json.animations)[number];
  else json.animations.push(animation as (typeof json.animations)[number]);
  return pack(json, pieces, container.fileName);
}

/** Key times of an accessor of floats; null where they cannot be read here. */
function timesOf({ json, buffers }: Container, accessor: number): Float64Array | null {
  const a = json.accessors?.[accessor];
  const v = json.bufferViews?.[a?.bufferView ?? -1];
  const bytes = v && buffers[v.buffer];
  if (!a || a.componentType !== 5126 || !bytes || v.extensions || a.sparse) return null;
  const view = new DataView(bytes.buffer, bytes.byteOffset + (v.byteOffset ?? 0) + (a.byteOffset ?? 0));
  const stride = v.byteStride || 4;
  return Float64Array.from({ length: a.count }, (_, i) => view.getFloat32(i * stride, true));
}

/** Times of which no two are the same, as glTF asks: of two keys at one time the earlier comes a trifle before. */
function separated(times: Float64Array): Float64Array {
  const out = Float64Array.from(times);
  for (let k = out.length - 2; k >= 0; k--)
    if (out[k] === out[k + 1]) out[k] = Math.fround(out[k + 1]! - Math.max(1e-6, out[k + 1]! * 2 ** -22));
  return out;
}

const packedTimes = () =>
  new OscillumError(
    'bake.invalid',
    'A range that begins before frame 0 cannot be written into this compressed file',
    '',
    'Begin the range at frame 0.',
  );

const noPoints = ({ json }: Container, node: number) =>
  new OscillumError(
    'bake.invalid',
    `glTF has no keys for the vertices of ${json.nodes?.[node]?.name ?? `node ${node}`}`,
    '',
    'Fit them onto joints or morph targets first.',
  );

/** The same asset as a GLB with nothing changed. */
export function toGlb(container: Container): Uint8Array<ArrayBuffer> {
  const json = structuredClone(container.json) as GltfJson;
  return pack(json, ownBinary(container, json), container.fileName);
}

/**
 * The bytes of the GLB's binary chunk as pieces. When the file came with its buffers and pictures beside it they
 * are brought in and the JSON (ours to change) is pointed at them; a GLB's own chunk stays as it is.
 */
export function ownBinary(container: Container, json: GltfJson): Uint8Array[] {
  const outside = (json.images ?? []).some((i) => i.uri !== undefined && !i.uri.startsWith('data:'));
  if (container.binaryChunk && !outside) return [container.buffers[0]!];
  const pieces: Uint8Array[] = [];
  const starts: number[] = [];
  const kept: NonNullable<GltfJson['buffers']> = [];
  let at = 0;
  const append = (bytes: Uint8Array) => {
    const start = at;
    pieces.push(bytes);
    at += bytes.length;
    const rest = (4 - (at % 4)) % 4;
    if (rest) pieces.push(new Uint8Array(rest));
    at += rest;
    return start;
  };
  const index = container.buffers.map((b, i) => {
    if (!b) {
      starts.push(0);
      return kept.push(json.buffers![i]!);
    }
    starts.push(append(b));
    return 0;
  });
  const repoint = (v: { buffer: number; byteOffset?: number | undefined }) => {
    const offset = (v.byteOffset ?? 0) + starts[v.buffer]!;
    if (offset) v.byteOffset = offset;
    v.buffer = index[v.buffer]!;
  };
  for (const v of json.bufferViews ?? []) {
    repoint(v);
    for (const key of ['EXT_meshopt_compression', 'KHR_meshopt_compression']) {
      const packed = v.extensions?.[key] as { buffer: number; byteOffset?: number } | undefined;
      if (packed) repoint(packed);
    }
  }
  for (const [i, image] of (json.images ?? []).entries()) {
    if (image.uri === undefined || image.uri.startsWith('data:')) continue;
    const bytes = container.resource(image.uri);
    if (!bytes)
      throw fileError(
        container.fileName,
        'file.missing-resource',
        `needs the picture ${image.uri.slice(0, 100)}, which is not there`,
        `/images/${i}`,
        'Zip the .gltf together with its pictures, and open the zip.',
      );
    const view = { buffer: 0, byteOffset: append(bytes), byteLength: bytes.length };
    (json.bufferViews ??= []).push(view);
    image.mimeType ??= /\.jpe?g$/i.test(image.uri)
      ? 'image/jpeg'
      : /\.webp$/i.test(image.uri)
        ? 'image/webp'
        : 'image/png';
    image.name ??= image.uri;
    delete image.uri;
    image.bufferView = json.bufferViews.length - 1;
  }
  json.buffers = [{ byteLength: at }, ...kept];
  return pieces;
}

/** The target of a buffer view that holds data of vertices. */
const ARRAY_BUFFER = 34962;

/** The lowest and highest of places, 3 numbers each, as float32 has them. */
function boundsOf(values: Float64Array): { min: number[]; max: number[] } {
  const bound = (pick: (...of: number[]) => number) =>
    [0, 1, 2].map((a) => {
      let out = Math.fround(values[a] ?? 0);
      for (let k = a; k < values.length; k += 3) out = pick(out, Math.fround(values[k]!));
      return out;
    });
  return { min: bound(Math.min), max: bound(Math.max) };
}

/** Appends accessors to the binary chunk. */
export class Tail {
  private at: number;
  constructor(
    private readonly json: GltfJson,
    private readonly pieces: Uint8Array[],
  ) {
    this.at = pieces.reduce((n, p) => n + p.length, 0);
    const rest = (4 - (this.at % 4)) % 4;
    if (rest) pieces.push(new Uint8Array(rest));
    this.at += rest;
    json.buffers ??= [];
    if (json.buffers.length === 0) json.buffers.push({ byteLength: 0 });
    json.bufferViews ??= [];
    json.accessors ??= [];
  }

  /** What moves vertices or turns their normals, 3 numbers each. */
  addVertices(values: Float64Array): number {
    const at = this.add(values, 'VEC3', 3, false);
    this.json.bufferViews![this.json.accessors![at]!.bufferView!]!.target = ARRAY_BUFFER;
    return at;
  }

  /** Places of vertices with their bounds, as what moves positions must have. */
  addPlaces(values: Float64Array): number {
    const at = this.addVertices(values);
    Object.assign(this.json.accessors![at]!, boundsOf(values));
    return at;
  }

  /** 3 numbers a vertex, of which those that are not 0 stand in the file, with what vertices they are of. */
  addFew(values: Float64Array, bounds: boolean): number {
    const few: number[] = [];
    for (let v = 0; v < values.length; v += 3)
      if (values[v] !== 0 || values[v + 1] !== 0 || values[v + 2] !== 0) few.push(v / 3);
    // A sparse accessor has one value at least.
    if (few.length === 0) few.push(0);
    const kept = Float64Array.from(
      few.flatMap((v) => [values[3 * v]!, values[3 * v + 1]!, values[3 * v + 2]!]),
    );
    const full = this.add(kept, 'VEC3', 3, false);
    const accessor = this.json.accessors![full]!;
    const own = accessor.bufferView!;
    delete accessor.bufferView;
    if (bounds) Object.assign(accessor, boundsOf(values));
    const indices = this.view(new Uint8Array(Uint32Array.from(few).buffer));
    accessor.count = values.length / 3;
    accessor.sparse = {
      count: few.length,
      indices: { bufferView: indices, componentType: 5125 },
      values: { bufferView: own },
    };
    return full;
  }

  private view(bytes: Uint8Array): number {
    const view =
      this.json.bufferViews!.push({ buffer: 0, byteOffset: this.at, byteLength: bytes.length }) - 1;
    this.pieces.push(bytes);
    this.at += bytes.length;
    this.json.buffers![0]!.byteLength = this.at;
    return view;
  }

  /** Values as float32, or as whole numbers of another width. */
  add(
    values: Float64Array,
    type: 'SCALAR' | 'VEC2' | 'VEC3' | 'VEC4' | 'MAT4',
    size: number,
    withBounds: boolean,
    Kind: typeof Float32Array | typeof Uint16Array = Float32Array,
  ): number {
    const data: Float32Array | Uint16Array = Kind.from(values);
    const numbers = Array.from<number>(data);
    if (values.some((x) => !Number.isFinite(Math.fround(x))))
      throw new OscillumError(
        'bake.invalid',
        'The simulated motion holds a value that is not a number',
        '',
        'Undo the last change and bake again.',
      );
    const view = this.view(new Uint8Array(data.buffer as ArrayBuffer));
    const accessor = {
      bufferView: view,
      componentType: Kind === Uint16Array ? (5123 as const) : (5126 as const),
      count: data.length / size,
      type,
      ...(withBounds
        ? { min: [numbers.reduce((a, b) => Math.min(a, b))], max: [numbers.reduce((a, b) => Math.max(a, b))] }
        : {}),
    };
    return this.json.accessors!.push(accessor) - 1;
  }
}

export function pack(
  json: GltfJson,
  pieces: readonly Uint8Array[],
  fileName: string,
): Uint8Array<ArrayBuffer> {
  const binary = pieces.reduce((n, p) => n + p.length, 0);
  const padded = binary + ((4 - (binary % 4)) % 4);
  const text = new TextEncoder().encode(JSON.stringify(json));
  const jsonLength = text.length + ((4 - (text.length % 4)) % 4);
  const total = 12 + 8 + jsonLength + (padded ? 8 + padded : 0);
  if (total > LIMITS.fileBytes)
    throw fileError(
      fileName,
      'file.too-large',
      `would be larger than ${LIMITS.fileBytes / 2 ** 20} MiB with what is added`,
      '',
      'Bake fewer frames, or every second one.',
    );
  const out = new Uint8Array(total);
  const view = new DataView(out.buffer);
  view.setUint32(0, 0x46546c67, true);
  view.setUint32(4, 2, true);
  view.setUint32(8, total, true);
  view.setUint32(12, jsonLength, true);
  view.setUint32(16, 0x4e4f534a, true);
  out.fill(0x20, 20, 20 + jsonLength);
  out.set(text, 20);
  if (padded) {
    let at = 20 + jsonLength;
    view.setUint32(at, padded, true);
    view.setUint32(at + 4, 0x004e4942, true);
    at += 8;
    for (const p of pieces) {
      out.set(p, at);
      at += p.length;
    }
  }
  return out;
}
