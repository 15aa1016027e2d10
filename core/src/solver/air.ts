import type { ChainSolver } from './chain';

/** How air takes hold of a chain; arrays are one number a link. */
export interface ChainSail {
  /** Radius, m. */
  readonly thickness: Float64Array;
  readonly drag: Float64Array;
  readonly lift: Float64Array;
  /** Whether there is anything for air to take hold of. */
  readonly catches: boolean;
}

/** Speed of the air (m/s, into `out`) and acceleration of attractors (m/s², into `out` from 3) at a place. */
export type Field = (out: Float64Array, x: number, y: number, z: number) => void;

/** Drag of a round thread across its length, for a drag setting of 1 (White, Viscous Fluid Flow: 1.1 to 1.2). */
const DRAG = 1.1;
/** Share of that along it. */
const SKIN_DRAG = 0.02;

const air = new Float64Array(6);

/**
 * Adds what air and attractors do to a chain's points for the coming step, by the state at its start: drag and lift of
 * each link as a thread of its thickness, by how it stands to the air that passes it. What holds the chain back goes
 * to `grip` and is solved with the step, so that thick light threads in a storm stay stable.
 */
export function blow(solver: ChainSolver, sail: ChainSail, density: number, field: Field): void {
  const { links, x, v, mass, fall, grip } = solver;
  grip.fill(0);
  for (let i = 0; i < links; i++) {
    const o = 3 * i;
    const dx = x[o + 3]! - x[o]!,
      dy = x[o + 4]! - x[o + 1]!,
      dz = x[o + 5]! - x[o + 2]!;
    const l = Math.sqrt(dx * dx + dy * dy + dz * dz);
    field(air, x[o]! + dx / 2, x[o + 1]! + dy / 2, x[o + 2]! + dz / 2);
    let fx = 0,
      fy = 0,
      fz = 0,
      hold = 0;
    const area = density * sail.thickness[i]! * l;
    if (area > 0) {
      const tx = dx / l,
        ty = dy / l,
        tz = dz / l;
      const rx = air[0]! - (v[o]! + v[o + 3]!) / 2,
        ry = air[1]! - (v[o + 1]! + v[o + 4]!) / 2,
        rz = air[2]! - (v[o + 2]! + v[o + 5]!) / 2;
      const along = rx * tx + ry * ty + rz * tz;
      const speed = Math.sqrt(rx * rx + ry * ry + rz * rz);
      const cross = Math.sqrt(Math.max(0, speed * speed - along * along));
      hold = area * DRAG * sail.drag[i]! * cross;
      // The implicit part takes −hold · v; the rest of hold · (relative speed across) is given here.
      const slide = (hold - area * DRAG * sail.drag[i]! * SKIN_DRAG * Math.abs(along)) * along;
      fx = hold * air[0]! - slide * tx;
      fy = hold * air[1]! - slide * ty;
      fz = hold * air[2]! - slide * tz;
      if (sail.lift[i]! > 0 && speed > 1e-9) {
        // Across the stream, in the plane of stream and link, as on a strip that stands aslant: −(t − (t·r̂) r̂)(t·r̂),
        // so that what hangs is lifted into the stream.
        const c = along / speed;
        const q = area * sail.lift[i]! * speed * c;
        fx -= q * (tx * speed - c * rx);
        fy -= q * (ty * speed - c * ry);
        fz -= q * (tz * speed - c * rz);
      }
    }
    for (let end = 0; end < 2; end++) {
      const p = i - 1 + end;
      if (p < 0) continue;
      const per = 0.5 / mass[p]!;
      grip[p]! += hold / 2;
      fall[3 * p]! += fx * per;
      fall[3 * p + 1]! += fy * per;
      fall[3 * p + 2]! += fz * per;
      // Half from each link; the tip, with one, has it whole.
      const share = p === links - 1 ? 1 : 0.5;
      for (let c = 0; c < 3; c++) fall[3 * p + c]! += share * air[3 + c]!;
    }
  }
}
