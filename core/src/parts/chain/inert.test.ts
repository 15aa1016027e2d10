import { expect, it } from 'vitest';
import { makeRow, rowShot } from '../../../truth/rig';
import { Collider } from '../../model/index';
import { editShot, type Shot } from '../../shot/index';
import { simulateAll } from '../../simulate/index';
import { inertBecause } from './inert';
import { asChain, CHAIN_SETTING_KEYS, CHAIN_SETTINGS, type ChainPart } from './shared';

const c = makeRow(5, 0.4, 1, (t) => ({ place: [0.2 * Math.sin(7 * t), 0, 0], turn: 0.5 * Math.sin(6 * t) }), {
  direction: [1, -1, 0],
});
const shotWith = (edit: (part: ChainPart, shot: Shot) => void) =>
  editShot(rowShot(c, { hold: 1 }), 'inert-0001', 'Edit', (d) => edit(asChain(d.parts.p), d)).shot;

const ball = (d: Shot) =>
  (d.colliders.b = Collider.parse({
    ...{ id: 'b', name: 'Ball', t: [0.05, -0.25, 0] },
    shape: { kind: 'sphere', radius: 0.1 },
  }));

it('a setting that is said to have no effect has none, and one that is not said so may have one', () => {
  const worlds = {
    bare: shotWith(() => {}),
    'no air, no gravity': shotWith((_, d) => {
      d.airDensity = 0;
      d.gravity = [0, 0, 0];
    }),
    'thick, stretching, handed down, with a ball': shotWith((p, d) => {
      Object.assign(p.settings, { thickness: 0.02, stretch: 20, overlap: 100, lift: 1 });
      ball(d);
    }),
    'not shown': shotWith((p) => void (p.settings.amount = 0)),
  };
  const inert = new Map<string, number>();
  for (const [name, shot] of Object.entries(worlds))
    for (const key of CHAIN_SETTING_KEYS) {
      const why = inertBecause(asChain(shot.parts.p), key, shot);
      if (why === null) continue;
      inert.set(key, (inert.get(key) ?? 0) + 1);
      const { sliderMin, sliderMax } = CHAIN_SETTINGS[key];
      const [low, high] = [sliderMin, sliderMax].map((value) => {
        const edit = (d: Shot) => void (asChain(d.parts.p).settings[key] = value);
        return simulateAll(c, editShot(shot, 'inert-0002', 'Edit', edit).shot).rotations;
      });
      expect(low, `${key}, ${name}: ${why}`).toEqual(high);
    }
  const all = asChain(worlds['thick, stretching, handed down, with a ball'].parts.p);
  for (const key of CHAIN_SETTING_KEYS)
    expect(inertBecause(all, key, worlds['thick, stretching, handed down, with a ball']), key).toBeNull();
  expect(inert.get('friction')).toBe(3);
});
