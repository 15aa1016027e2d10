import { expect, it } from 'vitest';
import { makeArena } from '../arena';
import { makeBody } from '../bodies';
import { wholeStep } from '../cloth/index';
import { bodyNumbers, makeLattice, makeSoftBody } from './index';

const [N, SIZE, RATE] = [3, 0.1, 120] as const;

/** A block of cells above a link of another chain that lies along x, as a capsule; compiled or not. */
function onLink(plain: boolean) {
  const lattice = makeLattice(
    [N, N, N],
    SIZE / N,
    [-SIZE / 2, 0.03, -SIZE / 2],
    new Float64Array(N ** 3).fill(1),
  );
  const nodes = Array.from({ length: lattice.nodes }, (_, i) => [i, 0, 0, 0, 0, 0, 0, 0]).flat();
  const shares = Array.from({ length: lattice.nodes }, () => [1, 0, 0, 0, 0, 0, 0, 0]).flat();
  const skin = {
    ...{ points: lattice.nodes, nodes: Int32Array.from(nodes), shares: Float64Array.from(shares) },
    ...{ area: new Float64Array(lattice.nodes).fill(1e-3), off: new Float64Array(3 * lattice.nodes) },
    triangles: new Uint32Array(0),
  };
  const push = new Float64Array(6);
  const link = makeBody({ kind: 'capsule', radius: 0.02, half: 0.2 }, 0.4, 0, null, {
    gives: Float64Array.of(1, 1),
    push,
  });
  link.places.set([0, 0, 0, 0, 0, Math.SQRT1_2, Math.SQRT1_2, 0, 0, 0, 0, 0, Math.SQRT1_2, Math.SQRT1_2]);
  const press = {
    ...{ skin, bodies: [wholeStep(link)], pushed: [link], strings: [], blow: 1, h: 1 / RATE },
    how: () => ({ thickness: 0.004, friction: 0.4, impedance: 1e4, mass: 4 }),
  };
  const matter = { young: 5e4, poisson: 0.4, density: 500, damping: 0.2, first: 10 };
  const arena = plain ? null : makeArena(bodyNumbers(lattice, press));
  const body = makeSoftBody(lattice, matter, 1 / RATE, arena, press);
  body.begin(lattice.rest, new Float64Array(3 * lattice.nodes));
  let pressing = 0;
  for (let k = 0; k < 40; k++) pressing += body.step([0, -9.81, 0], k % 4 === 0).pressing;
  return { body, push, pressing };
}

it('a link of a chain gets back what a soft body that falls on it gains, at both of its ends', () => {
  const { body, push, pressing } = onLink(false);
  expect(pressing).toBeGreaterThan(10);
  const [, , v, old] = body.moving as [Float64Array, Float64Array, Float64Array, Float64Array];
  // Speeds as the second order carries them on.
  const momentum = body.mass.reduce((s, m, i) => s + m * (1.5 * v[3 * i + 1]! - 0.5 * old[3 * i + 1]!), 0);
  const weight = body.mass.reduce((s, m) => s + m, 0) * 9.81;
  // In its first step, which is first order, it gains half as much again by that.
  const gained = momentum + (weight * 40.5) / RATE;
  expect(gained).toBeGreaterThan(0.1 * weight);
  // Within one per cent: a solve leaves a little.
  expect((push[1]! + push[4]!) / -gained).toBeCloseTo(1, 1.7);
  // It lies in the middle.
  expect(push[1]! / push[4]!).toBeCloseTo(1, 1);
});

it('comes to the same bits compiled and not, with all that touches', () => {
  const [a, b] = [onLink(false), onLink(true)];
  expect(a.body.x).toEqual(b.body.x);
  expect(a.push).toEqual(b.push);
});
