import { describe, expect, it } from 'vitest';
import { makeRow, rowShot, type RootMotion } from '../../../truth/rig';
import type { Profile } from '../../model/index';
import { editShot } from '../../shot/index';
import { simulateAll } from '../../simulate/index';
import { asChain, type ChainSettingKey, type ChainSettings } from './shared';

const sway: RootMotion = (t) => ({ place: [0.2 * Math.sin(6 * t), 0, 0], turn: 0.6 * Math.sin(5 * t) });
const c = makeRow(8, 0.5, 2, sway);

/** Frames of the row with a root-to-tip curve on one setting. */
function along(key: ChainSettingKey, profile: Profile, settings: Partial<ChainSettings> = {}) {
  const shot = rowShot(c, { hold: 1.5, gravity: 0.3, ...settings });
  const edit = (d: { parts: Record<string, unknown> }) =>
    void (asChain(d.parts.p as { kind: string }).profiles[key] = profile);
  return simulateAll(c, editShot(shot, 'along-0001', 'Edit', edit).shot);
}
const even: Profile = [
  [0, 1],
  [1, 1],
];
const tipOnly: Profile = [
  [0, 0],
  [0.5, 0],
  [1, 1],
];

describe('root-to-tip curves of settings that once had none', () => {
  const plain = (settings: Partial<ChainSettings> = {}) => along('bend', even, settings);
  for (const [key, settings] of [
    ['amount', { amount: 80 }],
    ['delayPerJoint', { delayPerJoint: 1.5 }],
    ['travel', { travel: 60 }],
    ['turn', { turn: 40 }],
    ['stretchSoftness', { stretch: 20, stretchSoftness: 2 }],
  ] as const)
    it(`${key}: 1 all along is what it is without, and less at the root changes the root`, () => {
      const without = plain(settings);
      const with1 = along(key, even, settings);
      const far = (f: typeof without, from: number, to: number) => {
        let most = 0;
        for (let k = 0; k < f.rotations.length; k++) {
          const joint = (k >> 2) % 8;
          if (joint >= from && joint < to)
            most = Math.max(most, Math.abs(f.rotations[k]! - without.rotations[k]!));
        }
        return most;
      };
      expect(far(with1, 0, 8)).toBeLessThan(1e-9);
      const tipped = along(key, tipOnly, settings);
      expect(far(tipped, 0, 8)).toBeGreaterThan(1e-4);
    });
  it('amount: 200 turns every joint twice as far from its source', () => {
    const once = along('bend', even, { amount: 100 });
    const twice = along('bend', even, { amount: 200 });
    const angle = (q: Float64Array, k: number) => 2 * Math.acos(Math.min(1, Math.abs(q[k + 3]!)));
    for (let k = 0; k < once.rotations.length; k += 4)
      expect(angle(twice.rotations, k)).toBeCloseTo(2 * angle(once.rotations, k), 4);
  });
  it('amount: where it is 0 the joints are those of the source, to the bit', () => {
    const f = along('amount', tipOnly, { amount: 100 });
    const wide = f.rotations.length / f.count;
    for (let k = 0; k < f.count; k++)
      for (let j = 0; j < 3; j++)
        expect(Array.from(f.rotations.subarray(k * wide + 4 * j, k * wide + 4 * j + 4))).toEqual([
          0, 0, 0, 1,
        ]);
    const tip = Array.from({ length: f.count }, (_, k) => Math.abs(f.rotations[k * wide + 30]!));
    expect(Math.max(...tip)).toBeGreaterThan(1e-4);
  });
});
