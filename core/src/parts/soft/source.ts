import { skinVertices, type Character } from '../../character/index';
import type { PartSource } from '../kind';
import { writePlacement } from '../rows';
import type { RegionLayout } from './layout';

/** Where the skin of a region is, frame by frame. */
export interface RegionSource extends PartSource {
  /** Rows × points × 3, m. */
  readonly skin: Float64Array;
  /** Place and turn of what carries it, 7 numbers a row. */
  readonly carried: Float64Array;
}

/** Points whose way shows whether the clip repeats. */
const SHOWN = 8;

export function makeRegionSource(layout: RegionLayout, character: Character, rows: number): RegionSource {
  const { points, pieces, carrier, borne } = layout;
  const skin = new Float64Array(rows * 3 * points);
  const carried = new Float64Array(rows * 7);
  const body = new Float64Array(rows * 4);
  const shown = Array.from({ length: Math.min(SHOWN, points) }, (_, k) =>
    Math.floor((k * (points - 1)) / Math.max(1, SHOWN - 1)),
  );
  const path = new Float64Array(rows * 3 * shown.length);
  const places = pieces.map((p) => new Float64Array(3 * p.vertices));
  const vertices = pieces.map((p) => p.shown.filter((_, i) => i % 2 === 1));
  return {
    ...{ skin, carried },
    nodes: borne!,
    path: { points: path, body },
    moving: [
      { list: skin, places: Array.from({ length: points }, (_, p) => 3 * p), turns: [] },
      { list: carried, places: [0], turns: [3] },
      { list: path, places: shown.map((_, k) => 3 * k), turns: [] },
      { list: body, places: [], turns: [0] },
    ],
    write: (k, { world }) => {
      pieces.forEach(({ node, shown: own }, m) => {
        if (own.length === 0) return;
        skinVertices(places[m]!, character, node, world, vertices[m]);
        for (let i = 0; i < own.length; i += 2) {
          const to = 3 * (k * points + own[i]!);
          const from = 3 * own[i + 1]!;
          for (let a = 0; a < 3; a++) skin[to + a] = places[m]![from + a]!;
        }
      });
      writePlacement(carried, k, world, carrier);
      for (let a = 0; a < 4; a++) body[4 * k + a] = carried[7 * k + 3 + a]!;
      shown.forEach((p, s) => {
        for (let a = 0; a < 3; a++) path[3 * (k * shown.length + s) + a] = skin[3 * (k * points + p) + a]!;
      });
    },
    finish: () => undefined,
  };
}
