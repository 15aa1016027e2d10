import {
  addMorphs,
  makePose,
  meshTriangles,
  rootMatrix,
  samplePose,
  skinMoved,
  unskinMoves,
  unskinVertices,
  worldMatrices,
  type Channel,
  type Character,
  type Clip,
} from '../character/index';
import type { AddedMorphs, BakedClip } from '../formats/gltf/index';
import type { Shot } from '../shot/index';
import { normalsOf, positionsOf, samePlaces } from './normals';
import { principalShapes, type Shapes, type WantedShapes } from './principal';

/** What fitting the vertices of one mesh gave. */
export interface FitReport {
  readonly node: number;
  /** Morph targets and helper joints that were added. */
  readonly shapes: number;
  readonly joints: number;
  /** What is left over, mm: RMS over all vertices and frames, and the largest. */
  readonly rms: number;
  readonly largest: number;
  /** Of what is added and its keys in the file. */
  readonly bytes: number;
}

/** How a mesh stands as it was fitted, at the time (s of the shot) when a vertex is farthest off: places, m. */
export interface FittedShape {
  readonly node: number;
  readonly time: number;
  readonly places: Float32Array;
}

/** A clip without keys of vertices, and the morph targets whose weights stand for them. */
export interface FittedMorphs {
  readonly clip: BakedClip;
  readonly added: readonly AddedMorphs[];
  readonly reports: readonly FitReport[];
  readonly worst: readonly FittedShape[];
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
  const reports: FitReport[] = [];
  const worst: FittedShape[] = [];
  const root = rootMatrix(metresPerUnit, upAxis);
  const channels = clip.channels.map((c): Channel => {
    if (c.path !== 'points') return c;
    const rows = backToRest(character, clip, c, root);
    const size = rows.length / c.times.length;
    // Joints scale what the shapes move: the error is asked for in the file's units.
    const found = principalShapes(rows, size, { ...wanted, error: wanted.error / metresPerUnit });
    const title = character.nodes[c.node]!.name || 'vertices';
    added.push({ node: c.node, targets: targetsOf(character, c.node, found, `${clip.name}: ${title}`) });
    const shapes = found.shapes.length + 1;
    const mm = 1000 * metresPerUnit;
    reports.push({
      ...{ node: c.node, shapes, joints: 0, rms: found.rms * mm, largest: found.largest * mm },
      bytes: 4 * shapes * (2 * size + c.times.length),
    });
    worst.push(shapeOf(character, clip, c, found, root));
    return weightsOf(character, clip, c, found, had(c.node));
  });
  // What the mesh's own targets did beside stands in the weights that were found.
  const own = new Set(clip.channels.flatMap((c) => (c.path === 'points' ? [c.node] : [])));
  const kept = channels.filter((c) => c.path !== 'weights' || !own.has(c.node) || !clip.channels.includes(c));
  return { clip: { ...clip, channels: kept }, added, reports, worst };
}

/** The mesh as its shapes have it in the row that is farthest off. */
function shapeOf(
  character: Character,
  clip: BakedClip,
  { node, times, off }: Channel,
  { mean, shapes, weights, worst }: Shapes,
  root: Float64Array,
): FittedShape {
  const time = times[worst]!;
  const pose = makePose(character);
  const world = new Float64Array(16 * character.nodes.length);
  samplePose(character, clipAsPlayed(character, clip), time, pose);
  worldMatrices(character, pose, root, world);
  const moves = Float64Array.from(mean);
  shapes.forEach((shape, s) => {
    const w = weights[worst * shapes.length + s]!;
    shape.forEach((x, k) => (moves[k]! += w * x));
  });
  const places = new Float64Array(moves.length);
  if (off) addMorphs(moves, character, node, pose.morphs.get(node));
  skinMoved(places, moves, character, node, world);
  return { node, time: time - clip.shift, places: Float32Array.from(places) };
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
    const values = c.values.subarray(k * size, (k + 1) * size);
    if (c.off) unskinMoves(row, values, character, c.node, world);
    else unskinVertices(row, values, character, c.node, world);
    out.set(row, k * size);
  });
  return out;
}

/** The baked clip with what it carries over from its source, or over what it adds to. */
export function clipAsPlayed(character: Character, clip: BakedClip): Clip {
  const own = new Set(clip.channels.map((c) => `${c.node} ${c.path}`));
  const carried = (character.clips[clip.source]?.channels ?? [])
    .filter((c) => !own.has(`${c.node} ${c.path}`))
    .map((c) => ({ ...c, times: c.times.map((t) => t + clip.shift) }));
  const channels = [...carried, ...clip.channels.filter((c) => c.path !== 'points')];
  return { name: clip.name, duration: 0, over: clip.over ?? null, channels };
}

/**
 * Weights of all targets of the mesh: 1 for the mean, one for each shape, and for those it had 0, or what they were
 * where the shapes add to them, at the times of their own keys too.
 */
function weightsOf(
  character: Character,
  clip: BakedClip,
  { node, times, off }: Channel,
  { shapes, weights }: Shapes,
  had: number,
): Channel {
  const width = had + 1 + shapes.length;
  const played = clipAsPlayed(character, clip);
  const beside = off ? played.channels.find((c) => c.path === 'weights' && c.node === node) : undefined;
  const [first, last] = [times[0]!, times.at(-1)!];
  const outside = beside ? timesOf(beside, times).filter((t) => t < first || t > last) : [];
  const all = Float64Array.from([...new Set([...outside, ...times])].sort((a, b) => a - b));
  const values = new Float64Array(all.length * width);
  const pose = makePose(character);
  let row = 0;
  all.forEach((time, k) => {
    // What adds to a clip leaves its weights as they are.
    if (off && !clip.over) {
      samplePose(character, played, time, pose);
      values.set((pose.morphs.get(node) ?? new Float64Array(0)).subarray(0, had), k * width);
    }
    while (row + 1 < times.length && times[row + 1]! <= time) row++;
    values[k * width + had] = 1;
    values.set(weights.subarray(row * shapes.length, (row + 1) * shapes.length), k * width + had + 1);
  });
  return { node, path: 'weights', interpolation: 'LINEAR', times: all, values };
}

/** Times at which straight keys are what a channel is: its own, or as close as those of a clip beside it. */
function timesOf({ interpolation, times: own }: Channel, times: Float64Array): number[] {
  if (interpolation === 'LINEAR' || times.length < 2) return [...own];
  const step = (times.at(-1)! - times[0]!) / (times.length - 1);
  const [from, to] = [own[0]!, own.at(-1)!];
  const steps = Math.ceil((times[0]! - from) / step - 1e-9);
  const grid = Array.from(
    { length: Math.max(0, Math.ceil((to - from) / step) + 2) },
    (_, k) => times[0]! + (k - steps) * step,
  );
  return [from, ...grid.filter((t) => t > from && t < to), to];
}

function targetsOf(character: Character, node: number, found: Shapes, title: string): AddedMorphs['targets'] {
  const { indices } = meshTriangles(character, node);
  const rest = positionsOf(character, node);
  const same = samePlaces(rest);
  const normals = normalsOf(rest, indices, same);
  // A normal turns as it does where the shape is at its full weight.
  const turned = (moves: Float32Array) => {
    const there = normalsOf(
      rest.map((x, k) => x + moves[k]!),
      indices,
      same,
    );
    return Float32Array.from(there, (x, k) => x - normals[k]!);
  };
  return [found.mean, ...found.shapes].map((moves, k) => ({
    name: k === 0 ? `${title}, mean` : `${title} ${k}`,
    moves,
    turns: turned(moves),
  }));
}
