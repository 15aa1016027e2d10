import { skinVertices, type Character } from '../../character/index';
import { sheetOf } from '../../sheets/index';
import { makeCells, type BodyCells } from './cells';
import type { BodyPart } from './document';
import { layOutBody, stringPoints, type BodyLayout } from './layout';

/** Edges of a cell: pairs of its corners. */
const EDGES = [0, 1, 2, 3, 4, 5, 6, 7].flatMap((c) =>
  [1, 2, 4].flatMap((side) => (c & side ? [] : [[c, c + side] as const])),
);

/** What a soft body's mesh is filled with; throws where it cannot be filled. */
export const cellsOf = (
  character: Character,
  { mesh, cells }: Pick<BodyPart, 'mesh' | 'cells'>,
  metresPerUnit: number,
): BodyCells => makeCells(sheetOf(character, mesh.node), cells, metresPerUnit);

const tied = new WeakMap<BodyPart['strings'], readonly number[]>();

/** Of each string of a body the vertex that it holds. */
export function heldByStrings(character: Character, { mesh, strings }: BodyPart): readonly number[] {
  const known = tied.get(strings);
  if (known) return known;
  const sheet = sheetOf(character, mesh.node);
  const vertices = stringPoints(character, strings, sheet).map((p) => sheet.pointOf.indexOf(p));
  tied.set(strings, vertices);
  return vertices;
}

const laid = new WeakMap<Character, Map<string, BodyLayout | null>>();

/**
 * The outer edges of a soft body's cells where its animation has them, m: 6 numbers each; none where it cannot be laid
 * out. `world` holds 16 numbers a node.
 */
export function cellEdges(
  character: Character,
  part: BodyPart,
  metresPerUnit: number,
  world: Float64Array,
): Float64Array {
  const known = laid.get(character) ?? new Map<string, BodyLayout | null>();
  laid.set(character, known);
  const key = `${part.mesh.node} ${part.cells} ${metresPerUnit}`;
  if (!known.has(key)) {
    let layout: BodyLayout | null = null;
    try {
      layout = layOutBody(character, { ...part, maps: {} }, metresPerUnit);
    } catch {
      // What is wrong with it is said where it is simulated.
    }
    known.set(key, layout);
  }
  const layout = known.get(key);
  if (!layout) return new Float64Array(0);
  const { lattice, skeleton, node } = layout;
  const places = new Float64Array(3 * lattice.nodes);
  skinVertices(places, skeleton, node, world);
  const cells = new Map<number, number>();
  for (let c = 0; c < lattice.cells; c++)
    for (const [a, b] of EDGES) {
      const edge = lattice.corners[8 * c + a]! * lattice.nodes + lattice.corners[8 * c + b]!;
      cells.set(edge, (cells.get(edge) ?? 0) + 1);
    }
  // Edges between four cells are inside.
  const outer = [...cells].filter(([, n]) => n < 4).map(([edge]) => edge);
  return Float64Array.from(
    outer.flatMap((edge) =>
      [Math.floor(edge / lattice.nodes), edge % lattice.nodes].flatMap((p) => [
        ...places.subarray(3 * p, 3 * p + 3),
      ]),
    ),
  );
}
