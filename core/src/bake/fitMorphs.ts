import {
  makePose,
  meshTriangles,
  rootMatrix,
  samplePose,
  unskinVertices,
  worldMatrices,
  type Channel,
  type Character,
} from '../character/index';
import type { AddedMorphs, BakedClip } from '../formats/gltf/index';
import type { Shot } from '../shot/index';
import { principalShapes, type Shapes, type WantedShapes } from './principal';

/** What fitting the vertices of one mesh gave. */
export interface MorphReport {
  readonly node: number;
  readonly shapes: number;
  /** What is left over, mm: RMS over all vertices and frames, and the largest. */
  readonly rms: number;
  readonly largest: number;
  /** Of the shapes and their weights in the file. */
  readonly bytes: number;
}

/** A clip without keys of vertices, and the morph targets whose weights stand for them. */
export interface FittedMorphs {
  readonly clip: BakedClip;
  readonly added: readonly AddedMorphs[];
  readonly reports: readonly MorphReport[];
}

/**
 * Fits the vertices that a clip moves one by one onto morph targets: principal shapes of how far each vertex is, before
 * it is skinned, from its rest. glTF skins after it morphs, so the joints go on carrying what the shapes move. The mean
 * is a shape of its own, whose weight is 1 in this clip. `wanted.error` is in m of the world; `had` says how many
 * targets a node's mesh has already.
 */
export function fitMorphs(
  character: Character,
  { metresPerUnit, upAxis }: Pick<Shot['character'], 'metresPerUnit' | 'upAxis'>,
  clip: BakedClip,
  wanted: WantedShapes,
  had: (node: number) => number,
): FittedMorphs {
  const added: AddedMorphs[] = [];
  const reports: MorphReport[] = [];
  const root = rootMatrix(metresPerUnit, upAxis);
  const channels = clip.channels.map((c): Channel => {
    if (c.path !== 'points') return c;
    const rows = backToRest(character, clip, c, root);
    const size = rows.length / c.times.length;
    // Joints scale what the shapes move: the error is asked for in the file's units.
    const found = principalShapes(rows, size, { most: wanted.most, error: wanted.error / metresPerUnit });
    const title = character.nodes[c.node]!.name || 'vertices';
    added.push({ node: c.node, targets: targetsOf(character, c.node, found, `${clip.name}: ${title}`) });
    const shapes = found.shapes.length + 1;
    const mm = 1000 * metresPerUnit;
    reports.push({
      ...{ node: c.node, shapes, rms: found.rms * mm, largest: found.largest * mm },
      bytes: 4 * shapes * (2 * size + c.times.length),
    });
    return weightsOf(c, found, had(c.node));
  });
  return { clip: { ...clip, channels }, added, reports };
}

/** Where the vertices would have to be before they are skinned, less their rest, key after key. */
function backToRest(character: Character, clip: BakedClip, c: Channel, root: Float64Array): Float32Array {
  const size = c.values.length / c.times.length;
  const out = new Float32Array(c.values.length);
  const pose = makePose(character);
  const world = new Float64Array(16 * character.nodes.length);
  const row = new Float64Array(size);
  const moving = clipAsPlayed(character, clip);
  c.times.forEach((time, k) => {
    samplePose(character, moving, time, pose);
    worldMatrices(character, pose, root, world);
    unskinVertices(row, c.values.subarray(k * size, (k + 1) * size), character, c.node, world);
    out.set(row, k * size);
  });
  return out;
}

/** The baked clip with what it carries over from its source. */
function clipAsPlayed(character: Character, clip: BakedClip): Parameters<typeof samplePose>[1] {
  const own = new Set(clip.channels.map((c) => `${c.node} ${c.path}`));
  const carried = (character.clips[clip.source]?.channels ?? [])
    .filter((c) => !own.has(`${c.node} ${c.path}`))
    .map((c) => ({ ...c, times: c.times.map((t) => t + clip.shift) }));
  const channels = [...carried, ...clip.channels.filter((c) => c.path !== 'points')];
  return { name: clip.name, duration: 0, over: null, channels };
}

/** Weights of all targets of the mesh: 0 for those it had, 1 for the mean, and one for each shape. */
function weightsOf(c: Channel, { shapes, weights }: Shapes, had: number): Channel {
  const width = had + 1 + shapes.length;
  const values = new Float64Array(c.times.length * width);
  c.times.forEach((_, k) => {
    values[k * width + had] = 1;
    values.set(weights.subarray(k * shapes.length, (k + 1) * shapes.length), k * width + had + 1);
  });
  return { ...c, path: 'weights', values };
}

function targetsOf(character: Character, node: number, found: Shapes, title: string): AddedMorphs['targets'] {
  const { indices } = meshTriangles(character, node);
  const rest = restOf(character, node);
  const normals = normalsOf(rest, indices);
  // A normal turns as it does where the shape is at its full weight.
  const turned = (moves: Float32Array) => {
    const there = normalsOf(
      rest.map((x, k) => x + moves[k]!),
      indices,
    );
    return Float32Array.from(there, (x, k) => x - normals[k]!);
  };
  return [found.mean, ...found.shapes].map((moves, k) => ({
    name: k === 0 ? `${title}, mean` : `${title} ${k}`,
    moves,
    turns: turned(moves),
  }));
}

function restOf(character: Character, node: number): Float64Array {
  const { primitives } = character.meshes[character.nodes[node]!.mesh]!;
  return Float64Array.from(primitives.flatMap((p) => Array.from(p.positions)));
}

/** Unit normals of vertices; those at one place share theirs, so that seams stay closed. */
function normalsOf(x: Float64Array, indices: Uint32Array): Float64Array {
  const first = new Map<string, number>();
  const same = Int32Array.from({ length: x.length / 3 }, (_, v) => {
    const key = `${Math.fround(x[3 * v]!)} ${Math.fround(x[3 * v + 1]!)} ${Math.fround(x[3 * v + 2]!)}`;
    const at = first.get(key) ?? v;
    first.set(key, at);
    return at;
  });
  const sums = new Float64Array(x.length);
  for (let t = 0; t < indices.length; t += 3) {
    const [i, j, k] = [3 * indices[t]!, 3 * indices[t + 1]!, 3 * indices[t + 2]!];
    const side = (a: number, b: number) => [0, 1, 2].map((c) => x[b + c]! - x[a + c]!);
    const [u, v] = [side(i, j), side(i, k)] as [number[], number[]];
    const n = [u[1]! * v[2]! - u[2]! * v[1]!, u[2]! * v[0]! - u[0]! * v[2]!, u[0]! * v[1]! - u[1]! * v[0]!];
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
