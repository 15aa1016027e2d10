import { skinVertices, type Character } from '../../character/index';
import { matRotation } from '../../math/index';
import type { PartSource } from '../kind';
import { keepSign } from '../rows';
import type { ClothLayout } from './layout';

/** Where the skin of a cloth is, frame by frame. */
export interface ClothSource extends PartSource {
  /** Rows × points × 3, m. */
  readonly points: Float64Array;
}

/** Points whose way shows whether the clip repeats. */
const SHOWN = 8;

export function makeClothSource(layout: ClothLayout, character: Character, rows: number): ClothSource {
  const { sheet, vertices, node, carriers } = layout;
  const n = sheet.points;
  const points = new Float64Array(rows * 3 * n);
  const skin = new Float64Array(3 * vertices);
  const path = new Float64Array(rows * 3 * SHOWN);
  const body = new Float64Array(rows * 4);
  const shown = Array.from({ length: SHOWN }, (_, k) => Math.floor((k * (n - 1)) / (SHOWN - 1)));
  return {
    points,
    nodes: carriers,
    path: { points: path, body },
    moving: [
      { list: points, places: Array.from({ length: n }, (_, i) => 3 * i), turns: [] },
      { list: path, places: shown.map((_, k) => 3 * k), turns: [] },
      { list: body, places: [], turns: [0] },
    ],
    write: (k, { world }) => {
      skinVertices(skin, character, node, world);
      for (let v = 0; v < vertices; v++)
        points.set(skin.subarray(3 * v, 3 * v + 3), 3 * (k * n + sheet.pointOf[v]!));
      shown.forEach((p, s) => {
        const at = 3 * (k * n + p);
        path.set(points.subarray(at, at + 3), 3 * (k * SHOWN + s));
      });
      matRotation(body, 4 * k, world, 16 * carriers[0]!);
      if (k > 0) keepSign(body, 4 * k, 4 * (k - 1));
    },
    finish: () => undefined,
  };
}
