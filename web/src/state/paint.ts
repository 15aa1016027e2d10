import { rigSize, type Character } from '@oscillum/core/character';
import { makePaintMesh, partnersOf, toPoints, toVertices, type PaintMesh } from '@oscillum/core/maps';
import {
  lengthText,
  makeWeightMap,
  putShares,
  readWeightMap,
  type JointRef,
  type WeightMap,
} from '@oscillum/core/model';
import type { Part } from '@oscillum/core/shot';
import { sheetOf } from '@oscillum/core/sheets';
import { change } from './edits';
import { MAPS_OF } from './parts';
import type { Thunk } from './store';
import { viewSlice } from './view';

/** A part of a mesh that maps are painted on. */
export type PaintedPart = Extract<Part, { mesh: JointRef; maps: unknown }>;
type Maps = Partial<Record<string, WeightMap>>;

export const isPainted = (part: Part | undefined): part is PaintedPart =>
  part !== undefined && 'mesh' in part && 'maps' in part;

const meshes = new WeakMap<Character, Map<number, PaintMesh>>();

/** The mesh of a node to paint on, made once for a character; places are file units. */
export function paintMeshFor(character: Character, node: number): PaintMesh {
  const known = meshes.get(character) ?? new Map<number, PaintMesh>();
  meshes.set(character, known);
  const mesh = known.get(node) ?? makePaintMesh(sheetOf(character, node));
  known.set(node, mesh);
  return mesh;
}

/** A vertex is the partner of another when it is no farther from its place than this share of the character. */
const LIKE = 0.002;

/** The points across the middle of the character, which is x = 0 in its file, and how many have none. */
export function symmetryOf(character: Character, node: number): { partners: Int32Array; alone: number } {
  const mesh = paintMeshFor(character, node);
  const partners = partnersOf(mesh, 0, LIKE * rigSize(character));
  return { partners, alone: partners.reduce((n, p) => n + (p < 0 ? 1 : 0), 0) };
}

/** The shares of a map as they stand, a point each; 1 where there is none. */
export function sharesOf(character: Character, part: PaintedPart, key: string): Float64Array {
  const mesh = paintMeshFor(character, part.mesh.node);
  const map = (part.maps as Maps)[key];
  if (!map || map.vertices !== mesh.vertices) return new Float64Array(mesh.points).fill(1);
  const shares = read.get(map) ?? toPoints(mesh, readWeightMap(map));
  read.set(map, shares);
  return shares;
}

/** Maps that were read already: a map is never changed in place. */
const read = new WeakMap<WeightMap, Float64Array>();

/** What a map is called, and what shares of 0 and of 1 stand for at a frame, in a unit. */
export const labelOf = (part: PaintedPart, key: string): string => MAPS_OF[part.kind]!.label(key);
export const spanOf = (part: PaintedPart, key: string, frame: number) =>
  MAPS_OF[part.kind]!.span(part, key, frame);

/** A share as what it stands for, with its unit. */
export function shareText(part: PaintedPart, key: string, share: number, frame: number): string {
  const { low, high, unit } = spanOf(part, key, frame);
  const value = low + share * (high - low);
  if (unit === 'm') return lengthText(value);
  return unit === 'frame' ? `frame ${value.toFixed(1)}` : `${Number(value.toPrecision(2))} ${unit}`;
}

/** Maps of a part beside one. */
export const otherMaps = (part: PaintedPart, key: string): string[] =>
  Object.keys(part.maps).filter((k) => k !== key && (part.maps as Maps)[k]);

/** Keeps what was painted, shares a point, as one edit. */
export const keepShares = (
  character: Character,
  id: string,
  key: string,
  name: string,
  shares: Float64Array,
): Thunk =>
  change(name, (d) => {
    const p = d.parts[id];
    if (!isPainted(p as Part)) return;
    const { maps, mesh: own } = p as { maps: Maps; mesh: JointRef };
    const mesh = paintMeshFor(character, own.node);
    const map = maps[key];
    if (map && map.vertices === mesh.vertices) putShares(map, toVertices(mesh, shares));
    else maps[key] = makeWeightMap(toVertices(mesh, shares));
  });

/** Begins to paint a map that is there with a brush of so many m. */
export const beginPaint =
  (id: string, key: string, radius: number): Thunk =>
  (dispatch) => {
    dispatch(viewSlice.actions.brushSet({ radius: Number(radius.toPrecision(2)) }));
    dispatch(viewSlice.actions.paintingSet({ part: id, key }));
  };
