import { meshTriangles, morphedVertices, skinVertices, type Character } from '../../character/index';
import type { PartSource } from '../kind';
import { keepSign, writePlacement } from '../rows';
import type { StrandsLayout } from './layout';
import { triangleFrame, turnBetween } from './turns';

/** Where the roots of strands are, frame by frame. */
export interface StrandsSource extends PartSource {
  /** Rows × guides × 7: place, m, and turn from rest. */
  readonly roots: Float64Array;
}

/** Roots whose way shows whether the clip repeats. */
const SHOWN = 8;

export function makeStrandsSource(layout: StrandsLayout, character: Character, rows: number): StrandsSource {
  const { node, carrier } = layout;
  const guides = layout.roots.length;
  const roots = new Float64Array(rows * 7 * guides);
  const body = new Float64Array(rows * 4);
  const carried = new Float64Array(rows * 7);
  const shown = Array.from({ length: Math.min(SHOWN, guides) }, (_, k) => Math.floor((k * guides) / SHOWN));
  const path = new Float64Array(rows * 3 * shown.length);
  const vertices = Int32Array.from(new Set(layout.roots.flatMap((r) => r.corners))).sort();
  const last = vertices.at(-1) ?? -1;
  const mesh = character.meshes[character.nodes[node]!.mesh]!;
  const morphs = mesh.primitives.some((p) => p.targets.length > 0);
  const places = new Float64Array(3 * (morphs ? meshTriangles(character, node).vertices : last + 1));
  const frame = new Float64Array(9);
  return {
    roots,
    nodes: [carrier, ...layout.borne],
    path: shown.length > 0 ? { points: path, body } : null,
    moving: [
      {
        list: roots,
        places: Array.from({ length: guides }, (_, g) => 7 * g),
        turns: Array.from({ length: guides }, (_, g) => 7 * g + 3),
      },
      { list: carried, places: [0], turns: [3] },
      { list: path, places: shown.map((_, k) => 3 * k), turns: [] },
      { list: body, places: [], turns: [0] },
    ],
    write: (row, { world, pose }) => {
      if (morphs) morphedVertices(places, character, node, world, pose.morphs.get(node));
      else if (guides > 0) skinVertices(places, character, node, world, vertices);
      layout.roots.forEach(({ corners, shares, off }, g) => {
        const at = 7 * (row * guides + g);
        const stands = triangleFrame(frame, 0, places, corners);
        // A triangle that has collapsed keeps the turn that it had.
        if (stands) turnBetween(roots, at + 3, layout.frames, 9 * g, frame);
        else if (row > 0) roots.copyWithin(at + 3, at + 3 - 7 * guides, at + 7 - 7 * guides);
        else roots.set([0, 0, 0, 1], at + 3);
        if (row > 0) keepSign(roots, at + 3, at + 3 - 7 * guides);
        for (let a = 0; a < 3; a++)
          roots[at + a] =
            corners.reduce((s, v, k) => s + shares[k]! * places[3 * v + a]!, 0) +
            off[0] * frame[a]! +
            off[1] * frame[3 + a]! +
            off[2] * frame[6 + a]!;
      });
      writePlacement(carried, row, world, carrier);
      for (let a = 0; a < 4; a++) body[4 * row + a] = carried[7 * row + 3 + a]!;
      shown.forEach((g, s) => {
        for (let a = 0; a < 3; a++)
          path[3 * (row * shown.length + s) + a] = roots[7 * (row * guides + g) + a]!;
      });
    },
    finish: () => undefined,
  };
}
