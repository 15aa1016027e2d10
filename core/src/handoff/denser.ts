import { asPlaces, clipAsPlayed } from '../bake/index';
import {
  makePose,
  meshTriangles,
  morphedVertices,
  rootMatrix,
  samplePose,
  worldMatrices,
  type Character,
} from '../character/index';
import type { BakedClip, BakedCurves } from '../formats/gltf/index';
import { drawnPoints, layLook, layOutStrands, planLook } from '../parts/index';
import type { Shot } from '../shot/index';
import { checkPlaces } from './points';

/**
 * The hair of a baked clip with so many strands each between its guides, as its look has them, rather than the guides
 * alone. They stand on the skin as the clip plays it. Throws OscillumError('bake.invalid') when there are too many.
 */
export function denser(character: Character, shot: Shot, clip: BakedClip, strands: number): BakedClip {
  return { ...clip, curves: (clip.curves ?? []).map((c) => withStrands(character, shot, clip, c, strands)) };
}

function withStrands(
  character: Character,
  shot: Shot,
  clip: BakedClip,
  baked: BakedCurves,
  strands: number,
): BakedCurves {
  const part = shot.parts[baked.part];
  if (part?.kind !== 'strands') return baked;
  const { metresPerUnit, upAxis } = shot.character;
  const layout = layOutStrands(character, part, metresPerUnit);
  const look = { ...part.look, strands };
  const plan = planLook(character, baked.node, metresPerUnit, layout.guides, look);
  checkPlaces(drawnPoints(look) * plan.strands * baked.times.length);
  const played = clipAsPlayed(character, clip);
  const points = drawnPoints(look);
  const [pose, world] = [makePose(character), new Float64Array(16 * character.nodes.length)];
  const root = rootMatrix(metresPerUnit, upAxis);
  const skin = new Float64Array(3 * meshTriangles(character, baked.node).vertices);
  const moved = clip.channels.find((c) => c.path === 'points' && c.node === baked.node);
  const places = moved && asPlaces(character, shot.character, played, moved).values;
  const laid = new Float32Array(3 * points * plan.strands);
  const values = new Float64Array(laid.length * baked.times.length);
  const wide = baked.values.length / baked.times.length;
  baked.times.forEach((time, k) => {
    samplePose(character, played, time, pose);
    worldMatrices(character, pose, root, world);
    if (places) skin.set(places.subarray(skin.length * k, skin.length * (k + 1)));
    else morphedVertices(skin, character, baked.node, world, pose.morphs.get(baked.node));
    layLook(laid, plan, look, baked.values.subarray(wide * k, wide * (k + 1)), skin);
    values.set(laid, laid.length * k);
  });
  return { ...baked, counts: Array.from({ length: plan.strands }, () => points), values };
}
