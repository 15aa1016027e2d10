import { meshTriangles, skinVertices, type Character } from '../character/index';
import { quatMultiply, quatNormalise, quatRotate, quatSlerp } from '../math/index';
import { inOrder, OscillumError, type Collider } from '../model/index';
import type { Shot } from '../shot/index';
import {
  boundOf,
  makeBody,
  makeSurface,
  predictBody,
  toBody,
  type Shape,
  type Surface,
} from '../solver/index';
import { rowAt, type ColliderRun, type SourceTrack } from '../parts/index';
import { meshKey, trianglesOf, type MeshShape } from './meshShape';
import { rideOf } from './track';

/** The shape of a collider that is no mesh, as contact knows it. */
export function shapeOf(s: Exclude<Collider['shape'], { kind: 'mesh' }>): Shape {
  switch (s.kind) {
    case 'sphere':
      return s;
    case 'capsule':
      return { kind: 'capsule', radius: s.radius, half: s.length / 2 };
    case 'box':
      return { kind: 'box', half: [s.size[0] / 2, s.size[1] / 2, s.size[2] / 2] };
    case 'ground':
      return s;
  }
}

const own = new Float64Array(7);
const joint = new Float64Array(7);

/** Where the collider's keys put it at a frame, in its own frame of reference. */
function keyedPlace(collider: Collider): (out: Float64Array, frame: number) => void {
  const keys = [...collider.keys].sort((a, b) => a.frame - b.frame);
  if (keys.length === 0) {
    const stands = Float64Array.of(...collider.t, ...collider.r);
    return (out) => out.set(stands);
  }
  return (out, frame) => {
    let i = 0;
    while (i + 1 < keys.length && keys[i + 1]!.frame <= frame) i++;
    const a = keys[i]!;
    const b = keys[i + 1];
    let u = b && frame > a.frame ? (frame - a.frame) / (b.frame - a.frame) : 0;
    if (a.kind === 'stepped') u = 0;
    // Smooth keys start and stop gently.
    if (a.kind === 'smooth') u = u * u * (3 - 2 * u);
    const to = b ?? a;
    for (let c = 0; c < 3; c++) out[c] = a.t[c]! + u * (to.t[c]! - a.t[c]!);
    quatSlerp(out, 3, a.r, 0, to.r, 0, u);
  };
}

/**
 * A mesh of the character as it is posed: its vertices in the space of its joint, blended between frames. The
 * contact sees it as rigid within a step; what it does within one beside that joint's own motion is felt at its end.
 */
function makePosedMesh(
  character: Character,
  track: SourceTrack,
  collider: Collider,
  metresPerUnit: number,
): { shape: Shape; at(row: number, share: number): void } {
  const shape = collider.shape as MeshShape;
  const { node } = shape;
  const taken = trianglesOf(character, { ...collider, shape }, metresPerUnit);
  const { vertices } = meshTriangles(character, node);
  const rows = track.joints.get(rideOf(character, collider))!;
  const lead = track.first - track.from;
  const { kept: used, triangles } = keptOf(taken, vertices);
  const posed = posedOf(track, `${collider.id} ${meshKey(shape)}`, used.length);
  const all = new Float64Array(3 * vertices);
  /** The vertices it has at a frame of the range, in the joint's space. */
  const frameOf = (f: number): Float64Array => {
    const known = posed.get(f);
    if (known) return known;
    const out = posed.take(f);
    skinVertices(all, character, node, track.poseAt(f).world, used);
    const placed = rows.subarray(7 * (f + lead + 1), 7 * (f + lead + 2));
    for (let v = 0; v < used.length; v++) {
      const o = 3 * used[v]!;
      toBody(own, placed, all[o]!, all[o + 1]!, all[o + 2]!);
      for (let a = 0; a < 3; a++) out[3 * v + a] = own[a]!;
    }
    return out;
  };
  const clamp = (f: number) => Math.min(track.frames - 1, Math.max(0, f));
  const rest = frameOf(clamp(0));
  const surface = (posed.surface ??= makeSurface(Float64Array.from(rest), triangles));
  surface.vertices.set(rest);
  surface.earlier.set(rest);
  surface.refit();
  let last = NaN;
  return {
    shape: { kind: 'mesh', surface },
    at: (row, share) => {
      surface.earlier.set(surface.vertices);
      if (row + share === last) return;
      last = row + share;
      const f = row - 1 - lead;
      const a = frameOf(clamp(f));
      const b = share > 0 ? frameOf(clamp(f + 1)) : a;
      if (share > 0) blend(surface.vertices, a, b, share);
      else surface.vertices.set(a);
      surface.refit();
    },
  };
}

/** Places on the way from a to b. */
function blend(out: Float64Array, a: Float64Array, b: Float64Array, share: number): void {
  for (let k = 0; k < out.length; k++) out[k] = a[k]! + share * (b[k]! - a[k]!);
}

