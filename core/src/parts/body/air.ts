import { norm } from '../../math/index';
import type { Field } from '../../solver/index';
import { carryPoints, type BodySkin, type SoftBody } from '../../solver/soft/index';

/** The air that blows on a soft body for a step. */
export interface Blow {
  /** How many times as large the pressure on its windward side is as that of the air that is stopped there. */
  readonly drag: number;
  /** kg/m³ of the air. */
  readonly density: number;
  /** What the air does at a place, and attractors; null where it stands still. */
  readonly field: Field | null;
  /** s, and kg of all of it. */
  readonly h: number;
  readonly mass: number;
}

/**
 * Air on the surface of a soft body: each triangle that air comes on to is pressed by drag × ρ v² / 2, with v the speed
 * of the air across it, so that a box that falls flat comes to v² = 2 m g / (drag ρ A).
 */
export class BodyAir {
  private readonly at: Float64Array;
  private readonly speeds: Float64Array;
  private readonly none: Float64Array;
  private readonly felt = new Float64Array(6);
  private readonly surface: number;

  constructor(
    private readonly body: SoftBody,
    private readonly skin: BodySkin,
    rest: Float64Array,
  ) {
    this.at = new Float64Array(3 * skin.points);
    this.speeds = new Float64Array(3 * skin.points);
    this.none = new Float64Array(3 * skin.points);
    carryPoints(this.at, { ...skin, off: this.none }, rest);
    let surface = 0;
    this.each((normal) => (surface += norm(normal)));
    this.surface = surface;
  }

  /** Each triangle with its area as the length of its normal, m², and its three points. */
  private each(visit: (normal: Float64Array, points: readonly [number, number, number]) => void): void {
    const {
      at,
      skin: { triangles },
    } = this;
    const normal = new Float64Array(3);
    for (let t = 0; t < triangles.length; t += 3) {
      const [a, b, c] = [3 * triangles[t]!, 3 * triangles[t + 1]!, 3 * triangles[t + 2]!];
      for (let k = 0; k < 3; k++) {
        const [f, g] = [(k + 1) % 3, (k + 2) % 3];
        normal[k] =
          ((at[b + f]! - at[a + f]!) * (at[c + g]! - at[a + g]!) -
            (at[b + g]! - at[a + g]!) * (at[c + f]! - at[a + f]!)) /
          2;
      }
      visit(normal, [a / 3, b / 3, c / 3]);
    }
  }

  /** Pushes its nodes for the coming step. */
  blow({ drag, density, field, h, mass }: Blow): void {
    if (field) this.draw(field, h);
    if (drag <= 0 || density <= 0) return;
    const { body, skin, at, speeds, felt, none, surface } = this;
    carryPoints(at, skin, body.x);
    carryPoints(speeds, { ...skin, off: none }, body.v);
    this.each((normal, points) => {
      const area = norm(normal);
      if (!(area > 0)) return;
      const mean = (list: Float64Array, a: number) => points.reduce((s, p) => s + list[3 * p + a]! / 3, 0);
      felt.fill(0);
      field?.(felt, mean(at, 0), mean(at, 1), mean(at, 2));
      let across = 0;
      for (let a = 0; a < 3; a++) across += ((felt[a]! - mean(speeds, a)) * normal[a]!) / area;
      if (across >= 0) return;
      const pressed = (density * drag * area * across * across) / 2;
      // At most what stops it: light bodies in a storm are not thrown back and forth.
      const share = (mass * area) / surface;
      const impulse = (h * pressed) / Math.max(1, (h * density * drag * area * -across) / share);
      for (const p of points)
        for (let k = 8 * p; k < 8 * p + 8; k++) {
          const w = skin.shares[k]!;
          if (w === 0 || body.free[skin.nodes[k]!] === 0) continue;
          for (let a = 0; a < 3; a++)
            body.pushes[3 * skin.nodes[k]! + a]! -= ((w * impulse) / 3) * (normal[a]! / area);
        }
    });
  }

  /** What attractors do to its nodes. */
  private draw(field: Field, h: number): void {
    const { body, felt } = this;
    for (let i = 0; i < body.mass.length; i++) {
      if (body.free[i] === 0) continue;
      felt.fill(0);
      field(felt, body.x[3 * i]!, body.x[3 * i + 1]!, body.x[3 * i + 2]!);
      for (let a = 0; a < 3; a++) body.pushes[3 * i + a]! += h * body.mass[i]! * felt[3 + a]!;
    }
  }
}
