import { brindle } from './bakes';
import { makePose, rootMatrix, samplePose, skinVertices, worldMatrices } from '../src/character/index';
import { readGltf } from '../src/formats/gltf/index';
import { emptyFrames, layoutOf, type Frames } from '../src/frames/index';
import { simulateAll } from '../src/simulate/index';

export const character = readGltf(brindle!.bytes, 'brindle.glb');
export const shot = brindle!.shots.find((s) => s.clip?.name === 'Lookout')!;
export const MESH = character.nodes.findIndex((n) => n.mesh >= 0 && /poncho/.test(n.name));
export const VERTICES = character.meshes[character.nodes[MESH]!.mesh]!.primitives.reduce(
  (n, p) => n + p.positions.length / 3,
  0,
);

/** World matrices of all nodes on a frame of the clip. */
export function worldAt(frame: number): Float64Array {
  const pose = makePose(character);
  samplePose(character, character.clips[shot.clip!.index]!, frame / shot.fps, pose);
  const world = new Float64Array(16 * character.nodes.length);
  worldMatrices(character, pose, rootMatrix(1, 'Y'), world);
  return world;
}

/** The simulated frames, with the poncho where its skin has it and waves that run down it. */
export function waving(): Frames {
  const simulated = simulateAll(character, shot);
  const layout = layoutOf(simulated);
  const parts = layout.parts.map((p, i) => ({ ...p, points: { from: 0, length: i === 0 ? VERTICES : 0 } }));
  const frames = emptyFrames({ ...layout, pointed: [{ node: MESH, vertices: VERTICES }], parts }, simulated);
  const row = new Float64Array(3 * VERTICES);
  for (let f = 0; f < frames.count; f++) {
    skinVertices(row, character, MESH, worldAt(frames.first + f));
    for (let v = 0; v < row.length; v += 3) row[v + 2]! += 0.02 * Math.sin(30 * row[v + 1]! + 0.3 * f);
    frames.points.set(row, 3 * VERTICES * f);
  }
  frames.done = frames.count;
  return frames;
}
