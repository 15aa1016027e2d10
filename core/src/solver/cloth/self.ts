import type { Sheet } from '../../sheets/index';

/** A sheet's points as balls: two of its layers keep apart. */
export interface SelfContacts {
  /** Finds the pairs that may touch: anew when `fresh`, or when points have moved too far since. */
  find(x: Float64Array, fresh: boolean): void;
  solve(x: Float64Array, old: Float64Array, w: Float64Array, h: number, friction: number): void;
}

/** Diameter of the balls, as a share of the mean edge: smaller ones let layers through between them. */
const ACROSS = 0.9;
/** Points nearer than this many mean edges at rest are of one layer. */
const BESIDE = 1.6;
/** How much farther than their diameter pairs are looked for. */
const LOOK = 1.8;
/** Layers that are in each other come apart at this many m/s: faster ones explode. */
const APART_SPEED = 0.2;

/**
 * Contact of a sheet with itself. `touched` says of each point when it pressed on something, as for bodies. Pairs are
 * found with a hashed grid (Teschner and others 2003).
 */
export function makeSelfContacts(sheet: Sheet, touched: Float64Array): SelfContacts {
  const { points, rest, length } = sheet;
  const edge = length.reduce((a, b) => a + b, 0) / Math.max(1, length.length);
  const across = ACROSS * edge;
  const reach = LOOK * across;
  const margin = ((LOOK - 1) / 2) * across;
  const grid = makeGrid(points, reach);
  const seen = new Float64Array(3 * points);
  let pairs = new Int32Array(8 * points);
  let count = 0;

  function moved(x: Float64Array): boolean {
    // What all of them have moved by together brings none nearer to another.
    const mean = [0, 1, 2].map((a) => {
      let sum = 0;
      for (let o = a; o < x.length; o += 3) sum += x[o]! - seen[o]!;
      return sum / Math.max(1, points);
    }) as [number, number, number];
    for (let o = 0; o < x.length; o += 3) {
      const dx = x[o]! - seen[o]! - mean[0];
      const dy = x[o + 1]! - seen[o + 1]! - mean[1];
      const dz = x[o + 2]! - seen[o + 2]! - mean[2];
      if (dx * dx + dy * dy + dz * dz > margin * margin) return true;
    }
    return false;
  }

  const near = (x: Float64Array, i: number, j: number, within: number): boolean => {
    const dx = x[3 * i]! - x[3 * j]!;
    const dy = x[3 * i + 1]! - x[3 * j + 1]!;
    const dz = x[3 * i + 2]! - x[3 * j + 2]!;
    return dx * dx + dy * dy + dz * dz < within * within;
  };

  return {
    find: (x, fresh) => {
      if (!fresh && !moved(x)) return;
      seen.set(x);
      count = 0;
      grid.fill(x);
      grid.eachPair((i, j) => {
        if (!near(x, i, j, reach) || near(rest, i, j, BESIDE * edge)) return;
        if (2 * count === pairs.length) {
          const more = new Int32Array(2 * pairs.length);
          more.set(pairs);
          pairs = more;
        }
        pairs[2 * count] = i;
        pairs[2 * count + 1] = j;
        count++;
      });
    },
    solve: (x, old, w, h, friction) => {
      const at = { x, old, w, touched, across, apart: APART_SPEED * h, friction };
      for (let k = 0; k < count; k++) separate(at, pairs[2 * k]!, pairs[2 * k + 1]!);
    },
  };
}

interface Layers {
  readonly x: Float64Array;
  readonly old: Float64Array;
  readonly w: Float64Array;
  readonly touched: Float64Array;
  readonly across: number;
  /** m that layers in each other may come apart by in the step. */
  readonly apart: number;
  readonly friction: number;
}

/** Pushes two points apart to their diameter, with friction between them. */
function separate({ x, old, w, touched, across, apart, friction }: Layers, i: number, j: number): void {
  const a = 3 * i;
  const b = 3 * j;
  const dx = x[a]! - x[b]!;
  const dy = x[a + 1]! - x[b + 1]!;
  const dz = x[a + 2]! - x[b + 2]!;
  const l2 = dx * dx + dy * dy + dz * dz;
  const give = w[i]! + w[j]!;
  if (l2 >= across * across || give === 0) return;
  const ox = old[a]! - old[b]!;
  const oy = old[a + 1]! - old[b + 1]!;
  const oz = old[a + 2]! - old[b + 2]!;
  const r = Math.min(across, Math.sqrt(ox * ox + oy * oy + oz * oz) + apart);
  if (l2 >= r * r) return;
  const l = Math.sqrt(l2) || 1e-12;
  const push = (r - l) / give;
  const [nx, ny, nz] = [dx / l, dy / l, dz / l];
  // How they slid along each other in the step.
  const along = (dx - ox) * nx + (dy - oy) * ny + (dz - oz) * nz;
  const [sx, sy, sz] = [dx - ox - along * nx, dy - oy - along * ny, dz - oz - along * nz];
  const slid = Math.sqrt(sx * sx + sy * sy + sz * sz);
  const most = friction * (r - l);
  const back = slid > 0 ? Math.min(1, most / slid) / give : 0;
  const [px, py, pz] = [push * nx - back * sx, push * ny - back * sy, push * nz - back * sz];
  x[a]! += w[i]! * px;
  x[a + 1]! += w[i]! * py;
  x[a + 2]! += w[i]! * pz;
  x[b]! -= w[j]! * px;
  x[b + 1]! -= w[j]! * py;
  x[b + 2]! -= w[j]! * pz;
  if (touched[i]! < 4) touched[i]! += 4;
  if (touched[j]! < 4) touched[j]! += 4;
}

/** Points in cells of one size, by a hash of the cell. */
function makeGrid(points: number, size: number) {
  let slots = 1;
  while (slots < 2 * points) slots *= 2;
  const from = new Int32Array(slots + 1);
  const order = new Int32Array(points);
  const cell = new Int32Array(3 * points);
  const slotOf = (x: number, y: number, z: number): number =>
    (Math.imul(x, 73856093) ^ Math.imul(y, 19349663) ^ Math.imul(z, 83492791)) & (slots - 1);
  return {
    fill: (x: Float64Array): void => {
      from.fill(0);
      for (let k = 0; k < x.length; k++) cell[k] = Math.floor(x[k]! / size);
      for (let i = 0; i < points; i++) from[slotOf(cell[3 * i]!, cell[3 * i + 1]!, cell[3 * i + 2]!)]!++;
      for (let s = 1; s <= slots; s++) from[s]! += from[s - 1]!;
      for (let i = points - 1; i >= 0; i--)
        order[--from[slotOf(cell[3 * i]!, cell[3 * i + 1]!, cell[3 * i + 2]!)]!] = i;
    },
    /** Calls with every two points whose cells are one or beside each other, the lower first. */
    eachPair: (visit: (i: number, j: number) => void): void => {
      for (let i = 0; i < points; i++)
        for (let k = 0; k < 27; k++) {
          const cx = cell[3 * i]! + (k % 3) - 1;
          const cy = cell[3 * i + 1]! + (Math.floor(k / 3) % 3) - 1;
          const cz = cell[3 * i + 2]! + Math.floor(k / 9) - 1;
          const s = slotOf(cx, cy, cz);
          for (let q = from[s]!; q < from[s + 1]!; q++) {
            const j = order[q]!;
            if (j > i && cell[3 * j] === cx && cell[3 * j + 1] === cy && cell[3 * j + 2] === cz) visit(i, j);
          }
        }
    },
  };
}
