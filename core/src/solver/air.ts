import type { Arena } from './arena';
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

/** Air and attractors on a chain, step by step. */
export interface Air {
  /**
   * Adds what air and attractors do to a chain's points for the coming step, by the state at its start: drag and lift of
   * each link as a thread of its thickness, by how it stands to the air that passes it. What holds the chain back goes
   * to `grip` and is solved with the step, so that thick light threads in a storm stay stable. Without a field the air
   * stands still. `density` in kg/m³.
   */
  blow(sail: ChainSail, density: number, field: Field | null): void;
}

const felt = new Float64Array(6);

/** The air of a chain: compiled with its step when there is an arena, to the same bits. */
export function makeAir(solver: ChainSolver, arena: Arena | null): Air {
  const { links, x, v, mass, fall, grip } = solver;
  const make = (size: number) => (arena ? arena.alloc(size) : new Float64Array(size));
  const thick = make(links);
  const drag = make(links);
  const lift = make(links);
  /** What the field gives at the middle of each link. */
  const wind = make(6 * links);
  let density = 0;
  let known: ChainSail | null = null;

  // What stands up to "kernel: end" is also compiled (scripts/kernelSource.ts).
  // kernel: begin

  function press(): void {
    for (let k = 0; k < links; k++) grip[k] = 0;
    for (let i = 0; i < links; i++) {
      const o = 3 * i;
      const e = 6 * i;
      const dx = x[o + 3]! - x[o]!,
        dy = x[o + 4]! - x[o + 1]!,
        dz = x[o + 5]! - x[o + 2]!;
      const l = Math.sqrt(dx * dx + dy * dy + dz * dz);
      let fx: number = 0,
        fy: number = 0,
        fz: number = 0,
        hold: number = 0;
      const area = density * thick[i]! * l;
      if (area > 0) {
        const tx = dx / l,
          ty = dy / l,
          tz = dz / l;
        const rx = wind[e]! - (v[o]! + v[o + 3]!) / 2,
          ry = wind[e + 1]! - (v[o + 1]! + v[o + 4]!) / 2,
          rz = wind[e + 2]! - (v[o + 2]! + v[o + 5]!) / 2;
        const along = rx * tx + ry * ty + rz * tz;
        const speed = Math.sqrt(rx * rx + ry * ry + rz * rz);
        const cross = Math.sqrt(Math.max(0, speed * speed - along * along));
        hold = area * DRAG * drag[i]! * cross;
        // The implicit part takes −hold · v; the rest of hold · (relative speed across) is given here.
        const slide = (hold - area * DRAG * drag[i]! * SKIN_DRAG * Math.abs(along)) * along;
        fx = hold * wind[e]! - slide * tx;
        fy = hold * wind[e + 1]! - slide * ty;
        fz = hold * wind[e + 2]! - slide * tz;
        if (lift[i]! > 0 && speed > 1e-9) {
          // Across the stream, in the plane of stream and link, as on a strip that stands aslant: −(t − (t·r̂) r̂)(t·r̂),
          // so that what hangs is lifted into the stream.
          const c = along / speed;
          const q = area * lift[i]! * speed * c;
          fx -= q * (tx * speed - c * rx);
          fy -= q * (ty * speed - c * ry);
          fz -= q * (tz * speed - c * rz);
        }
      }
      for (let p = i > 0 ? i - 1 : 0; p <= i; p++) {
        const per = 0.5 / mass[p]!;
        grip[p]! += hold / 2;
        // Half from each link; the tip, with one, has it whole.
        const share: number = p === links - 1 ? 1 : 0.5;
        fall[3 * p] = fall[3 * p]! + fx * per + share * wind[e + 3]!;
        fall[3 * p + 1] = fall[3 * p + 1]! + fy * per + share * wind[e + 4]!;
        fall[3 * p + 2] = fall[3 * p + 2]! + fz * per + share * wind[e + 5]!;
      }
    }
  }

  // kernel: end

  const header = arena?.header(2, [x, v, mass, fall, grip, thick, drag, lift, wind]);
  header?.set([links, density]);

  function feel(field: Field): void {
    for (let i = 0, o = 0; i < links; i++, o += 3) {
      const at = (c: number) => x[o + c]! + (x[o + 3 + c]! - x[o + c]!) / 2;
      field(felt, at(0), at(1), at(2));
      wind.set(felt, 6 * i);
    }
  }

  return {
    blow: (sail, air, field) => {
      if (sail !== known) {
        thick.set(sail.thickness);
        drag.set(sail.drag);
        lift.set(sail.lift);
        known = sail;
      }
      if (field) feel(field);
      density = air;
      if (!header) return press();
      header[1] = density;
      arena!.air(header.byteOffset);
    },
  };
}
