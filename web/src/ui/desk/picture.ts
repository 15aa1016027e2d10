import { sampleChannel, type Character } from '@oscillum/core/character';
import type { Shot } from '@oscillum/core/shot';
import {
  channelKey,
  curvesOf,
  groundOf,
  isRefined,
  layAll,
  timeOf,
  type Curves,
  type Ground,
} from '@oscillum/core/refine';
import { emptyFrames, type Frames, type FramesLayout } from '@oscillum/core/frames';
import type { BakedClip } from '@oscillum/core/gltf';
import type { Simulation } from '../../sim/simulation';
import { NOTHING, type Picture } from '../../sim/picture';

/** Curves as the stage shows them: every joint they move, on every frame. */
export interface Pictured {
  readonly curves: Curves;
  readonly frames: Frames;
  readonly picture: Picture;
}

const PATHS = [
  ['rotation', 4, 'r', 'rotations'],
  ['translation', 3, 't', 'translations'],
] as const;

/** Puts curves into frames; channels that are the same as before are not read again. */
export function pictureOf(
  before: Pictured | null,
  curves: Curves,
  character: Character,
  { first, last }: Shot['range'],
  ground: Ground,
): Pictured {
  const count = last - first + 1;
  const nodes = [...new Set([...curves.values()].map((c) => c.node))].sort((a, b) => a - b);
  const kept =
    before?.frames.first === first &&
    before.frames.count === count &&
    nodes.length === before.frames.joints.length &&
    nodes.every((n, i) => n === before.frames.joints[i])
      ? before
      : null;
  const nothing = {
    scaled: new Int32Array(0),
    morphs: [],
    pointed: [],
    readoutNames: [],
    parts: [],
    colliders: [],
  };
  const layout: FramesLayout = { first, count, joints: Int32Array.from(nodes), ...nothing };
  const frames = kept?.frames ?? emptyFrames(layout);
  nodes.forEach((node, i) => {
    for (const [path, size, rest, rows] of PATHS) {
      const c = curves.get(channelKey(node, path));
      if (kept && kept.curves.get(channelKey(node, path)) === c) continue;
      for (let f = 0; f < count; f++) {
        const at = size * (f * nodes.length + i);
        if (c) sampleChannel(c, size, timeOf(first + f, ground), frames[rows], at);
        else frames[rows].set(character.nodes[node]![rest], at);
      }
    }
  });
  frames.done = count;
  // Another object each time: that is how the stage sees that something has changed.
  return { curves, frames, picture: { ...NOTHING, frames: { ...frames }, version: 1 } };
}

/** A bake with the refinements of its shot laid on it. */
export function refinedPicture(character: Character, shot: Shot, clip: BakedClip): Picture {
  const ground = groundOf(character, shot, clip.shift);
  const curves = layAll(curvesOf(character, clip), shot.refine, ground);
  return pictureOf(null, curves, character, shot.range, ground).picture;
}

/** A whole shot as it leaves: simulated, and refined where it is. Throws WorkError. */
export const movingPicture = async (
  simulation: Simulation,
  character: Character,
  shot: Shot,
): Promise<Picture> =>
  isRefined(shot)
    ? refinedPicture(character, shot, (await simulation.bakeCurves(shot)).clip)
    : { ...NOTHING, frames: await simulation.simulateApart(shot) };
