import { expect, it } from 'vitest';
import { brindle } from '../../../test/bakes';
import { readGltf } from '../../formats/gltf/index';
import { applyRemedy, diagnose } from '../../measure/index';
import { Collider } from '../../model/index';
import { editShot, type Shot } from '../../shot/index';
import { simulateAll, trackOf, type TrackCache } from '../../simulate/index';
import type { ClothPart } from './document';

const character = readGltf(brindle!.bytes, 'brindle.glb');
const windy = brindle!.shots.find((s) => s.name === 'Brindle, Leap in the wind')!;
const shotWith = (settings: Partial<ClothPart['settings']>): Shot =>
  editShot(windy, 'edit-0001', 'Short', (d) => {
    d.range = { first: 20, last: 35 };
    d.colliders = {};
    Object.assign(d.parts.poncho!.settings, settings);
  }).shot;
const adviceOn = (shot: Shot) => {
  const cache: TrackCache = {};
  const frames = simulateAll(character, shot, cache);
  return diagnose(character, shot, frames, trackOf(character, shot, cache));
};

it.each([
  ['hold swallows it', { hold: 30 }],
  ['too stretchy', { stretch: 40 }],
  ['too coarse to fold', { bend: 0.001 }],
  ['wind finds nothing', { drag: 0, lift: 0 }],
])('says that %s, and its cure ends it', (cause, settings) => {
  expect(adviceOn(shotWith({})).map((d) => d.cause)).not.toContain(cause);
  let shot = shotWith(settings);
  expect(adviceOn(shot).find((d) => d.cause === cause)?.sentence).toContain('Poncho');
  const told = adviceOn(shot).find((d) => d.cause === cause)!;
  expect(told.sentence).toContain('Poncho');
  // A cure may be a step on the way.
  for (let k = 0; k < 4; k++) {
    const again = adviceOn(shot).find((d) => d.cause === cause);
    if (!again) return;
    shot = editShot(shot, 'edit-0002', 'Cure', (d) =>
      applyRemedy(d as Shot, again.partId, again.remedy),
    ).shot;
  }
  expect(adviceOn(shot).map((d) => d.cause)).not.toContain(cause);
});

it('says where it is pinched between two colliders, and leaving one out ends it', () => {
  // A wall before and one behind her, which close in until there is nothing between them.
  const walls = (gap: number) =>
    editShot(shotWith({}), 'edit-0003', 'Walls', (d) => {
      (d.parts.poncho as ClothPart).collidesWith.colliders = 'all';
      for (const [id, side] of [
        ['wall', -1],
        ['door', 1],
      ] as const) {
        const at = (z: number) => [0, 1, side * z];
        d.colliders[id as never] = Collider.parse({
          ...{ id, name: id, shape: { kind: 'box', size: [4, 4, 0.4] }, t: at(1.2) },
          keys: [
            { frame: 20, t: at(1.2), r: [0, 0, 0, 1], kind: 'smooth' },
            { frame: 34, t: at(0.2 + gap), r: [0, 0, 0, 1], kind: 'smooth' },
          ],
        });
      }
    }).shot;
  const causes = (of: Shot) => adviceOn(of).map((d) => d.cause);
  expect(causes(walls(0.8))).not.toContain('pinched');
  const told = adviceOn(walls(-0.02)).find((d) => d.cause === 'pinched')!;
  expect(told.sentence).toMatch(/between (wall and door|door and wall)/);
  const cured = editShot(walls(-0.02), 'edit-0004', 'Cure', (d) =>
    applyRemedy(d as Shot, told.partId, told.remedy),
  ).shot;
  expect(causes(cured)).not.toContain('pinched');
});
