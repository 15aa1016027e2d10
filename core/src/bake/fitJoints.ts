import {
  guessFps,
  makePose,
  rootMatrix,
  samplePose,
  skinVertices,
  worldMatrices,
  type Channel,
  type Character,
  type Clip,
} from '../character/index';
import type { AddedHelpers, BakedClip, HelperKeys } from '../formats/gltf/index';
import { matDecompose, matInvert, matMultiply } from '../math/index';
import { keepSigns } from '../formats/motion/index';
import { OscillumError } from '../model/index';
import type { Shot } from '../shot/index';
import { clipAsPlayed, type FitReport, type FittedShape } from './fitMorphs';
import { asPlaces } from './pointKeys';
import { INFLUENCES } from './shares';
import { fitSkin, poseNew, skinLeftOver, type SkinFit, type SkinTask } from './skinFit';

/** How many helper joints are wanted, and the node they hang from; what holds the mesh most where that is null. */
export interface WantedJoints {
  readonly count: number;
  readonly under: number | null;
}

/** Helper joints that a mesh got from a clip before: further clips of the file move the same ones. */
export interface MadeHelpers {
  readonly mesh: CarriedMesh;
  readonly fit: SkinFit;
  readonly kept: Uint8Array;
  readonly parent: number;
  /** Node of the first. */
  readonly first: number;
}

/** What a fit onto joints gives: keys of the helpers, and what the file needs before it can have them. */
export interface FittedJoints {
  readonly channels: Channel[];
  /** Null when they are there already. */
  readonly added: AddedHelpers | null;
  readonly made: MadeHelpers;
  readonly report: FitReport;
  readonly worst: FittedShape;
}

/** A mesh and the joints that carry it. */
interface CarriedMesh {
  readonly node: number;
  readonly vertices: number;
  /** Nodes of all joints of its skin, or its own node. */
  readonly joints: readonly number[];
  readonly inverseBind: Float64Array;
  /** Joints that carry something, by their place among them. */
  readonly used: readonly number[];
  /** From the mesh's own space to metres as one joint of the rest pose has it, and the vertices there. */
  readonly bind: Float64Array;
  readonly rest: Float64Array;
  /** 4 a vertex, by their place in `used`. */
  readonly influences: Uint16Array;
  readonly shares: Float32Array;
}

/** A vertex nearer to its source than this on all frames is not simulated, m. */
const SAME = 1e-6;
/** Places (points times frames) of a clip that are fitted at once at most: beyond it memory would run out. */
const MOST_PLACES = 12e6;
const IDENTITY = Float64Array.of(1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1);

/**
 * Fits the vertices that a clip moves one by one onto helper joints and those the mesh has. Vertices that nothing
 * simulates keep theirs. All other clips of the file get keys with which the mesh moves as it did, as near as the
 * helpers come to it. `nodes` is how many the file has by now. Throws OscillumError('bake.invalid') where morph targets
 * move the mesh too.
 */
export function fitJoints(
  character: Character,
  { metresPerUnit, upAxis }: Pick<Shot['character'], 'metresPerUnit' | 'upAxis'>,
  clip: BakedClip,
  moved: Channel,
  wanted: WantedJoints,
  before: MadeHelpers | null,
  nodes: number,
): FittedJoints {
  const { node } = moved;
  const name = character.nodes[node]!.name;
  const played = clipAsPlayed(character, clip);
  if (played.channels.some((c) => c.path === 'weights' && c.node === node))
    throw new OscillumError(
      'bake.invalid',
      `${name} is moved by morph targets too, which joints cannot stand for`,
      'vertices',
      'Bake it to morph targets.',
    );
  const points = asPlaces(character, { metresPerUnit, upAxis }, played, moved);
  const world = worldsOf(character, rootMatrix(metresPerUnit, upAxis));
  const mesh = before?.mesh ?? carriedMesh(character, node, world(null, 0));
  if (mesh.vertices * points.times.length > MOST_PLACES)
    throw new OscillumError(
      'bake.invalid',
      `${name} has ${mesh.vertices} points on ${points.times.length} frames, more than joints can be fitted to at once`,
      'frames',
      'Bake fewer frames, or to morph targets.',
    );
  const scene: Scene = { character, mesh, world };
  const around = timesAround(character, clip, points);
  const simulated = sampled(scene, played, points.times, points.values);
  const kept = before?.kept ?? unmoved(mesh, simulated);
  const task = taskOf(mesh, simulated, kept);
  const fit = before?.fit ?? fitSkin(task, wanted.count);
  const parent = before?.parent ?? wanted.under ?? mostHeld(mesh, kept);
  const place = placer(scene, fit, parent);
  const moves = before ? settle(task, fit) : fit.moves;
  const lead = sampled(scene, played, around.before);
  const rest = sampled(scene, played, around.after);
  const movesOf = (s: Sampled) => settle(taskOf(mesh, s, kept), fit);
  const worlds = [...lead.worlds, ...simulated.worlds, ...rest.worlds];
  const own = place(worlds, joined([movesOf(lead), moves, movesOf(rest)]));
  const times = Float64Array.from([...around.before, ...points.times, ...around.after]);
  const first = before?.first ?? nodes;
  const left = skinLeftOver(task, fit, moves);
  const count = fit.middles.length / 3;
  const report: FitReport = {
    ...{ node, shapes: 0, joints: count, rms: 1000 * left.rms, largest: 1000 * left.largest },
    bytes: count * (64 + times.length * (own.scales ? 40 : 28)) + mesh.vertices * 24,
  };
  const made = { mesh, fit, kept, parent, first };
  const added = before ? null : helpersFor(scene, made, place, clip, movesOf);
  const worst: FittedShape = {
    ...{ node, time: points.times[left.worst]! - clip.shift },
    places: Float32Array.from(left.left, (x, k) => points.values[left.worst * left.left.length + k]! - x),
  };
  return { channels: channelsOf(first, times, own, count), added, made, report, worst };
}

