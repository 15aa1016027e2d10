import type { SheetBody } from '../../kernel/touch/fields';
import type { Surface } from '../surface';
import { plantTree, type Tree } from '../tree';
import type { Make } from './setup';

/** The triangle behind each side (from a corner to the next); the triangle itself where there is none. */
function besideOf(corners: Uint32Array, from: Int32Array, about: Int32Array): Int32Array {
  return Int32Array.from(corners, (a, k) => {
    const t = Math.floor(k / 3);
    const b = corners[3 * t + ((k + 1) % 3)]!;
    for (let q = from[a]!; q < from[a + 1]!; q++) {
      const c = 3 * about[q]!;
      if (c !== 3 * t && (corners[c] === b || corners[c + 1] === b || corners[c + 2] === b)) return about[q]!;
    }
    return t;
  });
}

/** Triangles about each vertex: where its list begins, and all lists. */
function aboutOf(corners: Uint32Array, vertices: number): { from: Int32Array; about: Int32Array } {
  const from = new Int32Array(vertices + 1);
  for (const v of corners) from[v + 1]!++;
  for (let v = 0; v < vertices; v++) from[v + 1]! += from[v]!;
  const about = new Int32Array(corners.length);
  const filled = Int32Array.from(from);
  corners.forEach((v, k) => (about[filled[v]!++] = Math.floor(k / 3)));
  return { from, about };
}

/** Numbers that the fields of a mesh take of an arena at most. */
export const surfaceNumbers = ({ vertices, corners }: Surface): number =>
  Math.ceil(8 * vertices.length + 9 * corners.length + 600);

/** What is known of a surface once and for all: it is kept with it, for every run. */
interface Known {
  readonly from: Int32Array;
  readonly about: Int32Array;
  readonly beside: Int32Array;
  readonly tree: Tree;
}
const known = new WeakMap<Surface, Known>();

function knownOf(surface: Surface): Known {
  const found = known.get(surface);
  if (found) return found;
  const { corners, vertices } = surface;
  const { from, about } = aboutOf(corners, vertices.length / 3);
  const made = { from, about, beside: besideOf(corners, from, about), tree: plantTree(vertices, corners) };
  known.set(surface, made);
  return made;
}

/** What a mesh that changes its shape has of fields: topology, tree, and room for where its vertices are. */
export function surfaceFields(surface: Surface, make: Make): Partial<SheetBody> {
  const { corners } = surface;
  const size = surface.vertices.length;
  const { from, about, beside, tree } = knownOf(surface);
  const [earlier, later, first, last, between, other, normals] = Array.from({ length: 7 }, () =>
    make.numbers(size),
  );
  const ints = (from: ArrayLike<number>) => {
    const out = make.ints(from.length);
    out.set(from);
    return out;
  };
  return {
    ...{ triangles: corners.length / 3, vertices: size / 3, nodes: tree.firsts.length },
    ...{ earlier, later, first, last, between, other, normals, start: first, end: last },
    ...{ corners: ints(corners), beside: ints(beside) },
    ...{ about: ints(about), aboutFrom: ints(from) },
    ...{ order: ints(tree.order), firsts: ints(tree.firsts), counts: ints(tree.counts) },
    ...{
      box: make.numbers(6 * tree.firsts.length),
      stack: make.ints(128),
      away: make.numbers(128),
      region: make.numbers(6),
      matrix: make.numbers(12),
    },
  };
}
