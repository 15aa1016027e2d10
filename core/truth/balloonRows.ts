import { makeSheet, type Sheet } from '../src/sheets/index';
import { makeArena } from '../src/solver/index';
import { makeCloth, type Cloth, type Fill } from '../src/solver/cloth/index';
import { atMost, judge, type TruthRow } from './row';

const G = 9.81;
const RATE = 360;

/** A ball of so many rings, of a radius (m), its poles points. */
export function ballSheet(rings: number, radius: number): Sheet {
  const around = 2 * rings;
  const places: number[] = [0, radius, 0];
  for (let r = 1; r < rings; r++)
    for (let k = 0; k < around; k++) {
      const [a, b] = [(Math.PI * r) / rings, (2 * Math.PI * k) / around];
      places.push(
        radius * Math.sin(a) * Math.cos(b),
        radius * Math.cos(a),
        -radius * Math.sin(a) * Math.sin(b),
      );
    }
  const last = places.length / 3;
  places.push(0, -radius, 0);
  const at = (r: number, k: number) => 1 + (r - 1) * around + (k % around);
  const triangles: number[] = [];
  for (let k = 0; k < around; k++) {
    triangles.push(0, at(1, k), at(1, k + 1), last, at(rings - 1, k + 1), at(rings - 1, k));
    for (let r = 1; r + 1 < rings; r++)
      triangles.push(at(r, k), at(r + 1, k), at(r, k + 1), at(r, k + 1), at(r + 1, k), at(r + 1, k + 1));
  }
  return makeSheet(Float64Array.from(places), triangles);
}

/** A filled ball of cloth, 0.05 kg/m², that nothing holds; some steps of it. */
export function floating(fill: (step: number) => Fill, steps: number, stretch = 0): Cloth {
  const sheet = ballSheet(10, 0.14);
  const cloth = makeCloth({
    ...{ sheet, h: 1 / RATE, bodies: [], held: new Uint8Array(sheet.points), selfContact: false },
    matter: { weight: 0.05, stretch, compression: stretch, rigidity: 1e-6 },
    skin: () => ({ thickness: 0, friction: 0 }),
    arena: makeArena,
  });
  cloth.begin(sheet.rest, new Float64Array(sheet.rest.length));
  for (let k = 0; k < steps; k++)
    cloth.step({
      ...{ before: sheet.rest, now: sheet.rest, from: 0, to: 1, gravity: [0, -G, 0], fresh: k % 6 === 0 },
      sail: { drag: 0, lift: 0, density: 0 },
      field: null,
      fill: fill(k),
    });
  return cloth;
}

/** 31: a ball of cloth that is filled: how fast it rises, and its volume. */
export function balloonRows(): TruthRow[] {
  const rises = floating(() => ({ filling: 1, pressure: 5000, float: 3 }), RATE);
  const mass = rises.mass.reduce((s, m) => s + m, 0);
  const height = rises.mass.reduce((s, m, p) => s + (m * rises.x[3 * p + 1]!) / mass, 0);
  const side = rises.mass.reduce((s, m, p) => s + (m * rises.x[3 * p]!) / mass, 0);
  const half = floating(
    (k) => ({ filling: 1 - 0.3 * Math.min(1, k / RATE), pressure: 20_000, float: 1 }),
    2 * RATE,
  );
  const swells = floating(() => ({ filling: 1.5, pressure: 5000, float: 1 }), RATE, 40);
  return [
    judge(31, 'balloon that lifts three times its weight: acceleration, m/s²', 2 * G, 2 * height, 0.01, true),
    atMost(31, 'the same: how far it goes aside in a second, m', Math.abs(side), 1e-4),
    judge(31, 'the same: volume', 1, rises.volumes()[0]!, 0.01, true),
    judge(31, 'balloon whose filling is keyed down to 0.7: volume', 0.7, half.volumes()[0]!, 0.01, true),
    atMost(31, 'balloon of rubber, filled 1.5 times: volume over that', swells.volumes()[0]! - 1.5, 0),
  ];
}
