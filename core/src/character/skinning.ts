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

/** Lines of a mesh node, ends as vertices of all its primitives in a row: 2 each. */
export function meshLines(character: Character, node: number): number[] {
  let vertices = 0;
  return primitivesOf(character, node).flatMap((p) => {
    const own = Array.from(p.lines, (i) => i + vertices);
    vertices += p.positions.length / 3;
    return own;
  });
}

function primitivesOf(character: Character, node: number): readonly Primitive[] {
  return character.meshes[character.nodes[node]?.mesh ?? -1]?.primitives ?? [];
}

/**
 * Places of a mesh node's vertices in the world, m, as the pose has them: skinned where the node has a skin (linear
 * blend skinning as in glTF 2.0), else carried by the node. Morph targets are left out. `world` holds 16 numbers a
 * node. With `only` (rising) the places of those vertices alone are found, each where it stands among all.
 */
export function skinVertices(
  out: Float64Array,
  character: Character,
  node: number,
  world: Float64Array,
  only?: Int32Array | Uint32Array,
): void {
  const matrices = skinMatrices(character, node, world);
  let first = 0;
  let next = 0;
  for (const p of primitivesOf(character, node)) {
    const end = first + p.positions.length / 3;
    const weighed = matrices && p.joints && p.weights;
    if (!only) {
      for (let v = first; v < end; v++)
        if (weighed) skinOne(out, v, first, p.positions, p.joints!, p.weights!, matrices);
        else carryOne(out, v, first, p.positions, world, 16 * node);
    } else
      for (; next < only.length && only[next]! < end; next++)
        if (weighed) skinOne(out, only[next]!, first, p.positions, p.joints!, p.weights!, matrices);
        else carryOne(out, only[next]!, first, p.positions, world, 16 * node);
    first = end;
  }
}

/** Places vertex v, of a primitive whose vertices begin at `first`, by the joints that weigh it. */
function skinOne(
  out: Float64Array,
  v: number,
  first: number,
  positions: Float32Array,
  joints: Uint16Array,
  weights: Float32Array,
  matrices: Float64Array,
): void {
  const w = 4 * (v - first);
  let [a0, a1, a2, b0, b1, b2] = [0, 0, 0, 0, 0, 0];
  let [c0, c1, c2, d0, d1, d2] = [0, 0, 0, 0, 0, 0];
  for (let k = w; k < w + 4; k++) {
    const weight = weights[k]!;
    if (weight === 0) continue;
    const o = 16 * joints[k]!;
    a0 += weight * matrices[o]!;
    a1 += weight * matrices[o + 1]!;
    a2 += weight * matrices[o + 2]!;
    b0 += weight * matrices[o + 4]!;
    b1 += weight * matrices[o + 5]!;
    b2 += weight * matrices[o + 6]!;
    c0 += weight * matrices[o + 8]!;
    c1 += weight * matrices[o + 9]!;
    c2 += weight * matrices[o + 10]!;
    d0 += weight * matrices[o + 12]!;
    d1 += weight * matrices[o + 13]!;
    d2 += weight * matrices[o + 14]!;
  }
  const p = 3 * (v - first);
  const x = positions[p]!;
  const y = positions[p + 1]!;
  const z = positions[p + 2]!;
  out[3 * v] = a0 * x + b0 * y + c0 * z + d0;
  out[3 * v + 1] = a1 * x + b1 * y + c1 * z + d1;
  out[3 * v + 2] = a2 * x + b2 * y + c2 * z + d2;
}

/** Places vertex v by one matrix, at `o` in `m`. */
function carryOne(
  out: Float64Array,
  v: number,
  first: number,
  positions: Float32Array,
  m: Float64Array,
  o: number,
): void {
  const p = 3 * (v - first);
  for (let r = 0; r < 3; r++)
    out[3 * v + r] =
      m[o + r]! * positions[p]! +
      m[o + 4 + r]! * positions[p + 1]! +
      m[o + 8 + r]! * positions[p + 2]! +
      m[o + 12 + r]!;
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

/** How each joint of a node's skin moves what it weighs alone, 16 numbers each; null without a skin. */
function skinMatrices(character: Character, node: number, world: Float64Array): Float64Array | null {
  const skin = character.skins[character.nodes[node]?.skin ?? -1];
  if (!skin) return null;
  const matrices = new Float64Array(16 * skin.joints.length);
  skin.joints.forEach((j, s) => {
    for (let c = 0; c < 4; c++)
      for (let r = 0; r < 4; r++) {
        let sum = 0;
        for (let k = 0; k < 4; k++) sum += world[16 * j + 4 * k + r]! * skin.inverseBind[16 * s + 4 * c + k]!;
        matrices[16 * s + 4 * c + r] = sum;
      }
  });
  return matrices;
}

/** Visits all vertices with the matrix (at `o` in `m`) that takes each from its own place `v` in `p` to the world. */
function eachVertex(
  character: Character,
  node: number,
  world: Float64Array,
  visit: (at: number, p: Float32Array, v: number, m: Float64Array, o: number) => void,
): void {
  const matrices = skinMatrices(character, node, world);
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
