import { skinVertices, type Character } from '../../character/index';
import { matRotation } from '../../math/index';
import type { PartSource } from '../kind';
import { keepSign } from '../rows';
import type { ClothLayout } from './layout';

/** Where the skin of a sheet is, frame by frame. */
export interface SheetSource extends PartSource {
  /** Rows × points × 3, m. */
  readonly points: Float64Array;
  /** The same of all points that are drawn, which are more where the cloth is a coarse one. */
  readonly skin: Float64Array;
}

/** Points whose way shows whether the clip repeats. */
const SHOWN = 8;

export function makeClothSource(layout: ClothLayout, character: Character, rows: number): SheetSource {
  const { vertices, node, carriers, detail } = layout;
  const sheet = (detail ?? layout).sheet;
  const n = sheet.points;
  const skin = new Float64Array(rows * 3 * n);
  const points = detail ? new Float64Array(rows * 3 * detail.pick.length) : skin;
  const places = new Float64Array(3 * vertices);
  const path = new Float64Array(rows * 3 * SHOWN);
  const body = new Float64Array(rows * 4);
  const shown = Array.from({ length: SHOWN }, (_, k) => Math.floor((k * (n - 1)) / (SHOWN - 1)));
  return {
    ...{ points, skin },
    nodes: carriers,
    path: { points: path, body },
    moving: [
      ...[...new Set([points, skin])].map((list) => ({
        list,
        places: triples(list.length / rows),
        turns: [],
      })),
      { list: path, places: shown.map((_, k) => 3 * k), turns: [] },
      { list: body, places: [], turns: [0] },
    ],
    write: (k, { world }) => {
      skinVertices(places, character, node, world);
      for (let v = 0; v < vertices; v++) {
        const at = 3 * (k * n + sheet.pointOf[v]!);
        for (let a = 0; a < 3; a++) skin[at + a] = places[3 * v + a]!;
      }
      detail?.pick.forEach((p, i) => {
        const at = 3 * (k * n + p);
        points.set(skin.subarray(at, at + 3), 3 * (k * detail.pick.length + i));
      });
      shown.forEach((p, s) => {
        const at = 3 * (k * n + p);
        path.set(skin.subarray(at, at + 3), 3 * (k * SHOWN + s));
      });
      matRotation(body, 4 * k, world, 16 * carriers[0]!);
      if (k > 0) keepSign(body, 4 * k, 4 * (k - 1));
    },
    finish: () => undefined,
  };
}

const triples = (numbers: number): number[] => Array.from({ length: numbers / 3 }, (_, i) => 3 * i);
