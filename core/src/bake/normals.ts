import type { Character } from '../character/index';

/** Places of a mesh node's vertices before anything moves them, in the file's units: all primitives in a row. */
export function positionsOf(character: Character, node: number): Float64Array {
  const { primitives } = character.meshes[character.nodes[node]!.mesh]!;
  return Float64Array.from(primitives.flatMap((p) => Array.from(p.positions)));
}

/** For each vertex (3 numbers) the first one at the same place. */
export function samePlaces(x: ArrayLike<number>): Int32Array {
  const first = new Map<string, number>();
  return Int32Array.from({ length: x.length / 3 }, (_, v) => {
    const key = `${Math.fround(x[3 * v]!)} ${Math.fround(x[3 * v + 1]!)} ${Math.fround(x[3 * v + 2]!)}`;
    const at = first.get(key) ?? v;
    first.set(key, at);
    return at;
  });
}

/** Unit normals of vertices; those that are the same ({@link samePlaces}) share theirs, so that seams stay closed. */
export function normalsOf(x: Float64Array, indices: Uint32Array, same: Int32Array): Float64Array {
  const sums = new Float64Array(x.length);
  const n = new Float64Array(3);
  for (let t = 0; t < indices.length; t += 3) {
    const [i, j, k] = [3 * indices[t]!, 3 * indices[t + 1]!, 3 * indices[t + 2]!];
    const [ux, uy, uz] = [x[j]! - x[i]!, x[j + 1]! - x[i + 1]!, x[j + 2]! - x[i + 2]!];
    const [vx, vy, vz] = [x[k]! - x[i]!, x[k + 1]! - x[i + 1]!, x[k + 2]! - x[i + 2]!];
    n[0] = uy * vz - uz * vy;
    n[1] = uz * vx - ux * vz;
    n[2] = ux * vy - uy * vx;
    for (const o of [i, j, k]) for (let c = 0; c < 3; c++) sums[3 * same[o / 3]! + c]! += n[c]!;
  }
  const out = new Float64Array(x.length);
  for (let v = 0; v < same.length; v++) {
    const o = 3 * same[v]!;
    const l = Math.sqrt(sums[o]! ** 2 + sums[o + 1]! ** 2 + sums[o + 2]! ** 2);
    if (l > 0) for (let c = 0; c < 3; c++) out[3 * v + c] = sums[o + c]! / l;
  }
  return out;
}
