import { validateBytes } from 'gltf-validator';
import { expect, it } from 'vitest';
import { brindle } from '../../test/bakes';
import { Player } from '../../test/player';
import { character, lookout } from '../../test/poncho';
import { defaultBake } from '../bake/index';
import { openContainer, readGltf } from '../formats/gltf/index';
import { pointSpans, sizesOf } from '../frames/index';
import { growGuides } from '../parts/strands/grow';
import { makeGroom, makeStrandsPart, type StrandsPart } from '../parts/strands/shared';
import { editShot, setScale, type Shot } from '../shot/index';
import { simulateAll } from '../simulate/index';
import { handOff, type HandOffPlan } from './handOff';

const JOINTS = 5;
const LAST = 30;

/** Down about her neck as she looks round. */
function hairy(): Shot {
  const node = character.nodes.findIndex((n) => n.name === 'fringe scalp mesh');
  const growth = { count: 8, length: 0.12, points: 9, lean: 0.4, seed: 1, mirrored: false };
  return editShot({ ...lookout, colliders: {}, range: { first: 0, last: LAST } }, 'grow-0001', 'x', (d) => {
    d.parts.hair = makeStrandsPart({
      ...{ id: 'hair', name: 'Down', order: 9, mesh: { node, name: 'fringe scalp mesh' } },
      groom: makeGroom(growGuides(character, node, 1, [0, -1, 0], growth, null)),
    });
  }).shot;
}

function handedOff(shot: Shot) {
  const plan: HandOffPlan = {
    ...{ bake: { ...defaultBake(shot), thin: null }, clips: null, formats: ['hair.glb'], stem: 'down' },
    ...{ unit: null, up: 'Y', hair: { cards: 100, joints: JOINTS }, pack: 'none' },
  };
  const job = handOff(openContainer(brindle!.bytes, 'brindle.glb'), shot, plan);
  let step = job.next();
  while (!step.done) step = job.next();
  return step.value;
}

/** How far strips are from the simulated guides at most, m of the world, in another player. */
async function farthest(shot: Shot, bytes: Uint8Array<ArrayBuffer>): Promise<number> {
  const again = readGltf(bytes, 'again.glb');
  const strips = again.nodes.findIndex((n) => n.name === 'Hair cards');
  const player = await Player.open(bytes);
  const frames = simulateAll(character, shot);
  const index = frames.parts.findIndex((_, p) => pointSpans(frames, p).length > 0);
  const [span] = pointSpans(frames, index);
  const { points } = (shot.parts.hair as StrandsPart).groom;
  const rings = 2 * JOINTS + 1;
  let worst = 0;
  for (const f of [0, 17, LAST]) {
    const all = player.vertices(player.clips.length - 1, Math.fround(f / shot.fps), strips);
    const wide = sizesOf(frames).points;
    points.forEach((n, g) => {
      for (let k = 0; k < rings; k++) {
        const v = 6 * (g * rings + k);
        const u = (k / (rings - 1)) * (n - 1);
        const i = Math.min(n - 2, Math.floor(u));
        const o = 3 * (f * wide + span!.from + 9 * g + i);
        const off = [0, 1, 2].map((a) => {
          const p = frames.points[o + a]!;
          const meant = p + (u - i) * (frames.points[o + 3 + a]! - p);
          return shot.character.metresPerUnit * ((all[v + a]! + all[v + 3 + a]!) / 2) - meant;
        });
        worst = Math.max(worst, Math.hypot(...off));
      }
    });
  }
  return worst;
}

it('hair joins the character’s skeleton as chains that play within the error that is reported, beside her other parts', async () => {
  const shot = hairy();
  const { files, notes } = handedOff(shot);
  const [file] = files;
  expect(file!.name).toBe('down.hair.glb');
  expect((await validateBytes(file!.bytes)).issues.messages.filter((m) => m.severity < 2)).toEqual([]);
  const again = readGltf(file!.bytes, 'again.glb');
  expect(again.joints.length).toBe(character.joints.length + 8 * JOINTS);
  // They hang on joints of hers.
  const first = again.nodes.find((n) => n.name === 'Down 1 1')!;
  expect(['neck', 'chest']).toContain(again.nodes[first.parent]!.name);
  const most = Number(/, ([\d.]+) mm at most/.exec(notes.join())![1]);
  expect(1000 * (await farthest(shot, file!.bytes))).toBeLessThan(most + 0.1);
  expect(most).toBeLessThan(15);
});

it('and so it does in a file of other units', async () => {
  const shot = editShot(hairy(), 'size-0001', 'Scale', (d) => setScale(d, 0.01)).shot;
  const { files, notes } = handedOff(shot);
  const most = Number(/, ([\d.]+) mm at most/.exec(notes.join())![1]);
  expect(1000 * (await farthest(shot, files[0]!.bytes))).toBeLessThan(most + 0.05);
});
