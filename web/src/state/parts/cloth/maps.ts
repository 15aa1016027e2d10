import { rigSize, type Character } from '@oscillum/core/character';
import { CLOTH_SETTINGS, type ClothPart, type MapKey } from '@oscillum/core/cloth';
import { heldPoints, lengthOf, sheetOf } from '@oscillum/core/sheets';
import {
  gradient,
  makePaintMesh,
  partnersOf,
  toPoints,
  toVertices,
  type PaintMesh,
} from '@oscillum/core/maps';
import { lengthText, makeWeightMap, putShares, readWeightMap, type WeightMap } from '@oscillum/core/model';
import { settingAt } from '../../edits';
import type { Thunk } from '../../store';
import { viewSlice } from '../../view';
import { changeCloths } from './edits';

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
export function sharesOf(character: Character, part: ClothPart, key: MapKey): Float64Array {
  const mesh = paintMeshFor(character, part.mesh.node);
  const map = part.maps[key];
  if (!map || map.vertices !== mesh.vertices) return new Float64Array(mesh.points).fill(1);
  const shares = read.get(map) ?? toPoints(mesh, readWeightMap(map));
  read.set(map, shares);
  return shares;
}

/** Maps that were read already: a map is never changed in place. */
const read = new WeakMap<WeightMap, Float64Array>();

/**
 * Begins to paint a map. A leash begins with what holds the cloth at 0 and the rest free: from then on the map says
 * what is held.
 */
export function paint(character: Character, id: string, key: MapKey): Thunk {
  return (dispatch, getState) => {
    const shot = getState().shot.shot;
    const part = shot?.parts[id];
    if (!shot || part?.kind !== 'cloth') return;
    const mesh = paintMeshFor(character, part.mesh.node);
    const scale = shot.character.metresPerUnit;
    const held = heldPoints(character, part.mesh.node, part.holds, mesh.sheet);
    const reach = lengthOf(mesh.sheet, held) * scale;
    if (!part.maps[key])
      dispatch(
        changeCloths([id], `Paint ${labelOf(key)}`, (p) => {
          const shares = new Float64Array(mesh.points).fill(1);
          if (key === 'leash') {
            held.forEach((h, k) => h && (shares[k] = 0));
            p.holds = [];
            if (p.settings.leash > 2 * reach) p.settings.leash = Number(reach.toPrecision(2));
          }
          // An inner leash that is longer than anything leaves nothing to paint.
          if (key === 'inner' && p.settings.inner > 2 * reach)
            p.settings.inner = Number((reach / 10).toPrecision(2));
          p.maps[key] = makeWeightMap(toVertices(mesh, shares));
        }),
      );
    dispatch(viewSlice.actions.brushSet({ radius: Number((reach / 6).toPrecision(2)) }));
    dispatch(viewSlice.actions.paintingSet({ part: id, key }));
  };
}

export const labelOf = (key: MapKey): string =>
  key === 'release' ? 'release' : CLOTH_SETTINGS[key].label.toLowerCase();

/** What shares of 0 and of 1 stand for at a frame, in a unit. */
export function spanOf(
  part: ClothPart,
  key: MapKey,
  frame: number,
): { readonly low: number; readonly high: number; readonly unit: string } {
  if (key !== 'release') return { low: 0, high: settingAt(part, key, frame), unit: CLOTH_SETTINGS[key].unit };
  return { low: part.release?.first ?? 0, high: part.release?.last ?? 0, unit: 'frame' };
}

/** A share as what it stands for, with its unit. */
export function shareText(part: ClothPart, key: MapKey, share: number, frame: number): string {
  const { low, high, unit } = spanOf(part, key, frame);
  const value = low + share * (high - low);
  if (unit === 'm') return lengthText(value);
  return unit === 'frame' ? `frame ${value.toFixed(1)}` : `${Number(value.toPrecision(2))} ${unit}`;
}

/** Lets the cloth go from the top down over the middle third of the range, or holds it for good. */
export const setRelease =
  (character: Character, id: string, on: boolean): Thunk =>
  (dispatch, getState) => {
    const shot = getState().shot.shot;
    const part = shot?.parts[id];
    if (!shot || part?.kind !== 'cloth') return;
    if (!on && getState().view.painting?.key === 'release') dispatch(viewSlice.actions.paintingSet(null));
    dispatch(
      changeCloths([id], on ? 'Let it go in time' : 'Hold it for good', (p) => {
        const { first, last } = shot.range;
        p.release = on
          ? {
              first: Math.round(first + (last - first) / 3),
              last: Math.round(first + (2 * (last - first)) / 3),
            }
          : null;
        if (!on) delete p.maps.release;
        else p.maps.release = makeWeightMap(downward(character, p));
      }),
    );
  };

/** Shares from 0 at the highest vertex that is held to 1 at the lowest. */
function downward(character: Character, part: ClothPart): Float64Array {
  const mesh = paintMeshFor(character, part.mesh.node);
  const shares = part.maps.leash ? sharesOf(character, part, 'leash') : null;
  const held = heldPoints(character, part.mesh.node, part.holds, mesh.sheet).map((h, p) =>
    h || shares?.[p] === 0 ? 1 : 0,
  );
  const height = Float64Array.from(held, (_, p) => mesh.sheet.rest[3 * p + 1]!);
  const of = (pick: (...n: number[]) => number, start: number) =>
    height.reduce((m, y, p) => (held[p] ? pick(m, y) : m), start);
  return toVertices(mesh, gradient(height, of(Math.max, -Infinity), of(Math.min, Infinity)));
}

/** Keeps what was painted, shares a point, as one edit. */
export const keepShares = (
  character: Character,
  id: string,
  key: MapKey,
  name: string,
  shares: Float64Array,
): Thunk =>
  changeCloths([id], name, (p) => {
    const mesh = paintMeshFor(character, p.mesh.node);
    const map = p.maps[key];
    if (map && map.vertices === mesh.vertices) putShares(map, toVertices(mesh, shares));
    else p.maps[key] = makeWeightMap(toVertices(mesh, shares));
  });

export const removeMap =
  (id: string, key: MapKey): Thunk =>
  (dispatch) => {
    dispatch(viewSlice.actions.paintingSet(null));
    dispatch(changeCloths([id], `Remove the map of ${labelOf(key)}`, (p) => void delete p.maps[key]));
  };
