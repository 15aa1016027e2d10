import {
  makePose,
  meshTriangles,
  morphedVertices,
  rootMatrix,
  samplePose,
  worldMatrices,
  type Character,
} from '../character/index';
import {
  addChains,
  addStrips,
  openContainer,
  type AddedJoint,
  type BakedCurves,
} from '../formats/gltf/index';
import {
  matDecompose,
  matInvert,
  matRotation,
  quatConjugate,
  quatMultiply,
  quatNormalise,
  quatRotate,
} from '../math/index';
import type { Shot } from '../shot/index';
import { eachWeight } from '../sheets/index';
import { chainOf, errorOf, guidesFor, stripsOf, type HairChoice, type Cards, type Guide } from './cards';

/** The file that hair joins: its bytes, what stands in it, and the clip (by its index) that has the hair's motion. */
export interface HairInto {
  readonly bytes: Uint8Array<ArrayBuffer>;
  readonly character: Character;
  readonly clip: number;
  readonly fileName: string;
}

/**
 * The character with her hair: chains of joints along guides, hung on the joints that weigh most where those stand,
 * with keys in her clip, and a strip along each. Errors as of `writeCards`, in mm of the world.
 */
export function writeHairJoints(
  strands: readonly BakedCurves[],
  { bytes, character, clip, fileName }: HairInto,
  { metresPerUnit, upAxis }: Pick<Shot['character'], 'metresPerUnit' | 'upAxis'>,
  choice: HairChoice,
): Cards {
  const own = strands.map((c) => inFile(c, metresPerUnit, upAxis));
  const { guides, rings } = guidesFor(own, choice);
  const { joints } = choice;
  const chains = guides.map((g) => chainOf(g, joints));
  const { times } = guides[0]!.curves;
  const worlds = Array.from(times, (time) => worldAt(character, clip, time));
  const parents = guides.map((g) => parentOf(character, g, clip, worlds[0]!));
  const { added, translations, rotations } = placed(guides, chains, joints, parents, worlds);
  const keys = { clip, times, translations, rotations, scales: null };
  const { container, nodes } = addChains(openContainer(bytes, fileName), added, keys);
  const strips = { ...stripsOf(guides, chains, joints, rings), nodes };
  const { rms, largest } = errorOf(guides, chains, joints, rings);
  return {
    ...{ bytes: addStrips(container, strips), cards: guides.length },
    guides: strands.reduce((n, c) => n + c.counts.length, 0),
    ...{ rms: rms * metresPerUnit, largest: largest * metresPerUnit },
  };
}

/** Curves in the units and axes of a file. */
function inFile(c: BakedCurves, metresPerUnit: number, upAxis: 'Y' | 'Z'): BakedCurves {
  const back = new Float64Array(16);
  matInvert(back, 0, rootMatrix(metresPerUnit, upAxis), 0);
  const values = new Float64Array(c.values.length);
  for (let o = 0; o < values.length; o += 3)
    for (let r = 0; r < 3; r++)
      values[o + r] =
        back[r]! * c.values[o]! +
        back[4 + r]! * c.values[o + 1]! +
        back[8 + r]! * c.values[o + 2]! +
        back[12 + r]!;
  return { ...c, values, widths: [c.widths[0] / metresPerUnit, c.widths[1] / metresPerUnit] };
}

/** World matrices of a clip at a time, in the file's units. */
function worldAt(character: Character, clip: number, time: number): Float64Array {
  const pose = makePose(character);
  samplePose(character, character.clips[clip]!, time, pose);
  const world = new Float64Array(16 * character.nodes.length);
  worldMatrices(character, pose, rootMatrix(1, 'Y'), world);
  return world;
}

/** The joint that weighs most at the vertex of its mesh that is nearest to the root of a guide. */
function parentOf(character: Character, { curves, from }: Guide, clip: number, world: Float64Array): number {
  const { node } = curves;
  const pose = makePose(character);
  samplePose(character, character.clips[clip]!, curves.times[0]!, pose);
  const places = new Float64Array(3 * meshTriangles(character, node).vertices);
  morphedVertices(places, character, node, world, pose.morphs.get(node));
  let [nearest, least] = [0, Infinity];
  for (let v = 0; v < places.length / 3; v++) {
    const far = [0, 1, 2].reduce((s, a) => s + (places[3 * v + a]! - curves.values[3 * from + a]!) ** 2, 0);
    if (far < least) [nearest, least] = [v, far];
  }
  let [joint, most] = [node, 0];
  eachWeight(character, node, (vertex, joints, weights) => {
    if (vertex !== nearest) return;
    joints.forEach((j, k) => {
      if (weights[k]! > most) [joint, most] = [j, weights[k]!];
    });
  });
  return joint;
}

/** Where each joint is beside its parent, frame after frame: lists are joint after joint. */
function placed(
  guides: readonly Guide[],
  chains: readonly ReturnType<typeof chainOf>[],
  joints: number,
  parents: readonly number[],
  worlds: readonly Float64Array[],
) {
  const frames = worlds.length;
  const n = guides.length * joints;
  const translations = new Float64Array(3 * n * frames);
  const rotations = new Float64Array(4 * n * frames);
  const added: AddedJoint[] = [];
  const [back, turn, size] = [new Float64Array(16), new Float64Array(4), new Float64Array(3)];
  chains.forEach(({ places, turns }, g) => {
    for (let j = 0; j < joints; j++) {
      const k = g * joints + j;
      for (let f = 0; f < frames; f++) {
        const [at, own] = [k * frames + f, f * joints + j];
        if (j > 0) {
          quatConjugate(turn, 0, turns, 4 * (own - 1));
          const way = [0, 1, 2].map((a) => places[3 * own + a]! - places[3 * own - 3 + a]!);
          quatRotate(translations, 3 * at, turn, 0, way, 0);
        } else {
          const world = worlds[f]!.subarray(16 * parents[g]!, 16 * parents[g]! + 16);
          matInvert(back, 0, world, 0);
          for (let r = 0; r < 3; r++)
            translations[3 * at + r] =
              [0, 1, 2].reduce((s, a) => s + back[4 * a + r]! * places[3 * own + a]!, 0) + back[12 + r]!;
          matRotation(turn, 0, world, 0);
          quatConjugate(turn, 0, turn, 0);
        }
        quatMultiply(rotations, 4 * at, turn, 0, turns, 4 * own);
        quatNormalise(rotations, 4 * at);
        if (f > 0) nearerSign(rotations, 4 * at);
      }
      matDecompose(worlds[0]!, 16 * parents[g]!, new Float64Array(3), turn, size);
      added.push({
        ...{ name: `${guides[g]!.curves.name} ${g + 1} ${j + 1}`, after: j > 0 },
        parent: j > 0 ? k - 1 : parents[g]!,
        t: [...translations.subarray(3 * k * frames, 3 * k * frames + 3)],
        r: [...rotations.subarray(4 * k * frames, 4 * k * frames + 4)],
        s: j > 0 ? [1, 1, 1] : Array.from(size, (x) => 1 / (x || 1)),
      });
    }
  });
  return { added, translations, rotations };
}

/** Makes a turn the nearer of its two signs to the one before it. */
function nearerSign(q: Float64Array, o: number): void {
  let dot = 0;
  for (let a = 0; a < 4; a++) dot += q[o + a]! * q[o - 4 + a]!;
  if (dot < 0) for (let a = o; a < o + 4; a++) q[a] = -q[a]!;
}
