import { C, PANELS, ponchoPoint } from './brindle';
import { sculptBody } from './brindleBody';
import type { Rig } from './rig';
import { Sculpt, smooth, type V3 } from './shape';

const ROWS = 22;
const COLUMNS = 72;
/** Room between the body and the felt, m. */
const ROOM = 0.014;
/** Where the body's own axis stands in front of the root, m. */
const AXIS = 0.03;

/** Steps of angle and of height in which the body's outline is kept. */
const TURNS = 90;
const HEIGHTS = 40;
const LOWEST = 0.4;
const HIGHEST = 0.8;

/** How far the body and its wings reach from their axis in each direction and height, m, smoothed a little. */
function outline(rig: Rig): (angle: number, y: number) => number {
  const body = new Sculpt();
  sculptBody(body, rig);
  const far = new Float64Array(TURNS * HEIGHTS);
  for (let o = 0; o < body.positions.length; o += 3) {
    const [x, y, z] = [body.positions[o]!, body.positions[o + 1]!, body.positions[o + 2]! - AXIS];
    if (y < LOWEST || y > HIGHEST) continue;
    const turn = Math.round((Math.atan2(x, z) / (2 * Math.PI)) * TURNS + TURNS) % TURNS;
    const height = Math.round(((y - LOWEST) / (HIGHEST - LOWEST)) * (HEIGHTS - 1));
    // A vertex counts for its neighbours too: felt does not dip between them.
    for (let a = -3; a <= 3; a++)
      for (let b = -2; b <= 2; b++) {
        const h = height + b;
        if (h < 0 || h >= HEIGHTS) continue;
        const k = h * TURNS + ((turn + a + TURNS) % TURNS);
        far[k] = Math.max(far[k]!, Math.hypot(x, z));
      }
  }
  const soft = far.map((_, k) => {
    const [h, t] = [Math.floor(k / TURNS), k % TURNS];
    let [sum, n] = [0, 0];
    for (let a = -2; a <= 2; a++)
      for (let b = -1; b <= 1; b++) {
        const row = Math.min(HEIGHTS - 1, Math.max(0, h + b));
        sum += far[row * TURNS + ((t + a + TURNS) % TURNS)]!;
        n++;
      }
    return sum / n;
  });
  return (angle, y) => {
    const t = (angle / (2 * Math.PI)) * TURNS;
    const h = Math.min(HEIGHTS - 1.001, Math.max(0, ((y - LOWEST) / (HIGHEST - LOWEST)) * (HEIGHTS - 1)));
    const [t0, h0] = [Math.floor(t), Math.floor(h)];
    const at = (i: number, j: number) => soft[j * TURNS + ((((t0 + i) % TURNS) + TURNS) % TURNS)]!;
    const row = (j: number) => at(0, h0 + j) * (1 - t + t0) + at(1, h0 + j) * (t - t0);
    return row(0) * (1 - h + h0) + row(1) * (h - h0);
  };
}

/** A felt poncho: it lies over the body and the folded wings, with folds that open towards the hem. */
export function sculptPoncho(s: Sculpt, rig: Rig): void {
  const reach = outline(rig);
  const at = (u: number, v: number): V3 => {
    if (u < 0) {
      const [x, y, z] = at(-u, v);
      return [-x, y, z];
    }
    const [x, y, z] = ponchoPoint(u, v);
    const angle = Math.atan2(x, z - AXIS);
    // It flares a little, so that the folds have felt to fall with.
    const own = Math.hypot(x, z - AXIS) * (1 + 0.06 * v * v) + 0.006 * v * Math.cos(3 * PANELS * angle);
    const r = Math.max(own, reach(angle, y) + ROOM);
    return [r * Math.sin(angle), y, AXIS + r * Math.cos(angle)];
  };
  const chest = rig.index('chest');
  /** Evenly spread between −0.5 and 0.5, the same for the same numbers. */
  const random = (...of: readonly number[]) => {
    let state = 11;
    for (const n of of) state = (Math.imul(state ^ Math.round(2 * n), 1664525) + 1013904223) >>> 0;
    state = Math.imul(state ^ (state >>> 15), 2246822519) >>> 0;
    return ((state ^ (state >>> 13)) >>> 8) / 16777216 - 0.5;
  };
  for (let r = 0; r <= ROWS; r++)
    for (let c = 0; c < COLUMNS; c++) {
      // Laid by hand: no row is quite straight, but the rims are, and the left side is as the right.
      const free = r > 0 && r < ROWS ? 0.35 : 0;
      const column = c + 0.5 * (r & 1);
      const across = column > COLUMNS / 2 ? column - COLUMNS : column;
      const aside = Math.abs(across);
      const v = (r + free * random(r, aside, 1)) / ROWS;
      const middle = aside === 0 || aside === COLUMNS / 2;
      const u = (across + (middle ? 0 : free * Math.sign(across) * random(r, aside, 2))) / COLUMNS;
      const panel = (((u * PANELS) % PANELS) + PANELS) % PANELS;
      const a = Math.floor(panel) % PANELS;
      const k = smooth(panel - Math.floor(panel));
      const loose = smooth((v - 0.3) / 0.3);
      const low = smooth((v - 0.6) / 0.25);
      const weights: [number, number][] = [[chest, 1 - loose]];
      for (const [p, w] of [
        [a, 1 - k],
        [(a + 1) % PANELS, k],
      ] as const)
        weights.push(
          [rig.index(`poncho ${p + 1} 1`), loose * w * (1 - low)],
          [rig.index(`poncho ${p + 1} 2`), loose * w * low],
        );
      const stripe = v > 0.86 || (v > 0.7 && v < 0.76);
      s.vertex(at(u, v), stripe ? C.trim : C.felt, weights);
    }
  // Every other row is shifted by half a column: triangles with sides nearly alike.
  for (let r = 0; r < ROWS; r++)
    for (let c = 0; c < COLUMNS; c++) {
      const [p, q] = [r * COLUMNS + c, r * COLUMNS + ((c + 1) % COLUMNS)];
      const [t, w] = [p + COLUMNS, q + COLUMNS];
      s.indices.push(...(r & 1 ? [p, t, w, p, w, q] : [p, t, q, t, w, q]));
    }
}
