import { expect, it } from 'vitest';
import { character, ponchoShot, vertices } from '../../../test/poncho';
import type { Frames } from '../../frames/index';
import { simulateAll } from '../../simulate/index';
import type { Part, Shot } from '../../shot/index';
import { makeChainPart } from '../chain/shared';
import { makeBody } from '../../solver/index';
import { makeBetween } from './between';
import type { ClothPart } from './document';
import { Riding } from './riding';
import { makePanelPart } from './shared';

const row = (...names: string[]) =>
  names.map((name) => ({ node: character.nodes.findIndex((n) => n.name === name), name }));
const apartBy = (a: ArrayLike<number>, b: ArrayLike<number>) =>
  Array.from(a).reduce((m, x, k) => Math.max(m, Math.abs(x - b[k]!)), 0);

/** The strap of her mailbag as a thick chain, which hangs under the front of the poncho. */
function shotWith(touches: boolean, weight = 0.3): Shot {
  const joints = row('strap 1', 'strap 2', 'strap 3', 'mailbag', 'bell');
  const chain = makeChainPart({ id: 'strap', name: 'Strap', joints, collidesWith: { colliders: [] } });
  Object.assign(chain.settings, { hold: 0, thickness: 0.08, weight });
  const shot = ponchoShot((p: ClothPart) => {
    p.collidesWith.parts = (touches ? ['strap'] : []) as never;
  });
  return { ...shot, parts: { strap: chain as Part, ...shot.parts } };
}

it('a cloth that lies on a chain is carried by it, each pushes the other, and a light one is moved more', () => {
  const [off, on] = [false, true].map((touches) => simulateAll(character, shotWith(touches))) as [
    Frames,
    Frames,
  ];
  const last = 3 * vertices * (off.count - 1);
  expect(Math.max(...off.contacts)).toBe(0);
  expect(Math.max(...on.contacts)).toBeGreaterThan(20);
  expect(apartBy(off.points.subarray(last), on.points.subarray(last))).toBeGreaterThan(0.02);
  const strap = (f: Frames) => f.tipOffSource.filter((_, k) => k % f.parts.length === 0);
  const moved = (weight: number) =>
    apartBy(
      strap(simulateAll(character, shotWith(false, weight))),
      strap(simulateAll(character, shotWith(true, weight))),
    );
  expect(moved(0.01)).toBeGreaterThan(2e-3);
  expect(moved(0.01)).toBeGreaterThan(5 * moved(3));
  expect([...on.points, ...on.rotations].every(Number.isFinite)).toBe(true);
});

it('the rows of a panel go along with a chain that moves what they hang from', () => {
  const rows = [1, 2, 3].map((k) => row(`poncho ${k} 1`, `poncho ${k} 2`));
  const panel = makePanelPart({ id: 'panel', name: 'Panel', rows, collidesWith: { colliders: [] } });
  Object.assign(panel.settings, { hold: 30, gravity: 0, drag: 0, lift: 0 });
  const trunk = makeChainPart({ id: 'trunk', name: 'Trunk', joints: row('spine', 'chest') });
  Object.assign(trunk.settings, { hold: 1, gravity: 2 });
  const shot = ponchoShot();
  const turns = (parts: Record<string, Part>) => {
    const frames = simulateAll(character, { ...shot, parts });
    const at = frames.parts.find((p) => p.partId === 'panel')!.joints;
    const n = frames.joints.length;
    const f = frames.count - 1;
    return frames.rotations.subarray(4 * (f * n + at.from), 4 * (f * n + at.from + at.length));
  };
  const swung = simulateAll(character, { ...shot, parts: { trunk } }).tipOffSource;
  expect(Math.max(...swung)).toBeGreaterThan(0.02);
  // Held hard, its joints turn against the chest as they did while the chest stood still.
  expect(apartBy(turns({ panel }), turns({ trunk, panel }))).toBeLessThan(0.02);
});

it('a link gets at its ends what it was given at its middle: the same impulse, and the same turn about it', () => {
  const push = new Float64Array(6);
  const link = { gives: Float64Array.of(10, 10), push };
  const body = makeBody({ kind: 'capsule', radius: 0.02, half: 0.1 }, 1, 0, null, link);
  const between = makeBetween([body], 1 / 60);
  between.take(new Riding());
  const { impulse, twist } = between.bodies[0]!.free!;
  impulse.set([1, 2, 3]);
  // About y, along the link, nothing can be given.
  twist.set([0.05, 0, -0.03]);
  between.react(new Riding());
  [1, 2, 3].forEach((p, a) => expect(push[a]! + push[3 + a]!).toBeCloseTo(p, 9));
  // Its ends stand at y = −0.1 and 0.1: x of the turning impulse is y × z, z of it −y × x.
  expect(0.1 * (push[5]! - push[2]!)).toBeCloseTo(0.05, 9);
  expect(-0.1 * (push[3]! - push[0]!)).toBeCloseTo(-0.03, 9);
  expect([...impulse, ...twist].every((x) => x === 0)).toBe(true);
});
