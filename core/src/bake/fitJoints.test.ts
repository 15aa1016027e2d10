import { validateBytes } from 'gltf-validator';
import { describe, expect, it } from 'vitest';
import { brindle } from '../../test/bakes';
import { Player } from '../../test/player';
import { character, MESH, shot, VERTICES, waving } from '../../test/waving';
import { openContainer, readGltf, type BakedClip } from '../formats/gltf/index';
import { quatFromAxis, quatRotate } from '../math/index';
import { bakeClip } from './bake';
import type { MadeHelpers } from './fitJoints';
import { defaultBake } from './options';
import { fitSkin, skinLeftOver, type SkinTask } from './skinFit';
import { writeFitted } from './writeFitted';

/** A strip of points that two joints carry, the middle ones half each; what is kept stands still. */
function strip(frames: number): SkinTask {
  const vertices = 60;
  const rest = new Float64Array(3 * vertices);
  const places = new Float64Array(3 * vertices * frames);
  const share = (x: number) => Math.min(1, Math.max(0, 0.5 + 4 * (x - 0.5)));
  for (let v = 0; v < vertices; v++) rest.set([v / (vertices - 1), 0.05 * (v % 3), 0.02 * (v % 2)], 3 * v);
  const q = new Float64Array(4);
  const at = new Float64Array(3);
  for (let f = 0; f < frames; f++)
    for (let v = 0; v < vertices; v++)
      for (const [b, w] of [1 - share(rest[3 * v]!), share(rest[3 * v]!)].entries()) {
        quatFromAxis(q, 0, b, 1 - b, 0.3, 0.7 * Math.sin(0.4 * f + 2 * b) - 0.7 * Math.sin(2 * b));
        quatRotate(at, 0, q, 0, rest, 3 * v);
        for (let a = 0; a < 3; a++) places[3 * (vertices * f + v) + a]! += w * (at[a]! + 0.01 * b * f);
      }
  return {
    ...{ vertices, frames, rest, places, kept: new Uint8Array(vertices) },
    had: {
      count: 1,
      moves: Float64Array.from({ length: 12 * frames }, (_, k) => Number((k % 12) % 5 === 0)),
    },
    joints: new Uint16Array(4 * vertices),
    shares: Float64Array.from({ length: 4 * vertices }, (_, k) => Number(k % 4 === 0)),
  };
}

describe('a fit onto joints', () => {
  it('of what two joints carry finds two joints that leave next to nothing', () => {
    const task = strip(40);
    const fit = fitSkin(task, 2);
    const { rms, largest } = skinLeftOver(task, fit, fit.moves);
    expect(rms).toBeLessThan(2e-3);
    expect(largest).toBeLessThan(1e-2);
    for (let v = 0; v < task.vertices; v++) {
      const shares = fit.shares.subarray(4 * v, 4 * v + 4);
      expect(Math.min(...shares)).toBeGreaterThanOrEqual(0);
      expect(shares.reduce((s, w) => s + w, 0)).toBeCloseTo(1, 5);
    }
  });
  it('leaves less with more joints, and what is kept as it was', () => {
    const task = strip(40);
    task.kept.fill(1, 0, 5);
    const left = [1, 2, 6].map((n) => skinLeftOver(task, fitSkin(task, n), fitSkin(task, n).moves).rms);
    expect(left[1]!).toBeLessThan(left[0]!);
    expect(left[2]!).toBeLessThan(left[1]!);
    expect(Array.from(fitSkin(task, 2).joints.subarray(0, 20))).toEqual(new Array(20).fill(0));
  });
  it('of fewer points than joints asked has as many joints as points, and of none has none', () => {
    const task = strip(4);
    task.kept.fill(1, 3);
    expect(fitSkin(task, 9).middles.length).toBe(9);
    task.kept.fill(1);
    expect(fitSkin(task, 9).middles.length).toBe(0);
  });
});

/** Largest and RMS distance between what a player plays of the poncho and places of frames, m. */
function played(player: Player, clip: number, fps: number, places: (frame: number) => ArrayLike<number>) {
  let [worst, sum, count] = [0, 0, 0];
  for (let f = 0; f < 90; f += 11) {
    const is = player.vertices(clip, Math.fround(f / fps), MESH);
    const meant = places(f);
    for (let k = 0; k < is.length; k += 3) {
      const off = Math.hypot(...[0, 1, 2].map((a) => is[k + a]! - meant[k + a]!));
      worst = Math.max(worst, off);
      sum += off * off;
      count++;
    }
  }
  return { worst: 1000 * worst, rms: 1000 * Math.sqrt(sum / count) };
}

it('vertices become helper joints that another player plays within the error said, in all clips', async () => {
  const frames = waving();
  const { clip } = bakeClip(character, shot, frames, { ...defaultBake(shot), thin: null });
  const container = openContainer(brindle!.bytes, 'brindle.glb');
  const wanted = { to: 'joints', count: 16, under: null } as const;
  const made = new Map<number, MadeHelpers>();
  const { bytes, reports } = writeFitted(container, character, shot, clip, wanted, made);
  const [report] = reports;
  expect(report).toMatchObject({ node: MESH, joints: 16, shapes: 0 });
  expect(report!.rms).toBeLessThan(6);
  expect((await validateBytes(bytes)).issues.messages.filter((m) => m.severity < 2)).toEqual([]);

  const rowOf = (f: number) => frames.points.subarray(3 * VERTICES * f, 3 * VERTICES * (f + 1));
  const player = await Player.open(bytes);
  const is = played(player, player.clips.length - 1, shot.fps, rowOf);
  expect(is.worst).toBeLessThan(1.1 * report!.largest + 0.05);
  expect(is.rms).toBeLessThan(1.3 * report!.rms + 0.02);

  // The clips that were there move the mesh as they did, and the rest of the file is there to the byte.
  const before = await Player.open(brindle!.bytes);
  for (let c = 0; c < character.clips.length; c++) {
    const own = played(player, c, shot.fps, (f) => before.vertices(c, Math.fround(f / shot.fps), MESH));
    expect(own.rms).toBeLessThan(6);
  }
  const again = readGltf(bytes, 'again.glb');
  const ownOf = (m: (typeof again.meshes)[number]) =>
    m.primitives.map((p) => [...p.indices, ...p.positions, ...(p.uvs ?? [])]);
  character.meshes.forEach((m, i) => expect(ownOf(again.meshes[i]!)).toEqual(ownOf(m)));

  // A second clip moves the helpers that are there.
  const second: BakedClip = { ...clip, name: 'Second' };
  const twice = writeFitted(openContainer(bytes, 'a.glb'), character, shot, second, wanted, made);
  expect(readGltf(twice.bytes, 'b.glb').nodes.length).toBe(again.nodes.length);
  const both = await Player.open(twice.bytes);
  const same = played(both, both.clips.length - 1, shot.fps, rowOf);
  expect(same.rms).toBeLessThan(1.3 * report!.rms + 0.02);
  expect((await validateBytes(twice.bytes)).issues.numErrors).toBe(0);
}, 120_000);
