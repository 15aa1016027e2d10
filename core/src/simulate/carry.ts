import { meshTriangles, restWorld, skinVertices, type Character } from '../character/index';
import { carryShares } from '../maps/index';
import { makeWeightMap, readWeightMap, type JointRef, type WeightMap } from '../model/index';
import { documentOf } from '../parts/documents';
import type { MeshShape } from './meshShape';
import { lastFrame, mendShot, parseShot, type Shot } from '../shot/index';

/** A shot for another clip or character, and what of the first did not find its like there. */
export interface Elsewhere {
  readonly shot: Shot;
  /** Things left out, with the joints or meshes that are missing. */
  readonly missed: readonly string[];
}

/**
 * The same parts, colliders and forces on another clip of a character or on another character with joints of the same
 * names. Settings are kept as they are; takes are not taken along, and keys, anchor poses and pulls, which belong to
 * frames of the old clip, only when it is the same character. With the old character (`from`) painted maps go over to
 * meshes of other vertices by nearest place.
 */
export function carryTo(
  shot: Shot,
  target: Character,
  file: { hash: string; fileName: string },
  clipIndex: number,
  from: Character | null = null,
): Elsewhere {
  const missed: string[] = [];
  const same = file.hash === shot.character.hash;
  const find = (j: JointRef): JointRef | null => {
    if (target.nodes[j.node]?.name === j.name) return j;
    const node = target.nodes.findIndex((n) => n.name === j.name);
    return node >= 0 && j.name !== '' ? { node, name: j.name } : null;
  };
  const clip = target.clips[clipIndex];
  const out = structuredClone(shot) as Shot;
  Object.assign(out.character, file);
  out.takes = {};
  // They belong to frames of the clip they were made on.
  if (!same || clipIndex !== shot.clip?.index) out.refine = { muted: false, steps: [], seen: {} };
  out.cycle = { repeats: 1, missingFrame: false, blend: 0, frames: null };
  out.stillAt = null;
  out.clip = clip ? { index: clipIndex, name: clip.name } : null;
  out.settleFrames = 0;
  out.range = { first: 0, last: lastFrame(clip?.duration ?? 1, shot.fps) };
  out.name = `${shot.name.replace(/, .*$/, '')}, ${clip?.name ?? file.fileName}`.slice(0, 200);
  const parentOf = (node: number) => target.nodes[node]?.parent ?? -1;
  const verticesOf = (node: number) => meshTriangles(target, node).vertices;
  const carriedMap = (map: WeightMap, old: number, now: number): WeightMap | null =>
    from && meshTriangles(from, old).vertices === map.vertices && verticesOf(now) > 0
      ? makeWeightMap(carryShares(readWeightMap(map), restOf(from, old), restOf(target, now)))
      : null;
  for (const part of Object.values(out.parts)) {
    const carried = documentOf(part).carry(part, { find, parentOf, verticesOf, carriedMap, same });
    missed.push(...carried.missed);
    if (!carried.keeps) delete out.parts[part.id];
    part.muted = false;
    part.bakedInto = null;
  }
  for (const collider of Object.values(out.colliders)) {
    const attachedTo = collider.attachedTo && find(collider.attachedTo);
    const { shape } = collider;
    const mesh = shape.kind === 'mesh' ? find(shape) : null;
    const lost = (collider.attachedTo && !attachedTo) || (shape.kind === 'mesh' && !mesh);
    if (lost) {
      missed.push(
        `${collider.name}: no ${shape.kind === 'mesh' ? `mesh ${shape.name}` : `joint named ${collider.attachedTo!.name}`}`,
      );
      delete out.colliders[collider.id];
      continue;
    }
    collider.attachedTo = attachedTo;
    if (mesh && shape.kind === 'mesh') {
      const part = carriedPart(
        shape.part,
        same || verticesIn(from, shape.node) === verticesOf(mesh.node),
        find,
      );
      if (shape.part && !part)
        missed.push(`${collider.name}: the part of ${mesh.name} that it took; it takes all of it now`);
      collider.shape = { ...shape, ...mesh, part };
    }
  }
  for (const turn of Object.values(out.addedMotions)) {
    const joint = find(turn.joint);
    if (joint) turn.joint = joint;
    else {
      missed.push(`${turn.name}: no joint named ${turn.joint.name} to turn`);
      delete out.addedMotions[turn.id];
    }
  }
  return { shot: parseShot(mendShot(out)[0]), missed };
}

/** The part of a mesh that a collider takes, elsewhere: by its joint’s name, or where the mesh is the same. */
function carriedPart(
  part: MeshShape['part'],
  sameMesh: boolean,
  find: (joint: JointRef) => JointRef | null,
): MeshShape['part'] {
  if (!part) return null;
  if (part.region.by === 'joint') {
    const joint = find(part.region.joint);
    return joint && { ...part, region: { by: 'joint', joint } };
  }
  return sameMesh ? part : null;
}

const verticesIn = (character: Character | null, node: number): number =>
  character ? meshTriangles(character, node).vertices : -1;

/** The vertices of a mesh at rest, 3 numbers each. */
function restOf(character: Character, node: number): Float64Array {
  const out = new Float64Array(3 * meshTriangles(character, node).vertices);
  skinVertices(out, character, node, restWorld(character));
  return out;
}
