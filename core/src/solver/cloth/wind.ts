import type { Field } from '../air';
import type { Sheet } from './sheet';

/** How air takes hold of a sheet. */
export interface SheetSail {
  /** Coefficients of drag along the wind and of lift across it. */
  readonly drag: number;
  readonly lift: number;
  /** kg/m³ */
  readonly density: number;
}

/** The air on a sheet, triangle by triangle. */
export interface SheetAir {
  /** Takes the wind at every point: once in a few steps is enough. Null is still air. */
  feel(x: Float64Array, field: Field | null): void;
  /** Adds the acceleration of air and attractors, m/s², 3 numbers a point. */
  blow(out: Float64Array, x: Float64Array, v: Float64Array, w: Float64Array, sail: SheetSail): void;
}

const felt = new Float64Array(6);

/**
 * F = ½ ρ A |u·n| ((C_d − C_l) u + C_l |u| n̂) on each triangle, a third on each corner, with u the wind past it and n̂ the
 * normal on its lee side (Wilson and others 2014).
 */
export function makeSheetAir({ points, triangles }: Sheet): SheetAir {
  const wind = new Float64Array(3 * points);
  const pulls = new Float64Array(3 * points);
  let attracted = false;
  return {
    feel: (x, field) => {
      attracted = false;
      if (!field) return void wind.fill(0);
      for (let o = 0; o < wind.length; o += 3) {
        felt.fill(0);
        field(felt, x[o]!, x[o + 1]!, x[o + 2]!);
        for (let a = 0; a < 3; a++) {
          wind[o + a] = felt[a]!;
          pulls[o + a] = felt[3 + a]!;
          if (felt[3 + a] !== 0) attracted = true;
        }
      }
    },
    blow: (out, x, v, w, { drag, lift, density }) => {
      if (density > 0 && (drag > 0 || lift > 0))
        for (let t = 0; t < triangles.length; t += 3) {
          const i = 3 * triangles[t]!;
          const j = 3 * triangles[t + 1]!;
          const k = 3 * triangles[t + 2]!;
          const ux = (wind[i]! + wind[j]! + wind[k]! - v[i]! - v[j]! - v[k]!) / 3;
          const uy = (wind[i + 1]! + wind[j + 1]! + wind[k + 1]! - v[i + 1]! - v[j + 1]! - v[k + 1]!) / 3;
          const uz = (wind[i + 2]! + wind[j + 2]! + wind[k + 2]! - v[i + 2]! - v[j + 2]! - v[k + 2]!) / 3;
          const bx = x[j]! - x[i]!;
          const by = x[j + 1]! - x[i + 1]!;
          const bz = x[j + 2]! - x[i + 2]!;
          const cx = x[k]! - x[i]!;
          const cy = x[k + 1]! - x[i + 1]!;
          const cz = x[k + 2]! - x[i + 2]!;
          const nx = by * cz - bz * cy;
          const ny = bz * cx - bx * cz;
          const nz = bx * cy - by * cx;
          const size = Math.sqrt(nx * nx + ny * ny + nz * nz);
          if (size === 0) continue;
          const through = (ux * nx + uy * ny + uz * nz) / size;
          const speed = Math.sqrt(ux * ux + uy * uy + uz * uz);
          const f = (density * size * Math.abs(through)) / 12;
          const fd = f * (drag - lift);
          const fl = ((through < 0 ? -1 : 1) * f * lift * speed) / size;
          const fx = fd * ux + fl * nx;
          const fy = fd * uy + fl * ny;
          const fz = fd * uz + fl * nz;
          for (let c = 0; c < 3; c++) {
            const p = triangles[t + c]!;
            out[3 * p]! += fx * w[p]!;
            out[3 * p + 1]! += fy * w[p]!;
            out[3 * p + 2]! += fz * w[p]!;
          }
        }
      if (attracted) for (let o = 0; o < out.length; o++) out[o]! += pulls[o]!;
    },
  };
}
