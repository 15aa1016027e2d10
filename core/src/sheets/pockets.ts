import { sumNormals, type Sheet } from './sheet';

/** A piece of a sheet that is closed all round. */
export interface Pocket {
  /** Corners, 3 points of the sheet a triangle. */
  readonly triangles: Int32Array;
  readonly points: Int32Array;
  /** What it encloses at rest, m³; below 0 where its triangles are seen from outside clockwise. */
  readonly volume: number;
}

/** The middle of some points. */
export function middle(x: Float64Array, points: Int32Array): [number, number, number] {
  let [a, b, c] = [0, 0, 0];
  for (const p of points) {
    a += x[3 * p]!;
    b += x[3 * p + 1]!;
    c += x[3 * p + 2]!;
  }
  return [a / points.length, b / points.length, c / points.length];
}

/**
 * Six times how the volume of a pocket grows as each of its points moves, into `out` (3 numbers a point of the sheet):
 * sums of cross products. Returns its volume, m³: a third of the sum of places times that.
 */
export function measure(
  out: Float64Array,
  x: Float64Array,
  { triangles, points }: Omit<Pocket, 'volume'>,
): number {
  sumNormals(out, x, triangles);
  const [a, b, c] = middle(x, points);
  let sum = 0;
  for (const p of points) {
    const o = 3 * p;
    sum += (x[o]! - a) * out[o]! + (x[o + 1]! - b) * out[o + 1]! + (x[o + 2]! - c) * out[o + 2]!;
  }
  return sum / 18;
}

/** The pieces of a sheet that are closed: triangles that meet two at each edge, all round. Strings on them are none. */
export function pocketsOf({ triangles, rest, points }: Sheet): Pocket[] {
  const count = triangles.length / 3;
  const beside = new Map<number, number[]>();
  const sides = (t: number) =>
    [0, 1, 2].map((k) => {
      const [a, b] = [triangles[3 * t + k]!, triangles[3 * t + ((k + 1) % 3)]!];
      return Math.min(a, b) * points + Math.max(a, b);
    });
  for (let t = 0; t < count; t++)
    for (const side of sides(t)) {
      const list = beside.get(side);
      if (list) list.push(t);
      else beside.set(side, [t]);
    }
  const seen = new Uint8Array(count);
  const out: Pocket[] = [];
  for (let start = 0; start < count; start++) {
    if (seen[start]) continue;
    seen[start] = 1;
    const own = [start];
    let closed = true;
    for (let k = 0; k < own.length; k++)
      for (const side of sides(own[k]!)) {
        const both = beside.get(side)!;
        if (both.length !== 2) closed = false;
        else
          for (const t of both)
            if (!seen[t]) {
              seen[t] = 1;
              own.push(t);
            }
      }
    if (!closed) continue;
    const corners = Int32Array.from(own.flatMap((t) => [0, 1, 2].map((k) => triangles[3 * t + k]!)));
    const all = Int32Array.from([...new Set(corners)].sort((a, b) => a - b));
    const pocket = { triangles: corners, points: all };
    const volume = measure(new Float64Array(3 * points), rest, pocket);
    if (volume !== 0) out.push({ ...pocket, volume });
  }
  return out;
}
