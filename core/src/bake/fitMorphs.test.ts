import { validateBytes } from 'gltf-validator';
import { describe, expect, it } from 'vitest';
import { brindle } from '../../test/bakes';
import { Player } from '../../test/player';
import { character, MESH, shot, VERTICES, waving, worldAt } from '../../test/waving';
import { skinVertices, unskinVertices } from '../character/index';
import { openContainer, readGltf } from '../formats/gltf/index';
import { bakeClip } from './bake';
import { defaultBake } from './options';
import { principalShapes } from './principal';
import { writeFitted } from './writeFitted';

it('unskinning is skinning the other way round', () => {
  const still = worldAt(30);
  const [places, back] = [new Float64Array(3 * VERTICES), new Float64Array(3 * VERTICES)];
  skinVertices(places, character, MESH, still);
  unskinVertices(back, places, character, MESH, still);
  expect(Math.max(...back.map(Math.abs))).toBeLessThan(1e-6);
});

describe('principal shapes', () => {
  const size = 30;
  const rows = Float64Array.from({ length: 50 * size }, (_, k) => {
    const [f, i] = [Math.floor(k / size), k % size];
    return (
      0.5 +
      Math.sin(0.2 * f) * Math.sin(i) +
      0.1 * Math.cos(0.5 * f) * Math.cos(3 * i) +
      1e-4 * Math.sin(7 * k)
    );
  });
  it('of two movements and a trace of noise are two, and give the rows back', () => {
    const found = principalShapes(rows, size, { most: 40, error: 1e-3 });
    expect(found.shapes.length).toBe(2);
    expect(found.rms).toBeLessThan(1e-3);
    for (let f = 0; f < 50; f += 7)
      for (let k = 0; k < size; k++) {
        const at = found.shapes.reduce((s, u, i) => s + found.weights[2 * f + i]! * u[k]!, found.mean[k]!);
        expect(Math.abs(at - rows[f * size + k]!)).toBeLessThanOrEqual(found.largest * 1.0001);
      }
    expect(Math.max(...found.weights.map(Math.abs))).toBeCloseTo(1, 6);
  });
  it('are the fewest that leave no vertex farther off than asked, where that is asked', () => {
    const of = (error: number) => principalShapes(rows, size, { most: 40, error, largest: true });
    const rough = of(0.2);
    expect([rough.shapes.length, rough.largest < 0.2]).toEqual([1, true]);
    const fine = of(2e-4);
    expect(fine.shapes.length).toBeGreaterThan(1);
    expect(fine.largest).toBeLessThanOrEqual(2e-4);
    expect(principalShapes(rows, size, { most: fine.shapes.length - 1, error: 0 }).largest).toBeGreaterThan(
      2e-4,
    );
  });
  it('more of them leave less, and rows that stand still need none', () => {
    const left = [0, 1, 2, 5].map((most) => principalShapes(rows, size, { most, error: 0 }).rms);
    for (let k = 1; k < left.length; k++) expect(left[k]!).toBeLessThan(left[k - 1]!);
    const still = principalShapes(new Float64Array(20 * size).fill(2), size, { most: 9, error: 0 });
    expect([still.shapes.length, still.rms]).toEqual([0, 0]);
  });
});

it('vertices become morph targets that another player plays within the error that is reported', async () => {
  const frames = waving();
  const { clip } = bakeClip(character, shot, frames, { ...defaultBake(shot), thin: null });
  const container = openContainer(brindle!.bytes, 'brindle.glb');
  const { bytes, reports } = writeFitted(container, character, shot, clip, {
    to: 'morphs',
    most: 12,
    millimetres: 0,
  });
  const [report] = reports;
  expect(report).toMatchObject({ node: MESH, shapes: 13 });
  expect(report!.rms).toBeLessThan(1);
  const validated = await validateBytes(bytes);
  expect(validated.issues.messages.filter((m) => m.severity < 2)).toEqual([]);

  const player = await Player.open(bytes);
  let [worst, sum, count] = [0, 0, 0];
  for (let f = 0; f < frames.count; f += 11) {
    const played = player.vertices(player.clips.length - 1, Math.fround(f / shot.fps), MESH);
    for (let k = 0; k < played.length; k += 3) {
      const off = Math.hypot(
        ...[0, 1, 2].map((a) => played[k + a]! - frames.points[3 * VERTICES * f + k + a]!),
      );
      worst = Math.max(worst, off);
      sum += off * off;
      count++;
    }
  }
  expect(1000 * worst).toBeLessThan(1.2 * report!.largest + 0.05);
  expect(1000 * Math.sqrt(sum / count)).toBeLessThan(1.3 * report!.rms + 0.02);

  // What was in the file is there still, to the byte: other meshes, their indices and texture places, all clips.
  const again = readGltf(bytes, 'again.glb');
  character.meshes.forEach((m, i) => {
    m.primitives.forEach((p, k) => {
      expect([...again.meshes[i]!.primitives[k]!.indices]).toEqual([...p.indices]);
      expect([...again.meshes[i]!.primitives[k]!.positions]).toEqual([...p.positions]);
    });
  });
  expect(again.clips.map((c) => c.name).slice(0, character.clips.length)).toEqual(
    character.clips.map((c) => c.name),
  );
  // A second clip fitted onto the same mesh leaves the first as it is.
  const twice = writeFitted(
    openContainer(bytes, 'again.glb'),
    again,
    shot,
    { ...clip, name: 'Second' },
    { to: 'morphs', most: 5, millimetres: 0 },
  );
  const both = await Player.open(twice.bytes);
  const [once, still] = [player, both].map((p) => p.vertices(character.clips.length, 1, MESH));
  expect(Math.max(...once!.map((x, k) => Math.abs(x - still![k]!)))).toBeLessThan(1e-6);
  expect((await validateBytes(twice.bytes)).issues.numErrors).toBe(0);
}, 60_000);
