/** Small geometry for drawing the demo characters: three-vectors, skin weights and a mesh that grows. */
export type V3 = readonly [number, number, number];

export const add = (a: V3, b: V3): V3 => [a[0] + b[0], a[1] + b[1], a[2] + b[2]];
export const sub = (a: V3, b: V3): V3 => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
export const scale = (a: V3, k: number): V3 => [a[0] * k, a[1] * k, a[2] * k];
export const dot = (a: V3, b: V3): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
export const cross = (a: V3, b: V3): V3 => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];
export const length = (a: V3): number => Math.sqrt(dot(a, a));
export const unit = (a: V3): V3 => scale(a, 1 / (length(a) || 1));
export const mix = (a: V3, b: V3, t: number): V3 => add(scale(a, 1 - t), scale(b, t));
export const smooth = (t: number): number => {
  const x = Math.min(1, Math.max(0, t));
  return x * x * (3 - 2 * x);
};

/** Joint indices with weights; any sum. */
export type Weights = readonly (readonly [number, number])[];

/** Linear RGB from an sRGB hex colour. */
export function ink(hex: string): V3 {
  const c = [1, 3, 5]
    .map((i) => parseInt(hex.slice(i, i + 2), 16) / 255)
    .map((v) => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4));
  return [c[0]!, c[1]!, c[2]!];
}

/** A mesh that grows piece by piece; `finish` gives smooth normals (vertices at one place share theirs). */
export class Sculpt {
  readonly positions: number[] = [];
  readonly colours: number[] = [];
  readonly joints: number[] = [];
  readonly weights: number[] = [];
  readonly indices: number[] = [];

  vertex(p: V3, colour: V3, weights: Weights): number {
    this.positions.push(...p);
    this.colours.push(...colour, 1);
    const top = [...weights]
      .filter((w) => w[1] > 1e-3)
      .sort((a, b) => b[1] - a[1])
      .slice(0, 4);
    const sum = top.reduce((s, w) => s + w[1], 0);
    for (let k = 0; k < 4; k++) {
      this.joints.push(top[k]?.[0] ?? 0);
      this.weights.push(top[k] ? top[k]![1] / sum : 0);
    }
    return this.positions.length / 3 - 1;
  }

  quad(a: number, b: number, c: number, d: number): void {
    this.indices.push(a, b, c, a, c, d);
  }

  /** A grid of rows × columns points, closed around when `round`. */
  grid(
    rows: number,
    columns: number,
    round: boolean,
    at: (v: number, u: number) => { p: V3; colour: V3; weights: Weights },
  ): void {
    const start = this.positions.length / 3;
    const across = round ? columns : columns + 1;
    for (let r = 0; r <= rows; r++) {
      for (let c = 0; c < across; c++) {
        const { p, colour, weights } = at(r / rows, c / columns);
        this.vertex(p, colour, weights);
      }
    }
    for (let r = 0; r < rows; r++) {
      for (let c = 0; c < columns; c++) {
        const a = start + r * across + c;
        const b = start + r * across + ((c + 1) % across);
        this.quad(a, a + across, b + across, b);
      }
    }
  }

  /**
   * A tube along points with two radii at each; flat ones make feathers and straps. `side` is the direction of the
   * first radius; colours and weights are asked for along it (0..1).
   */
  tube(
    path: readonly V3[],
    side: V3,
    radii: (t: number) => readonly [number, number],
    around: number,
    colour: (t: number, u: number) => V3,
    weights: (t: number) => Weights,
  ): void {
    const n = path.length - 1;
    this.grid(n, around, true, (v, u) => {
      const i = Math.round(v * n);
      const forward = unit(sub(path[Math.min(n, i + 1)]!, path[Math.max(0, i - 1)]!));
      const b = unit(cross(forward, side));
      const a = cross(b, forward);
      const [ra, rb] = radii(v);
      const angle = -u * 2 * Math.PI;
      return {
        p: add(path[i]!, add(scale(a, ra * Math.cos(angle)), scale(b, rb * Math.sin(angle)))),
        colour: colour(v, u),
        weights: weights(v),
      };
    });
  }

