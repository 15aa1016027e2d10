/**
 * A character in memory. Arrays are flat; indices are those of the glTF file, so that what we find can be written back.
 */
export interface Character {
  readonly name: string;
  readonly nodes: readonly CharacterNode[];
  /** Every node, parents before children. */
  readonly order: Int32Array;
  readonly skins: readonly Skin[];
  readonly meshes: readonly Mesh[];
  readonly clips: readonly Clip[];
  readonly materials: readonly Material[];
  readonly images: readonly Picture[];
  /** Nodes that can be moved: the joints of every skin, or every node when there is no skin. Ascending. */
  readonly joints: Int32Array;
  /** What was found and what was repaired, in words. */
  readonly notes: readonly Note[];
}

export interface Note {
  readonly kind: 'found' | 'repaired' | 'warning';
  readonly text: string;
}

export interface CharacterNode {
  /** As in the file, or `node N` when it has none. */
  readonly name: string;
  /** -1 for a root. */
  readonly parent: number;
  readonly children: readonly number[];
  /** Rest pose: translation (file units), rotation (x y z w, unit), scale. */
  readonly t: Float64Array;
  readonly r: Float64Array;
  readonly s: Float64Array;
  /** -1 for none. */
  readonly mesh: number;
  readonly skin: number;
}

export interface Skin {
  readonly name: string;
  readonly joints: Int32Array;
  /** 16 numbers a joint, column-major. */
  readonly inverseBind: Float64Array;
}

export interface Mesh {
  readonly name: string;
  readonly primitives: readonly Primitive[];
  /** Rest weights of the morph targets. */
  readonly weights: Float64Array;
}

/** Triangles, or lines; points are left out with a note (they stay in the file). */
export interface Primitive {
  readonly positions: Float32Array;
  readonly normals: Float32Array | null;
  readonly uvs: Float32Array | null;
  /** RGBA, linear, 4 a vertex. */
  readonly colours: Float32Array | null;
  /** 4 a vertex, weights summing to 1. */
  readonly joints: Uint16Array | null;
  readonly weights: Float32Array | null;
  /** Corners of triangles, 3 each. */
  readonly indices: Uint32Array;
  /** Ends of lines, 2 each. */
  readonly lines: Uint32Array;
  readonly material: number;
  /** Position offsets of each morph target. */
  readonly targets: readonly Float32Array[];
}

export interface Material {
  readonly name: string;
  /** RGBA, linear. */
  readonly baseColour: readonly [number, number, number, number];
  /** Index into images, or -1. */
  readonly baseImage: number;
  readonly doubleSided: boolean;
}

/** An encoded picture (PNG, JPEG, WebP) as it stands in the file. */
export interface Picture {
  readonly mimeType: string;
  readonly bytes: Uint8Array;
}

export interface Clip {
  readonly name: string;
  /** Seconds: the last key of any channel. */
  readonly duration: number;
  readonly channels: readonly Channel[];
  /** The clip it adds to, by its index, and the seconds its own time is later; null for one that stands by itself. */
  readonly over: { readonly clip: number; readonly shift: number } | null;
}

export interface Channel {
  readonly node: number;
  readonly path: 'translation' | 'rotation' | 'scale' | 'weights' | 'points';
  readonly interpolation: 'LINEAR' | 'STEP' | 'CUBICSPLINE';
  /** Seconds, ascending; equal times are allowed, the later key counts from that time on. */
  readonly times: Float64Array;
  /** Values a key; three times as many (in-tangent, value, out-tangent) for CUBICSPLINE. */
  readonly values: Float64Array;
  /** Of vertices: their values are how far each is from where its skin has it (m), not its place. */
  readonly off?: true;
}

/** A frame rate read off the clip's keys: the common one whose frames the keys fall on, or 30. */
export function guessFps(clip: Clip | null): number {
  const times = clip?.channels.reduce<Float64Array>(
    (best, c) => (c.times.length > best.length ? c.times : best),
    new Float64Array(0),
  );
  if (!times || times.length < 3) return 30;
  for (const fps of [24, 25, 30, 48, 50, 60, 12, 15, 120]) {
    if (times.every((t) => Math.abs(t * fps - Math.round(t * fps)) < 0.01)) return fps;
  }
  return 30;
}
