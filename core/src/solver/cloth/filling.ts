import type { Sheet } from '../../sheets/index';
import { keepTethers, tethersOf, touch, type Tether } from './tethers';

/** What fills the closed pieces of a sheet, in a step. */
export interface Fill {
  /** How many times its volume at rest each piece wants; 0 leaves it empty. */
  readonly filling: number;
  /** Pa: how hard it presses for each whole time of its volume that it is too large or too small. */
  readonly pressure: number;
  /** How many times its own weight it lifts. */
  readonly float: number;
}

/** A piece of a sheet that is closed all round. */
export interface Pocket {
  /** Corners, 3 points of the sheet a triangle. */
  readonly triangles: Int32Array;
  readonly points: Int32Array;
  /** What it encloses at rest, m³; below 0 where its triangles are seen from outside clockwise. */
  readonly volume: number;
}

/** The middle of some points. */
function middle(x: Float64Array, points: Int32Array): [number, number, number] {
  let [a, b, c] = [0, 0, 0];
  for (const p of points) {
    a += x[3 * p]!;
    b += x[3 * p + 1]!;
    c += x[3 * p + 2]!;
  }
  return [a / points.length, b / points.length, c / points.length];
}

/**
 * Six times how the volume of a pocket grows as each of its points moves, into `out` (3 numbers a point of the sheet):
 * sums of cross products. Returns its volume, m³: a third of the sum of places times that.
 */
function measure(out: Float64Array, x: Float64Array, { triangles, points }: Omit<Pocket, 'volume'>): number {
  for (const p of points) out[3 * p] = out[3 * p + 1] = out[3 * p + 2] = 0;
  for (let t = 0; t < triangles.length; t += 3) {
    const i = 3 * triangles[t]!,
      j = 3 * triangles[t + 1]!,
      k = 3 * triangles[t + 2]!;
    const ux = x[j]! - x[i]!,
      uy = x[j + 1]! - x[i + 1]!,
      uz = x[j + 2]! - x[i + 2]!;
    const vx = x[k]! - x[i]!,
      vy = x[k + 1]! - x[i + 1]!,
      vz = x[k + 2]! - x[i + 2]!;
    const nx = uy * vz - uz * vy,
      ny = uz * vx - ux * vz,
      nz = ux * vy - uy * vx;
    for (let c = 0; c < 3; c++) {
      const o = c === 0 ? i : c === 1 ? j : k;
      out[o]! += nx;
      out[o + 1]! += ny;
      out[o + 2]! += nz;
    }
  }
  const [a, b, c] = middle(x, points);
  let sum = 0;
  for (const p of points) {
    const o = 3 * p;
    sum += (x[o]! - a) * out[o]! + (x[o + 1]! - b) * out[o + 1]! + (x[o + 2]! - c) * out[o + 2]!;
  }
  return sum / 18;
}

/** The pieces of a sheet that are closed: triangles that meet two at each edge, all round. Strings on them are none. */
export function pocketsOf({ triangles, rest, points }: Sheet): Pocket[] {
  const count = triangles.length / 3;
  const beside = new Map<number, number[]>();
  const sides = (t: number) =>
    [0, 1, 2].map((k) => {
      const [a, b] = [triangles[3 * t + k]!, triangles[3 * t + ((k + 1) % 3)]!];
      return Math.min(a, b) * points + Math.max(a, b);
    });
  for (let t = 0; t < count; t++)
    for (const side of sides(t)) {
      const list = beside.get(side);
      if (list) list.push(t);
      else beside.set(side, [t]);
    }
  const seen = new Uint8Array(count);
  const out: Pocket[] = [];
  for (let start = 0; start < count; start++) {
    if (seen[start]) continue;
    seen[start] = 1;
    const own = [start];
    let closed = true;
    for (let k = 0; k < own.length; k++)
      for (const side of sides(own[k]!)) {
        const both = beside.get(side)!;
        if (both.length !== 2) closed = false;
        else
          for (const t of both)
            if (!seen[t]) {
              seen[t] = 1;
              own.push(t);
            }
      }
    if (!closed) continue;
    const corners = Int32Array.from(own.flatMap((t) => [0, 1, 2].map((k) => triangles[3 * t + k]!)));
    const all = Int32Array.from([...new Set(corners)].sort((a, b) => a - b));
    const pocket = { triangles: corners, points: all };
    const volume = measure(new Float64Array(3 * points), rest, pocket);
    if (volume !== 0) out.push({ ...pocket, volume });
  }
  return out;
}

/** What fills the pockets of a sheet. Places and ways are 3 numbers a point. */
export class Filling {
  private readonly normals: Float64Array;
  private readonly pockets: readonly Pocket[];
  private readonly tethers: readonly Tether[];

  constructor(
    sheet: Sheet,
    /** Inverse masses, 1/kg, of all points, and masses. */
    private readonly w: Float64Array,
    private readonly mass: Float64Array,
    /** When each point pressed on something: see makeSheetContacts. */
    private readonly touched: Float64Array,
  ) {
    this.normals = new Float64Array(3 * w.length);
    this.pockets = pocketsOf(sheet);
    this.tethers = tethersOf(
      sheet,
      this.pockets,
      w.map((x) => Number(x === 0)),
    );
    // A string that is solved as a row sees all of what hangs on it.
    for (const { neck, pocket } of this.tethers)
      w[neck] = 1 / pocket.points.reduce((s, p) => s + mass[p]!, 0);
  }

