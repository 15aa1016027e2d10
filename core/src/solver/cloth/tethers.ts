import type { Pocket, Sheet } from '../../sheets/index';

/** An edge of a string: its ends, how long it is at rest (m), and how much of what it is too long moves the first. */
interface Edge {
  readonly from: number;
  readonly to: number;
  readonly rest: number;
  readonly share: number;
}

/** A string of a sheet from a point that is held to a closed piece. */
export interface Tether {
  readonly pocket: Pocket;
  readonly anchor: number;
  readonly neck: number;
  /** m: along it at rest. */
  readonly length: number;
  /** Its points between, and how far along it each is from its anchor, m. */
  readonly points: Int32Array;
  readonly along: Float64Array;
  /** Its edges from the anchor on. */
  readonly edges: readonly Edge[];
}

/** The strings of a sheet: what hangs together beside its closed pieces, from what is held to one of them. */
export function tethersOf(sheet: Sheet, pockets: readonly Pocket[], held: ArrayLike<number>): Tether[] {
  const { points, edges, length, area } = sheet;
  const inside = new Int32Array(points).fill(-1);
  pockets.forEach((pocket, k) => pocket.points.forEach((p) => (inside[p] = k)));
  const beside = Array.from({ length: points }, (): [point: number, far: number][] => []);
  length.forEach((l, e) => {
    const [a, b] = [edges[2 * e]!, edges[2 * e + 1]!];
    beside[a]!.push([b, l]);
    beside[b]!.push([a, l]);
  });
  const out: Tether[] = [];
  const seen = new Uint8Array(points);
  for (let start = 0; start < points; start++) {
    if (!held[start] || inside[start]! >= 0 || seen[start] || !(area[start]! > 0)) continue;
    const far = nearestHeld(start, beside, inside, held);
    for (const p of far.keys()) seen[p] = 1;
    // A piece that is held itself hangs on nothing.
    const isHeld = (p: number) => pockets[inside[p]!]!.points.some((q) => held[q]);
    const [neck] = [...far]
      .filter(([p]) => inside[p]! >= 0 && !isHeld(p))
      .sort((a, b) => a[1].far - b[1].far || a[0] - b[0]);
    if (!neck) continue;
    const own = [...far].filter(([p]) => inside[p]! < 0 && !held[p]).sort((a, b) => a[1].far - b[1].far);
    out.push({
      pocket: pockets[inside[neck[0]]!]!,
      ...{ anchor: neck[1].from, neck: neck[0], length: neck[1].far },
      points: Int32Array.from(own, ([p]) => p),
      along: Float64Array.from(own, ([, { far: d }]) => d),
      edges: own.flatMap(([p, { far: d }]) =>
        beside[p]!.filter(([q]) => far.has(q) && (far.get(q)!.far < d || inside[q]! >= 0)).map(
          ([q, rest]) => ({
            ...{ from: q, to: p, rest },
            // What is held stays, and so does the piece at its end.
            share: held[q] || inside[q]! >= 0 ? 0 : 0.5,
          }),
        ),
      ),
    });
  }
  return out;
}

/** How far each point of a string is from the nearest that is held, along its edges (Dijkstra); it ends at a piece. */
function nearestHeld(
  start: number,
  beside: readonly (readonly [number, number][])[],
  inside: Int32Array,
  held: ArrayLike<number>,
): Map<number, { far: number; from: number }> {
  const far = new Map([[start, { far: 0, from: start }]]);
  const open = new Set([start]);
  while (open.size > 0) {
    let next = -1;
    for (const p of open) if (next < 0 || far.get(p)!.far < far.get(next)!.far) next = p;
    open.delete(next);
    const at = far.get(next)!;
    if (inside[next]! >= 0) continue;
    for (const [p, l] of beside[next]!) {
      const d = held[p] ? 0 : at.far + l;
      const known = far.get(p);
      if (known && known.far <= d) continue;
      far.set(p, { far: d, from: held[p] ? p : at.from });
      open.add(p);
    }
  }
  return far;
}

/** A taut string reaches this share of its length: its points need not lie on a line to the bit. */
const TAUT = 0.996;
/** Times that a string's edges are shortened in a step. */
const SWEEPS = 12;

/**
 * Keeps strings from getting longer: what they hold is brought back as a rigid body pulled at its neck, and their own
 * points to no farther than they are along the string from either end (long-range attachments: Kim, Chentanez, Müller
 * 2012). `mass` is kg a point.
 */