/** Some lists one after the other. */
function joined(lists: readonly Float64Array[]): Float64Array {
  const out = new Float64Array(lists.reduce((n, l) => n + l.length, 0));
  let at = 0;
  for (const l of lists) {
    out.set(l, at);
    at += l.length;
  }
  return out;
}

type Worlds = (clip: Clip | null, time: number) => Float64Array;

/** Poses of a character: matrices of all nodes in the world, m. */
function worldsOf(character: Character, root: Float64Array): Worlds {
  const pose = makePose(character);
  return (clip, time) => {
    const world = new Float64Array(16 * character.nodes.length);
    samplePose(character, clip, time, pose);
    worldMatrices(character, pose, root, world);
    return world;
  };
}

interface Scene {
  readonly character: Character;
  readonly mesh: CarriedMesh;
  readonly world: Worlds;
}

function carriedMesh(character: Character, node: number, world: Float64Array): CarriedMesh {
  const owner = character.nodes[node]!;
  const skin = character.skins[owner.skin];
  const joints = skin ? Array.from(skin.joints) : [node];
  const inverseBind = skin ? skin.inverseBind : IDENTITY;
  const { primitives } = character.meshes[owner.mesh]!;
  const held: number[] = [];
  const shares: number[] = [];
  for (const p of primitives)
    for (let k = 0; k < (INFLUENCES * p.positions.length) / 3; k++) {
      const has = skin && p.joints && p.weights;
      held.push(has ? p.joints[k]! : 0);
      shares.push(has ? p.weights[k]! : k % INFLUENCES === 0 ? 1 : 0);
    }
  const used = [...new Set(held.filter((_, k) => shares[k]! > 0))].sort((a, b) => a - b);
  const at = new Map(used.map((j, i) => [j, i]));
  const bind = new Float64Array(16);
  matMultiply(bind, 0, world, 16 * joints[used[0]!]!, inverseBind, 16 * used[0]!);
  const positions = primitives.flatMap((p) => Array.from(p.positions));
  const rest = Float64Array.from(positions, (_, k) => {
    const [o, r] = [k - (k % 3), k % 3];
    return (
      bind[r]! * positions[o]! +
      bind[4 + r]! * positions[o + 1]! +
      bind[8 + r]! * positions[o + 2]! +
      bind[12 + r]!
    );
  });
  return {
    ...{ node, vertices: positions.length / 3, joints, inverseBind, used, bind, rest },
    influences: Uint16Array.from(held, (j) => at.get(j) ?? 0),
    shares: Float32Array.from(shares),
  };
}

/** Frames of a mesh: how its joints stand, where its vertices are by them, and where they have to be. */
interface Sampled {
  readonly worlds: readonly Float64Array[];
  readonly skinned: Float64Array;
  readonly places: ArrayLike<number>;
}

