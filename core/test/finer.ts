import type { Character } from '../src/character/index';

type Primitive = Character['meshes'][number]['primitives'][number];

/** A character with each triangle of a mesh cut into four: the same shape and skin with about four times the points. */
export function withFinerMesh(character: Character, node: number): Character {
  const index = character.nodes[node]!.mesh;
  const mesh = character.meshes[index]!;
  const finer = { ...mesh, primitives: mesh.primitives.map(cutInFour) };
  return { ...character, meshes: character.meshes.map((m, k) => (k === index ? finer : m)) };
}

function cutInFour(p: Primitive): Primitive {
  const positions = Array.from(p.positions);
  const joints = Array.from(p.joints ?? []);
  const weights = Array.from(p.weights ?? []);
  const middles = new Map<string, number>();
  const middle = (a: number, b: number): number => {
    const key = a < b ? `${a} ${b}` : `${b} ${a}`;
    const known = middles.get(key);
    if (known !== undefined) return known;
    const v = positions.length / 3;
    for (let k = 0; k < 3; k++) positions.push((positions[3 * a + k]! + positions[3 * b + k]!) / 2);
    const sums = new Map<number, number>();
    for (const w of [a, b])
      for (let k = 4 * w; k < 4 * w + 4; k++)
        sums.set(joints[k]!, (sums.get(joints[k]!) ?? 0) + weights[k]! / 2);
    const best = [...sums].sort((x, y) => y[1] - x[1]).slice(0, 4);
    const all = best.reduce((s, [, w]) => s + w, 0);
    for (let k = 0; k < 4; k++) {
      joints.push(best[k]?.[0] ?? 0);
      weights.push((best[k]?.[1] ?? 0) / all);
    }
    middles.set(key, v);
    return v;
  };
  const indices: number[] = [];
  for (let t = 0; t < p.indices.length; t += 3) {
    const [a, b, c] = [p.indices[t]!, p.indices[t + 1]!, p.indices[t + 2]!];
    const [ab, bc, ca] = [middle(a, b), middle(b, c), middle(c, a)];
    indices.push(a, ab, ca, ab, b, bc, ca, bc, c, ab, bc, ca);
  }
  return {
    ...p,
    ...{ positions: Float32Array.from(positions), indices: Uint32Array.from(indices) },
    ...{ joints: Uint16Array.from(joints), weights: Float32Array.from(weights) },
    ...{ normals: null, uvs: null, colours: null, targets: [] },
  };
}
