import type { ClothStep } from '../../kernel/cloth/fields';
import type { Sheet } from '../../sheets/index';
import { placeOf, type Grouped, type Make } from './setup';

/** A point is bent back at most so many times as hard as inertia holds it: what is stiffer does not come to rest. */
const STIFFEST = 0.5;

/** How stiff points are: rigidity (N m) and the share of the bending length at each, their masses (kg), 9 / (4 h²). */
interface Bending {
  readonly rigidity: number;
  readonly stiffer: Float64Array | null;
  readonly mass: Float64Array;
  readonly perStep: number;
}

/** Edges without triangles, as what air blows on and, where they are closed rows, as what bends. */
export function threadFields(
  { faces, edges, share, length }: Sheet,
  { placed, size }: Grouped,
  { rigidity, stiffer, mass, perStep }: Bending,
  make: Make,
): Pick<ClothStep, 'threads' | 'thread' | 'strip' | 'knots' | 'knot' | 'straight' | 'pulls'> {
  const lines = Array.from(faces.keys()).filter((e) => faces[e] === 0);
  const [thread, strip] = [make.ints(2 * lines.length), make.numbers(lines.length)];
  lines.forEach((e, k) => {
    thread.set(edges.subarray(2 * e, 2 * e + 2), 2 * k);
    strip[k] = share[e]! * length[e]! ** 2;
  });
  const knots: number[] = [];
  const stiff: number[] = [];
  for (const { path } of placed) {
    const n = path.edges.length;
    if (!path.closed || path.edges.some((e) => faces[e]! > 0)) continue;
    for (let j = 0; j < n; j++) {
      const [before, after] = [path.edges[(j + n - 1) % n]!, path.edges[j]!];
      const l = (length[before]! + length[after]!) / 2;
      const at = path.points[j]!;
      knots.push(path.points[(j + n - 1) % n]!, at, path.points[(j + 1) % n]!);
      const bent = rigidity * (stiffer ? stiffer[at]! ** 3 : 1);
      const bends = (bent * share[after]! * length[after]!) / l ** 3;
      stiff.push(Math.min(bends, STIFFEST * perStep * mass[at]!));
    }
  }
  const knot = make.ints(knots.length);
  knot.set(knots);
  const straight = make.numbers(stiff.length);
  straight.set(stiff);
  const pulls = make.numbers(lines.length > 0 ? size : 0);
  return { threads: lines.length, thread, strip, pulls, knots: stiff.length, knot, straight };
}

/** Where the pulls of edges without triangles stand, by slot. */
export const threadSlots = ({ faces }: Sheet, { placed }: Grouped): Int32Array =>
  Int32Array.from(
    placed.flatMap((p) =>
      Array.from(p.path.edges, (e, j) => (faces[e] === 0 ? placeOf(p, j) : -1)).filter((k) => k >= 0),
    ),
  );