function sampled(
  { character, mesh, world }: Scene,
  clip: Clip | null,
  times: ArrayLike<number>,
  places?: ArrayLike<number>,
): Sampled {
  const worlds = Array.from(times, (t) => world(clip, t));
  const size = 3 * mesh.vertices;
  const skinned = new Float64Array(size * worlds.length);
  worlds.forEach((w, f) => skinVertices(skinned.subarray(size * f, size * (f + 1)), character, mesh.node, w));
  return { worlds, skinned, places: places ?? skinned };
}

/** Vertices that stay with their source on all frames. */
function unmoved({ vertices }: CarriedMesh, { skinned, places }: Sampled): Uint8Array {
  const kept = new Uint8Array(vertices).fill(1);
  for (let k = 0; k < skinned.length; k++)
    if (Math.abs(places[k]! - skinned[k]!) > SAME) kept[Math.floor(k / 3) % vertices] = 0;
  return kept;
}

function taskOf(mesh: CarriedMesh, { worlds, places }: Sampled, kept: Uint8Array): SkinTask {
  const { used, joints, inverseBind, bind } = mesh;
  const moves = new Float64Array(12 * used.length * worlds.length);
  const back = new Float64Array(16);
  if (!matInvert(back, 0, bind, 0)) back.set(IDENTITY);
  const m = new Float64Array(16);
  worlds.forEach((world, f) =>
    used.forEach((j, i) => {
      matMultiply(m, 0, world, 16 * joints[j]!, inverseBind, 16 * j);
      matMultiply(m, 0, m.slice(), 0, back, 0);
      moves.set(rowsOf(m), 12 * (used.length * f + i));
    }),
  );
  return {
    ...{ vertices: mesh.vertices, frames: worlds.length, rest: mesh.rest, places, kept },
    ...{ had: { count: used.length, moves }, joints: mesh.influences, shares: mesh.shares },
  };
}

const rowsOf = (m: Float64Array): number[] =>
  [0, 1, 2].flatMap((r) => [m[r]!, m[4 + r]!, m[8 + r]!, m[12 + r]!]);

/** How the helpers move with the shares they have: bettered once. */
function settle(task: SkinTask, fit: SkinFit): Float64Array {
  const count = fit.middles.length / 3;
  return poseNew(task, fit, count, poseNew(task, fit, count));
}

/** The joint that holds the vertices that stay most, or all where none does. */
function mostHeld({ joints, used, influences, shares }: CarriedMesh, kept: Uint8Array): number {
  const sums = new Float64Array(used.length);
  const any = kept.includes(1);
  shares.forEach((w, k) => {
    if (!any || kept[Math.floor(k / INFLUENCES)]) sums[influences[k]!]! += w;
  });
  let most = 0;
  sums.forEach((s, i) => {
    if (s > sums[most]!) most = i;
  });
  return joints[used[most]!]!;
}

interface Placed {
  readonly translations: Float64Array;
  readonly rotations: Float64Array;
  readonly scales: Float64Array | null;
}
type Place = (worlds: readonly Float64Array[], moves: Float64Array) => Placed;

/** Where a helper rests: as its parent stands, with its place in the middle of what it carries. */
function restOfHelper({ world }: Scene, middles: Float64Array, b: number, parent: number): Float64Array {
  const out = world(null, 0).slice(16 * parent, 16 * parent + 16);
  for (let a = 0; a < 3; a++) out[12 + a] = middles[3 * b + a]!;
  return out;
}

/** Turns moves in the world into places beside the parent: lists helper after helper. */
function placer(scene: Scene, { middles }: SkinFit, parent: number): Place {
  const count = middles.length / 3;
  const rests = Array.from({ length: count }, (_, b) => restOfHelper(scene, middles, b, parent));
  return (worlds, moves) => {
    const n = worlds.length;
    const translations = new Float64Array(3 * n * count);
    const rotations = new Float64Array(4 * n * count);
    const scales = new Float64Array(3 * n * count);
    const [back, m, t, q, s] = [16, 16, 3, 4, 3].map((k) => new Float64Array(k)) as [
      ...[Float64Array, Float64Array, Float64Array, Float64Array, Float64Array],
    ];
    worlds.forEach((world, f) => {
      if (!matInvert(back, 0, world, 16 * parent)) back.set(IDENTITY);
      for (let b = 0; b < count; b++) {
        const k = 12 * (count * f + b);
        for (let c = 0; c < 4; c++) {
          for (let r = 0; r < 3; r++) m[4 * c + r] = moves[k + 4 * r + c]!;
          m[4 * c + 3] = c === 3 ? 1 : 0;
        }
        matMultiply(m, 0, m.slice(), 0, rests[b]!, 0);
        matMultiply(m, 0, back, 0, m.slice(), 0);
        matDecompose(m, 0, t, q, s);
        translations.set(t, 3 * (n * b + f));
        rotations.set(q, 4 * (n * b + f));
        scales.set(s, 3 * (n * b + f));
      }
    });
    for (let b = 0; b < count; b++) keepSigns(rotations.subarray(4 * n * b, 4 * n * (b + 1)), 1);
    return { translations, rotations, scales: scales.some((x) => Math.abs(x - 1) > 1e-4) ? scales : null };
  };
}

