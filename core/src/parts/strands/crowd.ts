import type { Strands } from '../../solver/strands/index';

/** A cell is so many times as wide as roots are apart. */
const WIDE = 1.5;
/** Cells along each side of the grid, a power of two: it repeats beyond. */
const SIDE = 32;
/** A step takes no more than this share of how fast strands pass each other. */
const MOST = 0.5;

/** Roots that are looked at for how far they are apart. */
const LOOKED_AT = 200;

/** How strands keep their room. */
export interface CrowdHow {
  /** 1/s: ω of how hair that is pressed together springs back to its room. */
  readonly rate: number;
  /** 1/s: how soon strands that pass each other go along with each other. */
  readonly friction: number;
}

/**
 * Hair against hair, as a crowd: the lengths of links are added up at the corners of a grid, and their speeds
 * (Petrovic, Henne and Anderson 2005). Where there is more hair than at rest it is pushed to where there is less. What
 * passes the mean of its surroundings is slowed, and they are sped up as much. What is not pressed is not pushed: the
 * groom rests.
 */
export class Crowd {
  /** How much hair there is about each point at rest, m; and the width of a cell, m. Both are found at the start. */
  readonly memory: readonly Float64Array[];
  private readonly rest: Float64Array;
  private readonly wide = new Float64Array(1);
  /** At each corner: length of hair (m), and its speed times that. */
  private readonly corners = new Float64Array(4 * SIDE ** 3);
  /** Of the place that was looked at last: its 8 corners, how much of each, and how that changes along each axis. */
  private readonly corner = new Int32Array(8);
  private readonly share = new Float64Array(8);
  private readonly slope = new Float64Array(24);
  private readonly at = new Float64Array(3);
  private readonly speed = new Float64Array(3);
  /** Length, speed and slope there. */
  private readonly found = new Float64Array(7);

  constructor(
    private readonly strands: Strands,
    private readonly h: number,
  ) {
    this.rest = new Float64Array(strands.masses.length);
    this.memory = [this.rest, this.wide];
  }

  /** Takes the room that hair has as the room that it keeps: to be called where it stands as it was combed. */
  begin(): void {
    const { strands, rest, found } = this;
    if (strands.links === 0) return;
    this.wide[0] = WIDE * rootsApart(strands);
    this.count();
    const { first } = strands;
    for (let k = 0; k + 1 < first.length; k++)
      for (let i = first[k]!; i < first[k + 1]!; i++) {
        this.stand(k, i);
        this.look();
        rest[i] = found[0]!;
      }
  }

  /** Pushes points for the coming step. */
  push({ rate, friction }: CrowdHow): void {
    if (rate === 0 && friction === 0) return;
    const { strands, rest, found, speed, h } = this;
    const { first, push } = strands;
    this.count();
    const wide = this.wide[0]!;
    const drag = Math.min(friction, MOST / h);
    for (let k = 0; k + 1 < first.length; k++)
      for (let i = first[k]!; i < first[k + 1]!; i++) {
        this.stand(k, i);
        this.look();
        const o = 3 * i;
        const length = found[0]!;
        const room = rest[i]!;
        // How much more hair there is than at rest, as a share of that.
        const pressed = room > 0 ? Math.min(1, Math.max(0, length / room - 1)) : 0;
        const gx = found[4]!,
          gy = found[5]!,
          gz = found[6]!;
        // a = −ω² w² p ∇ρ / ρ₀: twice as much is pushed out of a cell as a spring of that frequency would.
        const steep = (wide * Math.sqrt(gx * gx + gy * gy + gz * gz)) / Math.max(room, 1e-12);
        const by = pressed > 0 ? (pressed * rate * rate * wide * wide) / (room * Math.max(1, steep)) : 0;
        for (let a = 0; a < 3; a++)
          push[o + a] = push[o + a]! - by * found[4 + a]! + drag * (found[1 + a]! / length - speed[a]!);
      }
  }

