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
 * of the air across it, so that a box that falls flat comes to v² = 2 m g / (drag ρ A). What the air does is asked at
 * the nodes of its lattice.
 */
export class BodyAir {
  private readonly at: Float64Array;
  /** How fast air comes on to points, m/s, and what it gives them, N s. */
  private readonly comes: Float64Array;
  private readonly given: Float64Array;
  /** How fast it comes on to nodes, and what carries that to points alone. */
  private readonly passes: Float64Array;
  private readonly alone: BodySkin;
  private readonly felt = new Float64Array(6);
  private readonly surface: number;

  constructor(
    private readonly body: SoftBody,
    private readonly skin: BodySkin,
    rest: Float64Array,
  ) {
    const three = () => new Float64Array(3 * skin.points);
    [this.at, this.comes, this.given] = [three(), three(), three()];
    this.passes = new Float64Array(rest.length);
    this.alone = { ...skin, off: three() };
    this.surface = skin.area.reduce((sum, a) => sum + a, 0);
  }

  /** Pushes its nodes for the coming step. */
  blow({ drag, density, field, h, mass }: Blow): void {
    this.feel(field, h);
    if (drag <= 0 || density <= 0) return;
    const { at, comes, given, alone, skin, body, passes, surface } = this;
    carryPoints(at, skin, body.x);
    carryPoints(comes, alone, passes);
    given.fill(0);
    const { triangles } = skin;
    const per = (density * drag * h) / 2;
    // At most what stops it: light bodies in a storm are not thrown back and forth.
    const most = mass / surface;
    for (let t = 0; t < triangles.length; t += 3) {
      const a = 3 * triangles[t]!,
        b = 3 * triangles[t + 1]!,
        c = 3 * triangles[t + 2]!;
      const ux = at[b]! - at[a]!,
        uy = at[b + 1]! - at[a + 1]!,
        uz = at[b + 2]! - at[a + 2]!;
      const wx = at[c]! - at[a]!,
        wy = at[c + 1]! - at[a + 1]!,
        wz = at[c + 2]! - at[a + 2]!;
      const nx = uy * wz - uz * wy,
        ny = uz * wx - ux * wz,
        nz = ux * wy - uy * wx;
      const long = Math.sqrt(nx * nx + ny * ny + nz * nz);
      if (!(long > 0)) continue;
      const across =
        ((comes[a]! + comes[b]! + comes[c]!) * nx +
          (comes[a + 1]! + comes[b + 1]! + comes[c + 1]!) * ny +
          (comes[a + 2]! + comes[b + 2]! + comes[c + 2]!) * nz) /
        (3 * long);
      if (across >= 0) continue;
      // A third to each corner, along a normal that is twice as long as the triangle is large.
      const share = Math.min(per * across * across, most * -across) / 6;
      const gx = share * nx,
        gy = share * ny,
        gz = share * nz;
      given[a] = given[a]! - gx;
      given[a + 1] = given[a + 1]! - gy;
      given[a + 2] = given[a + 2]! - gz;
      given[b] = given[b]! - gx;
      given[b + 1] = given[b + 1]! - gy;
      given[b + 2] = given[b + 2]! - gz;
      given[c] = given[c]! - gx;
      given[c + 1] = given[c + 1]! - gy;
      given[c + 2] = given[c + 2]! - gz;
    }
    this.toNodes();
  }

  /** How fast air comes on to its nodes, and what attractors do to them. */
  private feel(field: Field | null, h: number): void {
    const { body, passes, felt } = this;
    for (let i = 0; i < body.mass.length; i++) {
      const o = 3 * i;
      felt.fill(0);
      field?.(felt, body.x[o]!, body.x[o + 1]!, body.x[o + 2]!);
      for (let a = 0; a < 3; a++) {
        passes[o + a] = felt[a]! - body.v[o + a]!;
        if (field && body.free[i] !== 0) body.pushes[o + a]! += h * body.mass[i]! * felt[3 + a]!;
      }
    }
  }

  /** Gives the nodes what the points were given. */
  private toNodes(): void {
    const { skin, given } = this;
    const { nodes, shares } = skin;
    const { free, pushes } = this.body;
    for (let p = 0; p < skin.points; p++) {
      const x = given[3 * p]!,
        y = given[3 * p + 1]!,
        z = given[3 * p + 2]!;
      if (x === 0 && y === 0 && z === 0) continue;
      for (let k = 8 * p; k < 8 * p + 8; k++) {
        const w = shares[k]!;
        const node = nodes[k]!;
        const o = 3 * node;
        if (w === 0 || free[node] === 0) continue;
        pushes[o]! += w * x;
        pushes[o + 1]! += w * y;
        pushes[o + 2]! += w * z;
      }
    }
  }
}
