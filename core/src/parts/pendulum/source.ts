import type { PartSource } from '../kind';
import { keepSign } from '../rows';
import { matRotation } from '../../math/index';
import type { Character } from '../../character/index';
import type { PendulumLayout } from './layout';

/** Places that stand for the joint it follows: where it is, and the ends of its three axes. */
const PLACES = 4;

/** What a pendulum follows, as rows: only what shows whether the clip repeats. Its answer is known beforehand. */
export function makePendulumSource(layout: PendulumLayout, character: Character, rows: number): PartSource {
  const points = new Float64Array(rows * 3 * PLACES);
  const body = new Float64Array(rows * 4);
  const node = layout.follows;
  return {
    nodes: [node, ...layout.joints],
    path: { points, body },
    moving: [
      { list: points, places: [0, 3, 6, 9], turns: [] },
      { list: body, places: [], turns: [0] },
    ],
    write: (k, { world }) => {
      const { parent } = character.nodes[node]!;
      if (parent >= 0) matRotation(body, 4 * k, world, 16 * parent);
      else body[4 * k + 3] = 1;
      if (k > 0) keepSign(body, 4 * k, 4 * (k - 1));
      for (let p = 0; p < PLACES; p++)
        for (let a = 0; a < 3; a++)
          points[3 * (PLACES * k + p) + a] =
            world[16 * node + 12 + a]! + (p > 0 ? world[16 * node + 4 * (p - 1) + a]! : 0);
    },
    finish: () => undefined,
  };
}