  /** Keeps closed pieces apart, and strings on them from getting longer. */
  hold(x: Float64Array): void {
    const balls = this.pockets.map(({ points }) => ballOf(x, points));
    balls.forEach((a, i) => {
      for (let j = 0; j < i; j++) {
        const b = balls[j]!;
        const far = (a.x - b.x) ** 2 + (a.y - b.y) ** 2 + (a.z - b.z) ** 2;
        if (far < (a.reach + b.reach) ** 2) this.part(x, i, j);
      }
    });
    keepTethers(this.tethers, x, this.mass, this.touched);
  }

  /**
   * Adds to accelerations of points (m/s²) what lifts each pocket: a pressure that falls upward, as that of the air
   * about it (Archimedes), `float` times the weight of its skin in all.
   */
  lift(push: Float64Array, x: Float64Array, gravity: ArrayLike<number>, float: number): void {
    const { normals, mass, w } = this;
    for (const pocket of this.pockets) {
      const { points } = pocket;
      const volume = measure(normals, x, pocket);
      if (Math.abs(volume) < 1e-12) continue;
      const [a, b, c] = middle(x, points);
      let weight = 0;
      for (const p of points) weight += mass[p]!;
      const per = (-float * weight) / (6 * volume);
      for (const p of points) {
        const o = 3 * p;
        const fall =
          gravity[0]! * (x[o]! - a) + gravity[1]! * (x[o + 1]! - b) + gravity[2]! * (x[o + 2]! - c);
        const by = per * fall * w[p]!;
        for (let k = o; k < o + 3; k++) push[k]! += by * normals[k]!;
      }
    }
  }

  /**
   * Moves points so that each pocket comes to the volume it wants, as far as its pressure is strong enough. `per` is
   * 1/s²: what inertia is times a place in a step. An XPBD constraint on the volume (Macklin, Müller, Chentanez 2016).
   */
  keep(x: Float64Array, { filling, pressure }: Fill, per: number): void {
    const { normals, w } = this;
    for (const pocket of this.pockets) {
      const { points, volume } = pocket;
      const off = measure(normals, x, pocket) - filling * volume;
      let gives = 0;
      for (const p of points) {
        const o = 3 * p;
        gives += (w[p]! * (normals[o]! ** 2 + normals[o + 1]! ** 2 + normals[o + 2]! ** 2)) / 36;
      }
      const soft = (per * Math.abs(volume)) / pressure;
      const by = -off / (gives + soft) / 6;
      if (!Number.isFinite(by)) continue;
      for (const p of points) for (let a = 3 * p; a < 3 * p + 3; a++) x[a]! += w[p]! * by * normals[a]!;
    }
  }

  /**
   * Moves two pieces apart along the line between their middles where they reach past each other, the lighter one
   * farther. They keep their shape; what is round does not overlap.
   */
  private part(x: Float64Array, i: number, j: number): void {
    const both = [this.pockets[i]!.points, this.pockets[j]!.points] as const;
    const [c, d] = [middle(x, both[0]), middle(x, both[1])];
    const n = c.map((at, a) => d[a]! - at);
    const far = Math.sqrt(n.reduce((s, v) => s + v * v, 0));
    if (!(far > 0)) return;
    for (let a = 0; a < 3; a++) n[a]! /= far;
    const reach = (points: Int32Array, from: readonly number[], way: number) => {
      const [nx, ny, nz] = n.map((d) => way * d) as [number, number, number];
      const start = nx * from[0]! + ny * from[1]! + nz * from[2]!;
      let most = 0;
      for (const p of points) {
        const o = 3 * p;
        most = Math.max(most, nx * x[o]! + ny * x[o + 1]! + nz * x[o + 2]! - start);
      }
      return most;
    };
    const over = reach(both[0], c, 1) + reach(both[1], d, -1) - far;
    if (!(over > 0)) return;
    const [m, k] = both.map((points) => points.reduce((s, p) => s + this.mass[p]!, 0)) as [number, number];
    both.forEach((points, b) => {
      const by = (b === 0 ? -k : m) / (m + k);
      for (const p of points)
        if (this.w[p]! > 0) {
          touch(this.touched, p);
          for (let a = 0; a < 3; a++) x[3 * p + a]! += by * over * n[a]!;
        }
    });
  }

  /** How much of its volume at rest each pocket has. */
  volumes(x: Float64Array): number[] {
    return this.pockets.map((pocket) => measure(this.normals, x, pocket) / pocket.volume);
  }
}

/** A ball about some points: its middle and how far it reaches, m. */
function ballOf(x: Float64Array, points: Int32Array): { x: number; y: number; z: number; reach: number } {
  const [a, b, c] = middle(x, points);
  let most = 0;
  for (const p of points) {
    const o = 3 * p;
    most = Math.max(most, (x[o]! - a) ** 2 + (x[o + 1]! - b) ** 2 + (x[o + 2]! - c) ** 2);
  }
  return { x: a, y: b, z: c, reach: Math.sqrt(most) };
}