  /** Where a point is from the first root, m: the same wherever all goes; and how fast it goes, m/s. */
  private stand(k: number, i: number): void {
    const { x, roots, way, went } = this.strands;
    for (let a = 0; a < 3; a++) {
      this.at[a] = x[3 * i + a]! + roots[7 * k + a]! - roots[a]!;
      this.speed[a] = (way[3 * i + a]! + went[3 * k + a]!) / this.h;
    }
  }

  /** Adds all hair up at the corners of the grid. */
  private count(): void {
    const { strands, corners, corner, share, speed } = this;
    const { first, fields } = strands;
    corners.fill(0);
    for (let k = 0; k + 1 < first.length; k++)
      for (let i = first[k]!; i < first[k + 1]!; i++) {
        this.stand(k, i);
        this.near();
        for (let c = 0; c < 8; c++) {
          const w = share[c]! * fields.span[i]!;
          const o = corner[c]!;
          corners[o]! += w;
          corners[o + 1]! += w * speed[0]!;
          corners[o + 2]! += w * speed[1]!;
          corners[o + 3]! += w * speed[2]!;
        }
      }
  }

  /** Finds the corners about the place. */
  private near(): void {
    const { at, corner, share, slope } = this;
    const over = 1 / this.wide[0]!;
    const ux = at[0]! * over,
      uy = at[1]! * over,
      uz = at[2]! * over;
    const ix = Math.floor(ux),
      iy = Math.floor(uy),
      iz = Math.floor(uz);
    const fx = ux - ix,
      fy = uy - iy,
      fz = uz - iz;
    for (let c = 0; c < 8; c++) {
      const bx = c & 1,
        by = (c >> 1) & 1,
        bz = c >> 2;
      const wx = bx === 1 ? fx : 1 - fx,
        wy = by === 1 ? fy : 1 - fy,
        wz = bz === 1 ? fz : 1 - fz;
      const jx = (ix + bx) & (SIDE - 1),
        jy = (iy + by) & (SIDE - 1),
        jz = (iz + bz) & (SIDE - 1);
      corner[c] = 4 * ((jz * SIDE + jy) * SIDE + jx);
      share[c] = wx * wy * wz;
      slope[3 * c] = (2 * bx - 1) * wy * wz * over;
      slope[3 * c + 1] = (2 * by - 1) * wx * wz * over;
      slope[3 * c + 2] = (2 * bz - 1) * wx * wy * over;
    }
  }

  /** Reads the grid at the place. */
  private look(): void {
    const { corners, corner, share, slope, found } = this;
    this.near();
    let n = 0,
      vx = 0,
      vy = 0,
      vz = 0,
      gx = 0,
      gy = 0,
      gz = 0;
    for (let c = 0; c < 8; c++) {
      const o = corner[c]!,
        w = share[c]!,
        here = corners[o]!;
      n += w * here;
      vx += w * corners[o + 1]!;
      vy += w * corners[o + 2]!;
      vz += w * corners[o + 3]!;
      gx += slope[3 * c]! * here;
      gy += slope[3 * c + 1]! * here;
      gz += slope[3 * c + 2]! * here;
    }
    found[0] = n;
    found[1] = vx;
    found[2] = vy;
    found[3] = vz;
    found[4] = gx;
    found[5] = gy;
    found[6] = gz;
  }
}

/** Mean distance from some roots to the nearest other, m; where there is one alone, the length of its links. */
function rootsApart({ roots, first, fields }: Strands): number {
  const n = first.length - 1;
  let sum = 0;
  let some = 0;
  for (let a = 0; a < n; a += Math.ceil(n / LOOKED_AT)) {
    let least = Infinity;
    for (let b = 0; b < n; b++) {
      const [x, y, z] = [0, 1, 2].map((c) => roots[7 * a + c]! - roots[7 * b + c]!) as [
        number,
        number,
        number,
      ];
      const d = x * x + y * y + z * z;
      if (d > 0 && d < least) least = d;
    }
    if (least === Infinity) continue;
    sum += Math.sqrt(least);
    some++;
  }
  return some > 0 ? sum / some : fields.span[0]!;
}
