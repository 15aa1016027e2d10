import { expect, it } from 'vitest';
import { brindle } from '../../../test/bakes';
import { Player } from '../../../test/player';
import { character, MESH, ponchoShot, vertices } from '../../../test/poncho';
import { bakeGlb, defaultBake } from '../../bake/index';
import { openContainer } from '../../formats/gltf/index';
import { coarseShot, simulateAll } from '../../simulate/index';
import { makeChainPart } from '../chain/shared';
import type { ClothPart } from './document';
import type { Part, Shot } from '../../shot/index';

const rowOf = (k: number) =>
  [1, 2].map((j) => {
    const node = character.nodes.findIndex((n) => n.name === `poncho ${k} ${j}`);
    return { node, name: character.nodes[node]!.name };
  });
const chains = Object.fromEntries(
  [1, 3].map((k): [string, Part] => {
    const chain = makeChainPart({ id: `row${k}`, name: `Row ${k}`, joints: rowOf(k) });
    Object.assign(chain.settings, { hold: 0, gravity: -3 });
    return [chain.id, chain];
  }),
);
const withParts = (shot: Shot, parts: Record<string, Part>): Shot => ({ ...shot, parts });

it('the skin of a cloth goes along with chains that move its joints, as another player skins it', async () => {
  const still = ponchoShot((p) => void (p.settings.amount = 0));
  const poncho = still.parts.poncho!;
  const alone = simulateAll(character, still);
  const borne = simulateAll(character, withParts(still, { ...chains, poncho }));
  // The chains alone, baked and played elsewhere.
  const shot = withParts(still, chains);
  const run = bakeGlb(openContainer(brindle!.bytes, 'brindle.glb'), shot, defaultBake(shot));
  let step = run.next();
  while (!step.done) step = run.next();
  const player = await Player.open(step.value.bytes);
  const f = 10;
  const time = Math.fround((shot.range.first + f) / shot.fps);
  const played = player.vertices(player.clips.length - 1, time, MESH);
  const at = 3 * vertices * f;
  let [off, moved] = [0, 0];
  for (let k = 0; k < 3 * vertices; k++) {
    off = Math.max(off, Math.abs(borne.points[at + k]! - played[k]!));
    moved = Math.max(moved, Math.abs(borne.points[at + k]! - alone.points[at + k]!));
  }
  expect(moved).toBeGreaterThan(0.02);
  expect(off).toBeLessThan(2e-3);
});

it('what a cloth does on such a skin is whole and coarse alike, and chains stay what they were', () => {
  const shot = ponchoShot();
  const both = withParts(shot, { ...chains, poncho: shot.parts.poncho! });
  const whole = simulateAll(character, both);
  const rough = simulateAll(character, coarseShot(character, both), { coarse: true });
  const alone = simulateAll(character, withParts(shot, chains));
  expect([...whole.rotations]).toEqual([...alone.rotations]);
  const last = whole.points.length / whole.count;
  const mean = (list: Float32Array) =>
    list.subarray((whole.count - 1) * last).reduce((s, v) => s + v, 0) / last;
  expect(Math.abs(mean(whole.points) - mean(rough.points))).toBeLessThan(0.02);
  expect((shot.parts.poncho as ClothPart).kind).toBe('cloth');
});
