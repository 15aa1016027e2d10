import { expect, it } from 'vitest';
import { brindle } from '../../../test/bakes';
import { readGltf } from '../../formats/gltf/index';
import { parseShot } from '../../shot/index';
import { simulateAll } from '../../simulate/index';
import { likelyHolds } from '../../sheets/index';
import { makeClothPart } from './shared';

const character = readGltf(brindle!.bytes, 'brindle.glb');
const MESH = character.nodes.findIndex((n) => n.mesh >= 0 && /poncho/.test(n.name));
const away = brindle!.shots.find((s) => s.clip?.name === 'Stride away')!;
const index = character.clips.findIndex((c) => c.name === 'Stride');
const { duration } = character.clips[index]!;

it('a loop of folds that never repeats ends in its beginning, without a jump', () => {
  const mesh = { node: MESH, name: character.nodes[MESH]!.name };
  const part = makeClothPart({
    ...{ id: 'poncho', name: 'Poncho', mesh, holds: likelyHolds(character, MESH) },
  });
  part.settings.damping = 0.02;
  const shot = parseShot({
    ...{ ...away, parts: { poncho: part }, colliders: {}, forces: {}, substeps: 2, loop: true },
    ...{
      clip: { index, name: 'Stride' },
      range: { first: 0, last: Math.round(duration * away.fps) },
    },
  });
  const f = simulateAll(character, shot);
  const { loop } = f.start;
  expect(loop?.found).toBe(true);
  expect(loop!.blended).toBeGreaterThan(2);
  const wide = f.points.length / f.count;
  const row = (k: number) => f.points.subarray(k * wide, (k + 1) * wide);
  const step = (a: number, b: number) => row(a).reduce((s, x, i) => Math.max(s, Math.abs(x - row(b)[i]!)), 0);
  const last = f.count - 1;
  expect([...row(last)]).toEqual([...row(0)]);
  // The fastest vertex goes no farther from one frame to the next across the end than within the lap.
  const within = Math.max(...Array.from({ length: last - loop!.blended - 1 }, (_, k) => step(k, k + 1)));
  for (let k = last - loop!.blended; k < last; k++) expect(step(k, k + 1)).toBeLessThan(1.6 * within);
});
