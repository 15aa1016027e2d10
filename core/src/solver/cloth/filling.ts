import { measurePocket, middle, pocketsOf, type Pocket, type Sheet } from '../../sheets/index';
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
    if (float === 0) return;
    for (const pocket of this.pockets) {
      const { points } = pocket;
      const volume = measurePocket(normals, x, pocket);
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
      const off = measurePocket(normals, x, pocket) - filling * volume;
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
    return this.pockets.map((pocket) => measurePocket(this.normals, x, pocket) / pocket.volume);
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