  ball(
    centre: V3,
    radii: V3,
    rows: number,
    columns: number,
    colour: (d: V3) => V3,
    weights: (p: V3) => Weights,
  ): void {
    this.grid(rows, columns, true, (v, u) => {
      const polar = Math.PI * (0.001 + 0.998 * v);
      const d: V3 = [
        Math.sin(polar) * Math.sin(2 * Math.PI * u),
        Math.cos(polar),
        Math.sin(polar) * Math.cos(2 * Math.PI * u),
      ];
      const p = add(centre, [d[0] * radii[0], d[1] * radii[1], d[2] * radii[2]]);
      return { p, colour: colour(d), weights: weights(p) };
    });
  }

  /** As the lists of a mesh: without triangles that have no area, or as it is where its indices are pairs. */
  finish(lines = false): {
    positions: Float32Array;
    normals: Float32Array;
    colours: Float32Array;
    joints: Uint16Array;
    weights: Float32Array;
    indices: Uint32Array;
  } {
    const n = this.positions.length / 3;
    const sums = new Map<string, [number, number, number]>();
    const key = (i: number) => [0, 1, 2].map((k) => Math.round(this.positions[3 * i + k]! * 1e5)).join();
    const keys = Array.from({ length: n }, (_, i) => key(i));
    const at = (i: number): V3 => [
      this.positions[3 * i]!,
      this.positions[3 * i + 1]!,
      this.positions[3 * i + 2]!,
    ];
    const kept: number[] = [];
    for (let t = 0; t < (lines ? 0 : this.indices.length); t += 3) {
      const [a, b, c] = [this.indices[t]!, this.indices[t + 1]!, this.indices[t + 2]!];
      const face = cross(sub(at(b), at(a)), sub(at(c), at(a)));
      if (length(face) < 1e-12) continue;
      kept.push(a, b, c);
      for (const i of [a, b, c]) {
        const s = sums.get(keys[i]!) ?? [0, 0, 0];
        for (let k = 0; k < 3; k++) s[k]! += face[k]!;
        sums.set(keys[i]!, s);
      }
    }
    const normals = new Float32Array(3 * n);
    for (let i = 0; i < n; i++) {
      const s = sums.get(keys[i]!) ?? [0, 1, 0];
      normals.set(length(s) > 1e-15 ? unit(s) : [0, 1, 0], 3 * i);
    }
    return {
      positions: Float32Array.from(this.positions),
      normals,
      colours: Float32Array.from(this.colours),
      joints: Uint16Array.from(this.joints),
      weights: Float32Array.from(this.weights),
      indices: Uint32Array.from(lines ? this.indices : kept),
    };
  }
}

/** Points on a smooth curve (Catmull–Rom) through `through`, `n` pieces. */
export function curve(through: readonly V3[], n: number): V3[] {
  const out: V3[] = [];
  const m = through.length - 1;
  for (let i = 0; i <= n; i++) {
    const x = (i / n) * m;
    const k = Math.min(m - 1, Math.floor(x));
    const t = x - k;
    const p = (j: number) => through[Math.min(m, Math.max(0, j))]!;
    const w = [
      (-t * t * t + 2 * t * t - t) / 2,
      (3 * t * t * t - 5 * t * t + 2) / 2,
      (-3 * t * t * t + 4 * t * t + t) / 2,
      (t * t * t - t * t) / 2,
    ];
    out.push([0, 1, 2].map((a) => w.reduce((s, c, j) => s + c * p(k - 1 + j)[a]!, 0)) as unknown as V3);
  }
  return out;
}

/** Distance from p to the segment a–b. */
export function toSegment(p: V3, a: V3, b: V3): number {
  const ab = sub(b, a);
  const t = Math.min(1, Math.max(0, dot(sub(p, a), ab) / (dot(ab, ab) || 1)));
  return length(sub(p, add(a, scale(ab, t))));
}
