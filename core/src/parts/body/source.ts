import { skinVertices, type Character } from '../../character/index';
import { matRotation } from '../../math/index';
import type { PartSource } from '../kind';
import { keepSign } from '../rows';
import type { BodyLayout } from './layout';

/** Where the animation has a soft body, frame by frame. */
export interface BodySource extends PartSource {
  /** Rows × points of its sheet × 3, and rows × nodes of its lattice × 3, m. */
  readonly skin: Float64Array;
  readonly shown: Float64Array;
}

/** Points whose way shows whether the clip repeats. */
const SHOWN = 8;

export function makeBodySource(layout: BodyLayout, character: Character, rows: number): BodySource {
  const { node, vertices, sheet, lattice, carriers, carrier, skeleton } = layout;
  const [n, m] = [sheet.points, lattice.nodes];
  const [skin, shown] = [new Float64Array(3 * rows * n), new Float64Array(3 * rows * m)];
  const body = new Float64Array(4 * rows);
  const places = new Float64Array(3 * vertices);
  const some = Array.from({ length: SHOWN }, (_, k) => Math.floor((k * (m - 1)) / (SHOWN - 1)));
  const path = new Float64Array(3 * rows * SHOWN);
  const triples = (count: number) => Array.from({ length: count }, (_, k) => 3 * k);
  return {
    ...{ skin, shown, nodes: carriers },
    path: { points: path, body },
    moving: [
      { list: skin, places: triples(n), turns: [] },
      { list: shown, places: triples(m), turns: [] },
      { list: path, places: triples(SHOWN), turns: [] },
      { list: body, places: [], turns: [0] },
    ],
    write: (k, { world }) => {
      skinVertices(places, character, node, world);
      const own = skin.subarray(3 * n * k, 3 * n * (k + 1));
      for (let v = 0; v < vertices; v++)
        for (let a = 0; a < 3; a++) own[3 * sheet.pointOf[v]! + a] = places[3 * v + a]!;
      const nodes = shown.subarray(3 * m * k, 3 * m * (k + 1));
      skinVertices(nodes, skeleton, node, world);
      some.forEach((p, s) => path.set(nodes.subarray(3 * p, 3 * p + 3), 3 * (k * SHOWN + s)));
      matRotation(body, 4 * k, world, 16 * carrier);
      if (k > 0) keepSign(body, 4 * k, 4 * (k - 1));
    },
    finish: () => undefined,
  };
}
