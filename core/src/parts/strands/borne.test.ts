import { expect, it } from 'vitest';
import { bake, brindle } from '../../../test/bakes';
import { nodeNamed } from '../../../test/figure';
import { character, lookout } from '../../../test/poncho';
import { makePose, rootMatrix, samplePose, worldMatrices, type Character } from '../../character/index';
import { readGltf } from '../../formats/gltf/index';
import { pointSpans, sizesOf } from '../../frames/index';
import { makeWeightMap, readWeightMap } from '../../model/index';
import { parseShot, type Shot } from '../../shot/index';
import { simulateAll, trackOf, type TrackCache } from '../../simulate/index';
import { growGuides } from './grow';
import { layOutStrands, type StrandsLayout } from './layout';
import { makeGroom, makeStrandsPart, strandSettingsFor, type StrandsPart } from './shared';
import { posedGroom } from './posed';

const LAPPETS = nodeNamed(character, 'lappets mesh');

/** Hair on her lappets, which chains move, as she looks round. */
function shotOf(own: Character, chains: boolean, change: (p: StrandsPart) => void = () => undefined): Shot {
  const growth = { count: 24, length: 0.03, points: 5, lean: 0.5, seed: 2, mirrored: false };
  const hair = makeStrandsPart({
    ...{ id: 'hair', name: 'Hair', mesh: LAPPETS, order: 9, settings: strandSettingsFor(0.03) },
    groom: makeGroom(growGuides(own, LAPPETS.node, 1, [0, -1, 0], growth, null)),
  });
  change(hair);
  const parts = { ...(chains ? lookout.parts : {}), hair };
  return parseShot({ ...lookout, parts, range: { first: 0, last: 40 }, preRollSeconds: 0, loop: false });
}

/** Roots of the hair on a frame, and those where a character's own clip has its skin. */
function rootsOn(shot: Shot, frame: number): number[] {
  const frames = simulateAll(character, shot);
  const index = frames.parts.findIndex((_, p) => pointSpans(frames, p).length > 0);
  const [span] = pointSpans(frames, index);
  const from = 3 * (frame * sizesOf(frames).points + span!.from);
  const { points } = (shot.parts.hair as StrandsPart).groom;
  let at = from;
  return points.flatMap((n) => {
    const place = [...frames.points.subarray(at, at + 3)];
    at += 3 * n;
    return place;
  });
}
function rootsOfClip(own: Character, clip: number, shot: Shot, frame: number): number[] {
  const pose = makePose(own);
  samplePose(own, own.clips[clip]!, frame / shot.fps, pose);
  const world = new Float64Array(16 * own.nodes.length);
  worldMatrices(own, pose, rootMatrix(1, 'Y'), world);
  const layout = layOutStrands(own, shot.parts.hair as StrandsPart, 1);
  const all = posedGroom(layout, own, { pose, world });
  let at = 0;
  return layout.guides.flatMap((g) => {
    const place = [...all.subarray(at, at + 3)];
    at += g.length;
    return place;
  });
}
const farthest = (a: readonly number[], b: readonly number[]) =>
  Math.max(...a.map((x, k) => Math.abs(x - b[k]!)));

it('hair whose skin is moved by chains stands on it where the bake has it, within a tenth of how far they move it', () => {
  const shot = shotOf(character, true);
  const still = shotOf(character, false);
  const again = readGltf(bake(brindle!.bytes, 'brindle.glb', shot, { thin: null }), 'again.glb');
  for (const frame of [12, 26, 40]) {
    const there = rootsOfClip(again, again.clips.length - 1, shot, frame);
    const roots = rootsOn(shot, frame);
    const moved = farthest(roots, rootsOn(still, frame));
    expect(farthest(roots, there)).toBeLessThan(0.1 * moved + 1e-4);
    if (frame === 40) expect(moved).toBeGreaterThan(0.03);
  }
});

it('hair rides a mesh that its morph targets move', () => {
  const own = structuredClone(character);
  const node = own.nodes[LAPPETS.node]!;
  const mesh = own.meshes[node.mesh]!;
  Object.assign(mesh, { weights: Float64Array.of(0) });
  for (const p of mesh.primitives)
    Object.assign(p, { targets: [Float32Array.from(p.positions, (_, k) => (k % 3 === 1 ? 0.05 : 0))] });
  const shot = shotOf(own, false);
  const clip = own.clips[shot.clip!.index]!;
  Object.assign(own.clips, {
    [shot.clip!.index]: {
      ...clip,
      channels: [
        ...clip.channels,
        {
          ...{ node: LAPPETS.node, path: 'weights', interpolation: 'LINEAR' },
          ...{ times: Float64Array.of(0, 1), values: Float64Array.of(0, 1) },
        },
      ],
    },
  });
  const frames = simulateAll(own, shot);
  const plain = simulateAll(character, shot);
  const moved = (f: number) => {
    const at = 3 * f * sizesOf(frames).points;
    return Math.hypot(...[0, 1, 2].map((a) => frames.points[at + a]! - plain.points[at + a]!));
  };
  expect(moved(0)).toBeLessThan(1e-6);
  expect(moved(15) / moved(30)).toBeCloseTo(0.5, 5);
  expect(moved(30)).toBeCloseTo(0.05, 5);
});

it('is held as firmly as is painted where each guide stands, and as its curves have it from root to tip', () => {
  const stray = (change: (p: StrandsPart) => void) => {
    const shot = shotOf(character, false, change);
    const cache: TrackCache = {};
    const frames = simulateAll(character, shot, cache);
    const track = trackOf(character, shot, cache);
    const layout = track.parts[0]!.layout as StrandsLayout;
    return { most: Math.max(...frames.tipOffSource), layout };
  };
  const all = stray(() => undefined);
  const vertices = character.meshes[character.nodes[LAPPETS.node]!.mesh]!.primitives.reduce(
    (n, p) => n + p.positions.length / 3,
    0,
  );
  const half = makeWeightMap(new Float64Array(vertices).fill(0.5));
  const soft = stray((p) => Object.assign(p.maps, { hold: half, bend: half }));
  expect(soft.most).toBeGreaterThan(1.3 * all.most);
  expect([...soft.layout.shares.hold!].every((s) => Math.abs(s - readWeightMap(half)[0]!) < 1e-6)).toBe(true);
  const stiff = stray(
    (p) =>
      void (p.profiles = {
        hold: [
          [0, 3],
          [1, 3],
        ],
      }),
  );
  expect(stiff.most).toBeLessThan(0.8 * all.most);
});
