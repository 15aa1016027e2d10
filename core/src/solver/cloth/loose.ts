import type { Sheet } from '../../sheets/index';
import type { SheetMatter } from './setup';

/** A sheet is solved without what is held when that is more than this share of its edges. */
const WORTH = 0.4;

/**
 * A sheet without the edges and triangles that nothing free is near, where they are many: as where one piece of a
 * character's mesh is cloth. Points keep their numbers. Triangles stay about every point that an edge leads to, so that
 * its normal is what it was.
 */
export function looseSheet(
  sheet: Sheet,
  matter: SheetMatter,
  held: Uint8Array,
): { sheet: Sheet; matter: SheetMatter } {
  const { edges, triangles, length, share, faces, points } = sheet;
  // What is free, and what an edge joins to it.
  const near = new Uint8Array(points);
  for (let e = 0; e < edges.length; e += 2)
    if (!held[edges[e]!] || !held[edges[e + 1]!]) near[edges[e]!] = near[edges[e + 1]!] = 1;
  const kept = Array.from(length, (_, e) => e).filter((e) => near[edges[2 * e]!] && near[edges[2 * e + 1]!]);
  if (length.length - kept.length < WORTH * length.length) return { sheet, matter };
  const around = Array.from({ length: triangles.length / 3 }, (_, t) => 3 * t).filter((t) =>
    [0, 1, 2].some((k) => near[triangles[t + k]!]),
  );
  return {
    sheet: {
      ...sheet,
      edges: Int32Array.from(kept.flatMap((e) => [edges[2 * e]!, edges[2 * e + 1]!])),
      length: Float64Array.from(kept, (e) => length[e]!),
      share: Float64Array.from(kept, (e) => share[e]!),
      faces: Uint8Array.from(kept, (e) => faces[e]!),
      triangles: Int32Array.from(
        around.flatMap((t) => [triangles[t]!, triangles[t + 1]!, triangles[t + 2]!]),
      ),
    },
    matter: {
      ...matter,
      ...(matter.diagonal && { diagonal: Float64Array.from(kept, (e) => matter.diagonal![e]!) }),
    },
  };
}
