import { matInvert } from '../math/index';
import type { Character, Primitive } from './character';

const joint = new Float64Array(16);

/** Vertices of a mesh node, all primitives in a row: how many, and the triangles with indices into them. */
export function meshTriangles(
  character: Character,
  node: number,
): { vertices: number; indices: Uint32Array } {
  const primitives = primitivesOf(character, node);
  const indices = new Uint32Array(primitives.reduce((n, p) => n + p.indices.length, 0));
  let vertices = 0;
  let at = 0;
  for (const p of primitives) {
    for (const i of p.indices) indices[at++] = i + vertices;
    vertices += p.positions.length / 3;
  }
  return { vertices, indices };
}

function primitivesOf(character: Character, node: number): readonly Primitive[] {
  return character.meshes[character.nodes[node]?.mesh ?? -1]?.primitives ?? [];
}

/**
 * Places of a mesh node's vertices in the world, m, as the pose has them: skinned where the node has a skin (linear
 * blend skinning as in glTF 2.0), else carried by the node. Morph targets are left out. `world` holds 16 numbers a
 * node.
 */
export function skinVertices(
  out: Float64Array,
  character: Character,
  node: number,
  world: Float64Array,
): void {
  eachVertex(character, node, world, (at, p, v, m, o) => {
    for (let r = 0; r < 3; r++)
      out[at + r] =
        m[o + r]! * p[v]! + m[o + 4 + r]! * p[v + 1]! + m[o + 8 + r]! * p[v + 2]! + m[o + 12 + r]!;
  });
}

/**
 * The other way: where each vertex of a mesh node would have to stand before it is skinned, in the file's units,
 * to come to `places` (m, 3 numbers a vertex) in this pose, less where it stands at rest. A vertex whose joints leave
 * it no way back (scaled flat) gets 0.
 */
export function unskinVertices(
  out: Float64Array,
  places: ArrayLike<number>,
  character: Character,
  node: number,
  world: Float64Array,
): void {
  eachVertex(character, node, world, (at, p, v, m, o) => {
    if (!matInvert(back, 0, m, o)) return out.fill(0, at, at + 3);
    for (let r = 0; r < 3; r++)
      out[at + r] =
        back[r]! * places[at]! +
        back[4 + r]! * places[at + 1]! +
        back[8 + r]! * places[at + 2]! +
        back[12 + r]! -
        p[v + r]!;
  });
}

/** Skins vertices that stand off their rest by `moves` (file units, 3 numbers a vertex), as morph targets move them. */
export function skinMoved(
  out: Float64Array,
  moves: ArrayLike<number>,
  character: Character,
  node: number,
  world: Float64Array,
): void {
  eachVertex(character, node, world, (at, p, v, m, o) => {
    const [x, y, z] = [0, 1, 2].map((a) => p[v + a]! + moves[at + a]!) as [number, number, number];
    for (let r = 0; r < 3; r++)
      out[at + r] = m[o + r]! * x + m[o + 4 + r]! * y + m[o + 8 + r]! * z + m[o + 12 + r]!;
  });
}

/** The same as `skinVertices`, with morph targets at some weights; those of the mesh's rest where there are none. */
export function morphedVertices(
  out: Float64Array,
  character: Character,
  node: number,
  world: Float64Array,
  weights: ArrayLike<number> | undefined,
): void {
  const moves = new Float64Array(out.length);
  if (addMorphs(moves, character, node, weights)) skinMoved(out, moves, character, node, world);
  else skinVertices(out, character, node, world);
}

/**
 * Adds what morph targets at some weights (those of the mesh's rest where there are none) move its vertices by, file
 * units. Returns whether any does.
 */
export function addMorphs(
  moves: Float64Array,
  character: Character,
  node: number,
  weights: ArrayLike<number> | undefined,
): boolean {
  const mesh = character.meshes[character.nodes[node]?.mesh ?? -1];
  const at = weights ?? mesh?.weights ?? [];
  if (!mesh || !Array.from(at).some((w) => w !== 0)) return false;
  let from = 0;
  for (const p of mesh.primitives) {
    p.targets.forEach((target, t) => {
      const w = at[t] ?? 0;
      if (w !== 0) for (let k = 0; k < target.length; k++) moves[from + k]! += w * target[k]!;
    });
    from += p.positions.length;
  }
  return true;
}

/**
 * The other way for how far vertices are off their skin (m in the world, 3 numbers each): how far they would have to
 * be off their rest before they are skinned, in the file's units. What is not off stays 0.
 */
export function unskinMoves(
  out: Float64Array,
  off: ArrayLike<number>,
  character: Character,
  node: number,
  world: Float64Array,
): void {
  eachVertex(character, node, world, (at, _, __, m, o) => {
    const [x, y, z] = [off[at]!, off[at + 1]!, off[at + 2]!];
    if ((x === 0 && y === 0 && z === 0) || !matInvert(back, 0, m, o)) return out.fill(0, at, at + 3);
    for (let r = 0; r < 3; r++) out[at + r] = back[r]! * x + back[4 + r]! * y + back[8 + r]! * z;
  });
}

const back = new Float64Array(16);

/** Visits all vertices with the matrix (at `o` in `m`) that takes each from its own place `v` in `p` to the world. */
function eachVertex(
  character: Character,
  node: number,
  world: Float64Array,
  visit: (at: number, p: Float32Array, v: number, m: Float64Array, o: number) => void,
): void {
  const skin = character.skins[character.nodes[node]?.skin ?? -1];
  const matrices = skin ? new Float64Array(16 * skin.joints.length) : null;
  if (skin && matrices)
    skin.joints.forEach((j, s) => {
      for (let c = 0; c < 4; c++)
        for (let r = 0; r < 4; r++) {
          let sum = 0;
          for (let k = 0; k < 4; k++)
            sum += world[16 * j + 4 * k + r]! * skin.inverseBind[16 * s + 4 * c + k]!;
          matrices[16 * s + 4 * c + r] = sum;
        }
    });
  let at = 0;
  for (const p of primitivesOf(character, node)) {
    for (let v = 0; v < p.positions.length; v += 3, at += 3) {
      let m: Float64Array = world;
      let o = 16 * node;
      if (matrices && p.joints && p.weights) {
        joint.fill(0);
        const w = (4 * v) / 3;
        for (let k = 0; k < 4; k++) {
          const weight = p.weights[w + k]!;
          if (weight === 0) continue;
          const from = 16 * p.joints[w + k]!;
          for (let e = 0; e < 16; e++) joint[e]! += weight * matrices[from + e]!;
        }
        m = joint;
        o = 0;
      }
      visit(at, p.positions, v, m, o);
    }
  }
}