export function keepTethers(
  tethers: readonly Tether[],
  x: Float64Array,
  mass: Float64Array,
  touched: Float64Array,
): void {
  for (const t of tethers) {
    if (pullBack(t, x, mass)) for (const p of t.pocket.points) touch(touched, p);
    t.points.forEach((p, k) => {
      const kept = [within(x, p, t.anchor, t.along[k]!), within(x, p, t.neck, t.length - t.along[k]!)];
      if (kept.includes(false)) touch(touched, p);
    });
    for (let sweep = 0; sweep < SWEEPS; sweep++) shorten(t, x, sweep % 2 === 1);
  }
}

/** Shortens the edges of a string that are too long, from one end to the other. */
function shorten({ edges }: Tether, x: Float64Array, back: boolean): void {
  for (let k = 0; k < edges.length; k++) {
    const { from, to, rest, share } = edges[back ? edges.length - 1 - k : k]!;
    const [i, j] = [3 * from, 3 * to];
    const dx = x[j]! - x[i]!,
      dy = x[j + 1]! - x[i + 1]!,
      dz = x[j + 2]! - x[i + 2]!;
    const far = Math.sqrt(dx * dx + dy * dy + dz * dz);
    if (!(far > rest)) continue;
    const by = (far - rest) / far;
    x[i]! += share * by * dx;
    x[i + 1]! += share * by * dy;
    x[i + 2]! += share * by * dz;
    x[j]! -= (1 - share) * by * dx;
    x[j + 1]! -= (1 - share) * by * dy;
    x[j + 2]! -= (1 - share) * by * dz;
  }
}

/** Says that a point pressed on something in this step. */
export function touch(touched: Float64Array, p: number): void {
  if (touched[p]! < 4) touched[p]! += 4;
}

/** Moves point p to no farther than `most` from another; whether it was there already. */
function within(x: Float64Array, p: number, other: number, most: number): boolean {
  let sum = 0;
  for (let a = 0; a < 3; a++) sum += (x[3 * p + a]! - x[3 * other + a]!) ** 2;
  if (!(sum > most * most)) return true;
  const s = most / Math.sqrt(sum);
  for (let a = 0; a < 3; a++) {
    const from = x[3 * other + a]!;
    x[3 * p + a] = from + s * (x[3 * p + a]! - from);
  }
  return false;
}

/** Brings a closed piece back by its neck: it goes and turns as a ball of its mass does. Whether it was too far. */
function pullBack(
  { pocket, anchor, neck, length: whole }: Tether,
  x: Float64Array,
  mass: Float64Array,
): boolean {
  const length = TAUT * whole;
  const n = [0, 1, 2].map((a) => x[3 * anchor + a]! - x[3 * neck + a]!);
  const far = Math.sqrt(n.reduce((s, d) => s + d * d, 0));
  if (!(far > length)) return false;
  for (let a = 0; a < 3; a++) n[a]! /= far;
  const c = [0, 0, 0];
  let all = 0;
  for (const p of pocket.points) {
    const [m, o] = [mass[p]!, 3 * p];
    all += m;
    c[0]! += m * x[o]!;
    c[1]! += m * x[o + 1]!;
    c[2]! += m * x[o + 2]!;
  }
  for (let a = 0; a < 3; a++) c[a]! /= all;
  let inertia = 0;
  for (const p of pocket.points) {
    const o = 3 * p;
    inertia += mass[p]! * ((x[o]! - c[0]!) ** 2 + (x[o + 1]! - c[1]!) ** 2 + (x[o + 2]! - c[2]!) ** 2);
  }
  inertia *= 2 / 3;
  const r = [0, 1, 2].map((a) => x[3 * neck + a]! - c[a]!);
  const twist = [0, 1, 2].map((a) => r[(a + 1) % 3]! * n[(a + 2) % 3]! - r[(a + 2) % 3]! * n[(a + 1) % 3]!);
  const gives = 1 / all + twist.reduce((s, d) => s + d * d, 0) / inertia;
  const push = (far - length) / gives;
  const [tx, ty, tz] = twist.map((d) => (push * d) / inertia) as [number, number, number];
  const [gx, gy, gz] = n.map((d) => (push / all) * d) as [number, number, number];
  for (const p of pocket.points) {
    const o = 3 * p;
    const [dx, dy, dz] = [x[o]! - c[0]!, x[o + 1]! - c[1]!, x[o + 2]! - c[2]!];
    x[o]! += gx + ty * dz - tz * dy;
    x[o + 1]! += gy + tz * dx - tx * dz;
    x[o + 2]! += gz + tx * dy - ty * dx;
  }
  return true;
}
