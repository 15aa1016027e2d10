import type { Path } from './paths';
import type { Sheet } from './sheet';

/** Keeps the lengths of the edges along paths, one path after another. */
export interface Lengths {
  /**
   * Moves the points `x` (m, 3 numbers each) so that each path's edges get their lengths, by a tridiagonal solve of the
   * whole path. `w` are inverse masses, 1/kg; `perStep` is 9/(4 h²), or 1/h² in a first step. Closed rims are solved
   * before and after the rest.
   */
  solve(x: Float64Array, w: Float64Array, perStep: number): void;
}

/** Closed rims are so many times as stiff as the rest: they carry what hangs from them. */
const HEM = 10;
const TINY = 1e-20;

/**
 * `stretch` and `compression` are N/m, 0 for as hard as can be. Extended position-based dynamics with a direct solve of
 * each path (Macklin, Müller, Chentanez 2016; the tridiagonal by Thomas, closed ones by Sherman and Morrison).
 */
export function makeLengths(
  sheet: Sheet,
  paths: readonly Path[],
  stretch: number,
  compression: number,
): Lengths {
  const most = paths.reduce((n, p) => Math.max(n, p.edges.length), 0);
  const way = new Float64Array(3 * most);
  const [right, upper, push, beside] = [0, 1, 2, 3].map(() => new Float64Array(most)) as [
    Float64Array,
    Float64Array,
    Float64Array,
    Float64Array,
  ];
  const rims = paths.filter((p) => p.closed);
  const hem = new Float64Array(sheet.share.length).fill(1);
  for (const p of rims) for (const e of p.edges) hem[e] = HEM;
  const softness = (stiffness: number) =>
    sheet.share.map((s, e) => (stiffness * s * hem[e]! > 0 ? 1 / (stiffness * s * hem[e]!) : 0));
  const gives = softness(stretch);
  const giving = softness(compression);
  const { length } = sheet;

  /** Way and misfit of an edge of a path; returns how much it gives. */
  function measure(path: Path, j: number, x: Float64Array): number {
    const n = path.points.length;
    const a = 3 * path.points[j]!;
    const b = 3 * path.points[j + 1 === n ? 0 : j + 1]!;
    const dx = x[b]! - x[a]!;
    const dy = x[b + 1]! - x[a + 1]!;
    const dz = x[b + 2]! - x[a + 2]!;
    const l = Math.sqrt(dx * dx + dy * dy + dz * dz);
    const s = 1 / (l + TINY);
    way[3 * j] = dx * s;
    way[3 * j + 1] = dy * s;
    way[3 * j + 2] = dz * s;
    const e = path.edges[j]!;
    right[j] = length[e]! - l;
    return l > length[e]! ? gives[e]! : giving[e]!;
  }

  function open(path: Path, x: Float64Array, w: Float64Array, perStep: number): void {
    const { points } = path;
    const m = path.edges.length;
    let before = 0;
    let last = 0;
    for (let j = 0; j < m; j++) {
      const alpha = measure(path, j, x) * perStep;
      const wa = w[points[j]!]!;
      // Coupling with the edge before it, through the point they share.
      const a =
        j === 0
          ? 0
          : -wa *
            (way[3 * j]! * way[3 * j - 3]! +
              way[3 * j + 1]! * way[3 * j - 2]! +
              way[3 * j + 2]! * way[3 * j - 1]!);
      const c = a * before;
      upper[j] = c;
      before = 1 / (wa + w[points[j + 1]!]! + alpha - a * c + TINY);
      last = (right[j]! - a * last) * before;
      push[j] = last;
    }
    for (let j = m - 2; j >= 0; j--) push[j]! -= upper[j + 1]! * push[j + 1]!;
    move(path, x, w);
  }

  function closed(path: Path, x: Float64Array, w: Float64Array, perStep: number): void {
    const { points } = path;
    const n = path.edges.length;
    const diagonal = upper;
    for (let j = 0; j < n; j++)
      diagonal[j] =
        measure(path, j, x) * perStep + w[points[j]!]! + w[points[j + 1 === n ? 0 : j + 1]!]! + TINY;
    const coupling = (j: number) => {
      const k = j === 0 ? n - 1 : j - 1;
      return (
        -w[points[j]!]! *
        (way[3 * j]! * way[3 * k]! + way[3 * j + 1]! * way[3 * k + 1]! + way[3 * j + 2]! * way[3 * k + 2]!)
      );
    };
    const corner = coupling(0);
    const gamma = -diagonal[0]!;
    diagonal[0]! -= gamma;
    diagonal[n - 1]! -= (corner * corner) / gamma;
    push.set(right.subarray(0, n));
    beside.fill(0, 0, n);
    beside[0] = gamma;
    beside[n - 1] = corner;
    // Thomas: `right` holds what each row takes from the next.
    let b = 1 / diagonal[0]!;
    push[0]! *= b;
    beside[0]! *= b;
    for (let j = 1; j < n; j++) {
      const a = coupling(j);
      right[j] = a * b;
      b = 1 / (diagonal[j]! - a * right[j]!);
      push[j] = (push[j]! - a * push[j - 1]!) * b;
      beside[j] = (beside[j]! - a * beside[j - 1]!) * b;
    }
    for (let j = n - 2; j >= 0; j--) {
      push[j]! -= right[j + 1]! * push[j + 1]!;
      beside[j]! -= right[j + 1]! * beside[j + 1]!;
    }
    const share =
      (push[0]! + (corner * push[n - 1]!) / gamma) / (1 + beside[0]! + (corner * beside[n - 1]!) / gamma);
    for (let j = 0; j < n; j++) push[j]! -= share * beside[j]!;
    move(path, x, w);
  }

  /** Moves the points by what the edges push: each away from the edge after it, along the edge before it. */
  function move(path: Path, x: Float64Array, w: Float64Array): void {
    const { points, edges } = path;
    const m = edges.length;
    for (let j = 0; j < points.length; j++) {
      const before = j > 0 ? j - 1 : path.closed ? m - 1 : -1;
      const o = 3 * points[j]!;
      const wj = w[points[j]!]!;
      const p = before >= 0 ? wj * push[before]! : 0;
      const q = j < m ? wj * push[j]! : 0;
      const i = before >= 0 ? 3 * before : 0;
      const k = j < m ? 3 * j : 0;
      x[o] = x[o]! + p * way[i]! - q * way[k]!;
      x[o + 1] = x[o + 1]! + p * way[i + 1]! - q * way[k + 1]!;
      x[o + 2] = x[o + 2]! + p * way[i + 2]! - q * way[k + 2]!;
    }
  }

  return {
    solve: (x, w, perStep) => {
      for (const p of rims) closed(p, x, w, perStep);
      for (const p of paths) if (!p.closed) open(p, x, w, perStep);
      for (const p of rims) closed(p, x, w, perStep);
    },
  };
}