function channelsOf(first: number, times: Float64Array, placed: Placed, count: number): Channel[] {
  const n = times.length;
  return Array.from({ length: count }, (_, b): Channel[] => {
    const of = (path: 'translation' | 'rotation' | 'scale', list: Float64Array, size: number): Channel => ({
      ...{ node: first + b, path, interpolation: 'LINEAR', times },
      values: list.slice(size * n * b, size * n * (b + 1)),
    });
    return [
      of('translation', placed.translations, 3),
      of('rotation', placed.rotations, 4),
      ...(placed.scales ? [of('scale', placed.scales, 3)] : []),
    ];
  }).flat();
}

/** Moments of the written clip before and after those that are simulated, in which the source stands. */
function timesAround(
  character: Character,
  clip: BakedClip,
  { times }: Channel,
): { before: number[]; after: number[] } {
  const source = character.clips[clip.source];
  const lasts = source ? source.duration + clip.shift : 0;
  const step = times.length > 1 ? times[1]! - times[0]! : 1 / 30;
  const before: number[] = [];
  for (let t = times[0]! - step; t > -step / 2 && source; t -= step) before.unshift(Math.max(0, t));
  const after: number[] = [];
  for (let t = times.at(-1)! + step; t < lasts + step / 2; t += step) after.push(Math.min(t, lasts));
  return { before, after };
}

/** What the file needs to have the helpers, with keys for all clips it has already. */
function helpersFor(
  scene: Scene,
  { mesh, fit, parent }: MadeHelpers,
  place: Place,
  { replace, source }: BakedClip,
  movesOf: (s: Sampled) => Float64Array,
): AddedHelpers {
  const { character } = scene;
  const count = fit.middles.length / 3;
  const title = character.nodes[mesh.node]!.name || 'mesh';
  const still = sampled(scene, null, [0]);
  const at = place(still.worlds, movesOf(still));
  const inverses = new Float64Array(16 * (mesh.joints.length + count));
  inverses.set(mesh.inverseBind);
  const back = new Float64Array(16);
  for (let b = 0; b < count; b++) {
    if (!matInvert(back, 0, restOfHelper(scene, fit.middles, b, parent), 0)) back.set(IDENTITY);
    matMultiply(inverses, 16 * (mesh.joints.length + b), back, 0, mesh.bind, 0);
  }
  const keys = character.clips.flatMap((c, i): HelperKeys[] => {
    if (c.over || c.channels.length === 0 || (replace && i === source)) return [];
    const fps = guessFps(c);
    const most = Math.max(1, Math.floor(MOST_PLACES / mesh.vertices) - 1);
    const frames = Math.min(most, Math.max(1, Math.round(c.duration * fps)));
    const times = Float64Array.from({ length: frames + 1 }, (_, f) => (c.duration * f) / frames);
    const of = sampled(scene, c, c.duration > 0 ? times : [0]);
    return [
      { clip: i, times: c.duration > 0 ? times : Float64Array.of(0), ...place(of.worlds, movesOf(of)) },
    ];
  });
  return {
    ...{ node: mesh.node, parent, before: mesh.joints, inverses, keys },
    helpers: Array.from({ length: count }, (_, b) => ({
      name: `${title} helper ${b + 1}`,
      t: Array.from(at.translations.subarray(3 * b, 3 * b + 3)),
      r: Array.from(at.rotations.subarray(4 * b, 4 * b + 4)),
      s: at.scales ? Array.from(at.scales.subarray(3 * b, 3 * b + 3)) : [1, 1, 1],
    })),
    // A joint that holds a vertex by nothing is written as 0.
    joints: Uint16Array.from(fit.joints, (j, k) =>
      fit.shares[k] === 0
        ? 0
        : j < mesh.used.length
          ? mesh.used[j]!
          : mesh.joints.length + j - mesh.used.length,
    ),
    shares: fit.shares,
  };
}