/** Numbers of posed vertices that are kept with a track at most. */
const MOST_POSED = 8e6;

/** Posed vertices by frame, and the surface that goes through them: it is kept for the next run. */
interface PosedFrames {
  surface: Surface | null;
  get(frame: number): Float64Array | undefined;
  /** Room for those of a frame, to be filled. */
  take(frame: number): Float64Array;
}

const posedMeshes = new WeakMap<SourceTrack, Map<string, PosedFrames>>();

/** The posed vertices of a mesh on a track: they hold for every run on it. Of a long shot two frames are kept. */
function posedOf(track: SourceTrack, key: string, count: number): PosedFrames {
  const meshes = posedMeshes.get(track) ?? new Map<string, PosedFrames>();
  posedMeshes.set(track, meshes);
  const known = meshes.get(key);
  if (known) return known;
  const frames = new Map<number, Float64Array>();
  const few = 3 * count * track.frames > MOST_POSED;
  const made: PosedFrames = {
    surface: null,
    get: (f) => frames.get(f),
    take: (f) => {
      if (few) for (const k of frames.keys()) if (Math.abs(k - f) > 1) frames.delete(k);
      const out = new Float64Array(3 * count);
      frames.set(f, out);
      return out;
    },
  };
  meshes.set(key, made);
  return made;
}

/** The vertices that triangles use, and the triangles with indices into them. */
function keptOf(indices: Uint32Array, vertices: number): { kept: Uint32Array; triangles: Uint32Array } {
  const place = new Int32Array(vertices).fill(-1);
  for (const v of indices) place[v] = 0;
  let count = 0;
  for (let v = 0; v < vertices; v++) if (place[v] === 0) place[v] = count++;
  const kept = new Uint32Array(count);
  place.forEach((k, v) => k >= 0 && (kept[k] = v));
  return { kept, triangles: indices.map((v) => place[v]!) };
}

/** The colliders of a shot that are not muted, in order. */
export const collidersOf = (shot: Shot): Collider[] => inOrder(shot.colliders).filter((c) => !c.muted);

/**
 * Says where a collider that is not free stands (7 numbers) at a share of the way from track row `row` to the next.
 * Throws OscillumError('shot.invalid') when the joint it is attached to is not there.
 */
export function whereabouts(
  character: Character,
  track: SourceTrack,
  collider: Collider,
): (out: Float64Array, row: number, share: number, frame: number) => void {
  const attachedTo = collider.attachedTo;
  if (attachedTo && character.nodes[attachedTo.node]?.name !== attachedTo.name)
    throw new OscillumError(
      'shot.invalid',
      `${collider.name}: the joint ${attachedTo.name} it is attached to is not on this character`,
      `/colliders/${collider.id}/attachedTo`,
      'Choose another joint for it, or remove it.',
    );
  const keyed = keyedPlace(collider);
  const rows = track.joints.get(rideOf(character, collider)) ?? null;
  return (out, row, share, frame) => {
    keyed(own, frame);
    if (!rows) {
      out.set(own);
      return;
    }
    rowAt(joint, rows, 7, row, share);
    quatNormalise(joint, 3);
    quatRotate(out, 0, joint, 3, own, 0);
    for (let c = 0; c < 3; c++) out[c]! += joint[c]!;
    quatMultiply(out, 3, joint, 3, own, 3);
    quatNormalise(out, 3);
  };
}

/** Bodies of colliders. Throws OscillumError('shot.invalid') when what they ride, or their mesh, is not there. */
export const makeColliders = (
  character: Character,
  colliders: readonly Collider[],
  track: SourceTrack,
  metresPerUnit: number,
): ColliderRun[] =>
  colliders.map((collider) => {
    const stand = whereabouts(character, track, collider);
    const posed =
      collider.shape.kind === 'mesh' ? makePosedMesh(character, track, collider, metresPerUnit) : null;
    const body = makeBody(
      posed?.shape ?? shapeOf(collider.shape as Parameters<typeof shapeOf>[0]),
      collider.friction,
      collider.bounce,
      posed ? null : collider.free,
    );
    const place = (row: number, share: number, frame: number) => {
      if (posed) {
        posed.at(row, share);
        body.bound = boundOf(body.shape);
      }
      stand(body.now, row, share, frame);
    };
    body.fixed = !posed && !body.free && !collider.attachedTo && collider.keys.length === 0;
    return { collider, body, place };
  });

/** Moves every collider on by a step of h seconds to its place at row + share; free ones by their own motion. */
export function moveColliders(
  colliders: readonly ColliderRun[],
  row: number,
  share: number,
  frame: number,
  h: number,
  gravity: ArrayLike<number>,
  airDensity: number,
): void {
  for (const c of colliders) {
    if (c.body.fixed) continue;
    if (c.body.free) {
      predictBody(c.body, h, gravity, airDensity);
      continue;
    }
    c.body.before.set(c.body.now);
    c.place(row, share, frame);
  }
}
