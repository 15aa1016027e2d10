import { AirStep, pressAir } from '../kernel/air';
import { numberAt, type Arena } from './arena';
import type { LinkedPoints } from './points';

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

/** Air and attractors on a chain, step by step. */
export interface Air {
  /**
   * Adds what air and attractors do to a chain's points for the coming step, by the state at its start: drag and lift
   * of each link as a thread of its thickness, by how it stands to the air that passes it. What holds the chain back
   * goes to `grip` and is solved with the step, so that thick light threads in a storm stay stable. Without a field the
   * air stands still. `density` in kg/m³.
   */
  blow(sail: ChainSail, density: number, field: Field | null): void;
}

const felt = new Float64Array(6);

const DENSITY = numberAt(new AirStep(), 'density');

/** The air of a row of links: compiled when there is an arena, to the same bits. */
export function makeAir(points: LinkedPoints, arena: Arena | null): Air {
  const { links, x, v, mass, fall, grip } = points;
  const make = (size: number) => (arena ? arena.alloc(size) : new Float64Array(size));
  const [thick, drag, lift] = [make(links), make(links), make(links)];
  const wind = make(6 * links);
  const fields = Object.assign(new AirStep(), { links, x, v, mass, fall, grip, thick, drag, lift, wind });
  const placed = arena?.place(fields);
  let known: ChainSail | null = null;

  function feel(field: Field): void {
    for (let i = 0, o = 0; i < links; i++, o += 3) {
      const at = (c: number) => x[o + c]! + (x[o + 3 + c]! - x[o + c]!) / 2;
      field(felt, at(0), at(1), at(2));
      wind.set(felt, 6 * i);
    }
  }

  return {
    blow: (sail, density, field) => {
      if (sail !== known) {
        thick.set(sail.thickness);
        drag.set(sail.drag);
        lift.set(sail.lift);
        known = sail;
      }
      if (field) feel(field);
      fields.density = density;
      if (!placed) return pressAir(fields);
      placed.numbers[DENSITY] = density;
      arena!.air(placed.at);
    },
  };
}
