import { matRotation } from '../../math/index';
import type { SheetSource } from './source';
import { keepSign } from '../rows';
import type { PanelLayout } from './panelLayout';

/** Where the joints and tips of a panel are by its source, frame by frame. */
export function makePanelSource({ rows, sheet, joints }: PanelLayout, count: number): SheetSource {
  const n = sheet.points;
  const points = new Float64Array(count * 3 * n);
  const body = new Float64Array(count * 4);
  const places = Array.from({ length: n }, (_, i) => 3 * i);
  return {
    ...{ points, skin: points },
    nodes: Array.from(joints),
    path: { points, body },
    moving: [
      { list: points, places, turns: [] },
      { list: body, places: [], turns: [0] },
    ],
    write: (k, { world }) => {
      for (const { joints: row, first, tip } of rows) {
        let at = 3 * (k * n + first);
        for (const node of row) {
          points.set(world.subarray(16 * node + 12, 16 * node + 15), at);
          at += 3;
        }
        const m = 16 * row[row.length - 1]!;
        for (let r = 0; r < 3; r++)
          points[at + r] =
            world[m + r]! * tip[0]! +
            world[m + 4 + r]! * tip[1]! +
            world[m + 8 + r]! * tip[2]! +
            world[m + 12 + r]!;
      }
      matRotation(body, 4 * k, world, 16 * joints[0]!);
      if (k > 0) keepSign(body, 4 * k, 4 * (k - 1));
    },
    finish: () => undefined,
  };
}
