import type { Character } from '@oscillum/core/character';
import type { Part, Shot } from '@oscillum/core/shot';
import type { Tint } from '../../state/view';
import type { Picture } from '../../sim/picture';
import type { Posed } from '../pose';

/** A figure as it stands in a shot on a frame. */
export interface Standing {
  readonly character: Character;
  readonly shot: Shot;
  readonly picture: Picture;
  readonly frame: number;
  readonly posed: Posed;
}

/** The same as a camera sees it: the unit way toward it. */
export interface Seen extends Standing {
  readonly toward: readonly number[];
}

/** How a part of a kind is drawn in ink. */
export interface StagePart<P extends Part = Part> {
  /** Nodes it is drawn along, root to tip: its bones, its ghost, its stretch. Empty for what is no row. */
  line(part: P): readonly number[];
  /** Nodes that get a dot beside those. */
  dots(part: P): readonly number[];
  /** The mesh node that is tinted, and how dark each of its vertices is, 0 to 1; null where nothing is tinted. */
  tint?(part: P, how: Tint, at: Standing): { readonly node: number; readonly shares: Float64Array } | null;
  /** A surface round its skin that it never passes: places, m, and triangles; null where there is none. */
  shell?(part: P, at: Standing): { readonly places: Float64Array; readonly triangles: Uint32Array } | null;
  /** Where it is held, as far as that faces the camera: places, m. */
  held?(part: P, at: Seen): Float64Array;
  /** Edges of the cells it is filled with: from a place to another, m, 6 numbers an edge. */
  cells?(part: P, at: Standing): Float64Array;
  /** Strings that it hangs on: from a place to another, m, 6 numbers a string. */
  strings?(part: P, at: Standing): Float64Array;
  /** The guides of its strands: from a place to another, m, 6 numbers a link. */
  guides?(part: P, at: Standing): Float64Array;
  /** How thick the lines of a mesh are drawn that it moves, m: the node of the mesh, and their width. */
  cord?(part: P, frame: number): { readonly node: number; readonly width: number };
  /** What the air does to it where it faces the camera: from a place to another, m, 6 numbers a stroke. */
  air?(part: P, at: Seen): Float64Array;
}
