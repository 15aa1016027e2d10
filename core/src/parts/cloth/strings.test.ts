import { expect, it } from 'vitest';
import { balloonsGlb, demoFiles } from '../../../../demo/src/index';
import { bake } from '../../../test/bakes';
import { makeFigure, nodeNamed } from '../../../test/figure';
import { Player } from '../../../test/player';
import { readGltf } from '../../formats/gltf/index';
import { editShot, parseShot } from '../../shot/index';
import { simulateAll } from '../../simulate/index';
import { makeChainPart } from '../chain/shared';
import type { ClothPart } from './document';
import { makeClothPart } from './shared';

it('balloons that are tied to the tip of a light chain lift it where they pull, and hang on it where not', async () => {
  const name = 'brindle-balloons.glb';
  const character = readGltf(await balloonsGlb(), name);
  const shot = (await demoFiles()).find((f) => f.fileName === name)!.shots[0]!;
  const joints = [1, 2, 3, 4].map((k) => nodeNamed(character, `lappet left ${k}`));
  const chain = makeChainPart({ id: 'lappet', name: 'Lappet', joints, collidesWith: { colliders: [] } });
  Object.assign(chain.settings, { hold: 0.3, weight: 0.03 });
  const tips = (pulls: boolean) => {
    const balloons = structuredClone(shot.parts.balloons) as ClothPart;
    const [what] = balloons.holds;
    Object.assign(balloons, {
      ...{ order: 1, holds: [], ties: [{ what, to: { by: 'joint', joint: joints[3]! }, pulls }] },
    });
    const still = parseShot({
      ...{ ...shot, clip: null, cycle: { ...shot.cycle, repeats: 1 }, range: { first: 0, last: 70 } },
      ...{ start: 'wait', preRollSeconds: 0, parts: { lappet: chain, balloons } },
    });
    const frames = simulateAll(character, still);
    expect([...frames.points].every(Number.isFinite)).toBe(true);
    const at = frames.parts.findIndex((p) => p.partId === 'lappet');
    return Array.from(
      { length: frames.count },
      (_, f) => frames.tips[3 * (f * frames.parts.length + at) + 1]!,
    );
  };
  const [lifted, hung] = [tips(true), tips(false)];
  expect(Math.abs(hung.at(-1)! - hung[0]!)).toBeLessThan(0.02);
  // It stands on its head, and stays so.
  for (const y of lifted.slice(40)) expect(y - hung.at(-1)!).toBeGreaterThan(0.3);
});

it('lines of a mesh move with its cloth, and another player plays them', async () => {
  const places = [0, 0, 0, 0.2, 0, 0, 0, 0.2, 0, 0.2, 0.2, 0, 0.2, 0.3, 0, 0.2, 0.4, 0];
  const { character, bytes, shot } = makeFigure(
    { flag: { places, triangles: [0, 1, 2, 1, 3, 2], lines: [3, 4, 4, 5] } },
    ...([1, 24, (t: number) => [0.3 * Math.sin(3 * t), 0, 0] as const] as const),
  );
  const flag = nodeNamed(character, 'flag');
  const { shot: made } = editShot(shot, 'flag-00001', 'Make cloth', (d) => {
    d.preRollSeconds = 0;
    d.parts.flag = makeClothPart({
      ...{ id: 'flag', name: 'Flag', mesh: flag },
      collidesWith: { colliders: [] },
    });
    Object.assign((d.parts.flag as ClothPart).settings, { hold: 2, damping: 0.3 });
  });
  const frames = simulateAll(character, made);
  const wide = frames.pointed[0]!.vertices;
  // Vertices of triangles, and of lines again.
  expect(wide).toBe(places.length / 1.5);
  const at = (f: number, v: number) => [
    ...frames.points.subarray(3 * (f * wide + v), 3 * (f * wide + v) + 3),
  ];
  for (const f of [0, 12, 24]) {
    // Where a line begins it is one with the corner of the flag, and it keeps its length.
    const [corner, start, middle, end] = [at(f, 3), at(f, 9), at(f, 10), at(f, 11)];
    expect(start).toEqual(corner);
    const far = (p: number[], q: number[]) => Math.hypot(...p.map((x, a) => x - q[a]!));
    expect(far(start, middle)).toBeCloseTo(0.1, 2);
    expect(far(middle, end)).toBeCloseTo(0.1, 2);
  }
  expect(Math.abs(at(12, 11)[0]! - at(0, 11)[0]!)).toBeGreaterThan(0.05);

  const baked = bake(bytes, 'figure.glb', made, { vertices: { to: 'morphs', most: 60, millimetres: 0 } });
  const player = await Player.open(baked);
  const played = player.vertices(player.clips.length - 1, 0.5, flag.node);
  expect(played.length).toBe(3 * wide);
  played.forEach((x, k) => expect(Math.abs(x - frames.points[3 * wide * 12 + k]!)).toBeLessThan(1e-3));
});
