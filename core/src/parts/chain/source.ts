import type { Character } from '../../character/index';
import { matRotation } from '../../math/index';
import type { Arena } from '../../solver/index';
import type { Posed, PartSource } from '../kind';
import { keepSign } from '../rows';
import type { ChainLayout } from './layout';

/** The source motion of one chain, by rows. */
export interface ChainSource extends PartSource {
  /** Rows × (links + 1) × 3, m. */
  readonly points: Float64Array;
  /** Rows × links × 4, signs continuous in time. */
  readonly turns: Float64Array;
  /** Rows × 4: turn of what the first joint hangs from. */
  readonly body: Float64Array;
  /** Rows × 4: turn, in its own parent, of the joint whose swing is handed down. */
  readonly driver: Float64Array;
  /** Link lengths in the first pose, m, none 0. */
  readonly lengths: Float64Array;
}

/** Length given to links of no length, as a share of the chain's (or 1 mm when the whole chain has none). */
const LEAST_LENGTH = 1e-4;

const every = (step: number, width: number): number[] =>
  Array.from({ length: width / step }, (_, i) => step * i);

/** Room for the rows of a chain; the large ones stand in the arena, beside its solver. */
export function makeChainSource(
  layout: ChainLayout,
  character: Character,
  rows: number,
  arena: Arena,
): ChainSource {
  const n = layout.joints.length;
  const points = arena.alloc(rows * (n + 1) * 3);
  const turns = arena.alloc(rows * n * 4);
  const body = new Float64Array(rows * 4);
  const driver = new Float64Array(rows * 4);
  const lengths = new Float64Array(n);
  return {
    points,
    turns,
    body,
    driver,
    lengths,
    nodes: Array.from(layout.joints),
    path: { points, body },
    moving: [
      { list: points, places: every(3, 3 * (n + 1)), turns: [] },
      { list: turns, places: [], turns: every(4, 4 * n) },
      { list: body, places: [], turns: [0] },
      // Turns in a parent's space are the same in every lap.
      { list: driver, places: [], turns: [] },
    ],
    write: (row, posed) => writeRow(layout, character, { points, turns, body, driver }, row, posed),
    finish: (row) => measureLengths(points, lengths, row),
  };
}

function writeRow(
  { part, joints, tip }: ChainLayout,
  character: Character,
  { points, turns, body, driver }: Pick<ChainSource, 'points' | 'turns' | 'body' | 'driver'>,
  k: number,
  { pose, world }: Posed,
): void {
  const above = character.nodes[joints[0]!]!.parent;
  if (above >= 0) matRotation(body, 4 * k, world, 16 * above);
  else body[4 * k + 3] = 1;
  if (k > 0) keepSign(body, 4 * k, 4 * (k - 1));
  const drives = part.overlapFrom === 'first' ? joints[0]! : above;
  if (drives >= 0) for (let a = 0; a < 4; a++) driver[4 * k + a] = pose.r[4 * drives + a]!;
  else driver[4 * k + 3] = 1;
  if (k > 0) keepSign(driver, 4 * k, 4 * (k - 1));
  const n = joints.length;
  const p = k * (n + 1) * 3;
  for (let i = 0; i < n; i++) {
    const m = 16 * joints[i]!;
    for (let a = 0; a < 3; a++) points[p + 3 * i + a] = world[m + 12 + a]!;
    const q = (k * n + i) * 4;
    matRotation(turns, q, world, m);
    if (k > 0) keepSign(turns, q, q - 4 * n);
  }
  const m = 16 * joints[n - 1]!;
  for (let a = 0; a < 3; a++) {
    points[p + 3 * n + a] =
      world[m + a]! * tip[0]! +
      world[m + 4 + a]! * tip[1]! +
      world[m + 8 + a]! * tip[2]! +
      world[m + 12 + a]!;
  }
}

/** Lengths in the first pose of the range, which is row `k`. */
function measureLengths(points: Float64Array, lengths: Float64Array, k: number): void {
  const n = lengths.length;
  const row = k * (n + 1) * 3;
  const link = (i: number) =>
    [0, 1, 2].map((a) => points[row + 3 * (i + 1) + a]! - points[row + 3 * i + a]!) as [
      number,
      number,
      number,
    ];
  const norm = (v: readonly [number, number, number]) => Math.sqrt(v[0] * v[0] + v[1] * v[1] + v[2] * v[2]);
  let total = 0;
  for (let i = 0; i < n; i++) total += lengths[i] = norm(link(i));
  const least = total > 0 ? total * LEAST_LENGTH : 1e-3;
  for (let i = 0; i < n; i++) lengths[i] = Math.max(lengths[i]!, least);
}
