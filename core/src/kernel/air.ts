import { int, NONE } from './numbers';
import type { Floats } from './numbers';

/** What the air on a row of links reads and writes: numbers first. Arrays are one or three numbers a point or link. */
export class AirStep {
  links: number = 0;
  /** kg/m³ */
  density: number = 0;
  x: Floats = NONE;
  v: Floats = NONE;
  mass: Floats = NONE;
  /** m/s² of points 1..n, and how firmly the air holds them, kg/s. */
  fall: Floats = NONE;
  grip: Floats = NONE;
  /** Radius of links, m; what they let the air catch. */
  thick: Floats = NONE;
  drag: Floats = NONE;
  lift: Floats = NONE;
  /** Speed of the air (m/s) and acceleration of attractors (m/s²) at the middle of each link, 6 numbers. */
  wind: Floats = NONE;
}

/** Drag of a round thread across its length, for a drag setting of 1 (White, Viscous Fluid Flow: 1.1 to 1.2). */
const DRAG: number = 1.1;
/** Share of that along it. */
const SKIN_DRAG: number = 0.02;

/** Adds what air and attractors do to the points; see `Air.blow`. */
export function pressAir(air: AirStep): void {
  const links = int(air.links);
  const { density, x, v, mass, fall, grip, thick, drag, lift, wind } = air;
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
