import type { Character } from '@oscillum/core/character';
import type { ClothPart, MapKey } from '@oscillum/core/cloth';
import { heldPoints, lengthOf } from '@oscillum/core/sheets';
import { gradient, toVertices } from '@oscillum/core/maps';
import { makeWeightMap } from '@oscillum/core/model';
import { beginPaint, paintMeshFor, sharesOf } from '../../paint';
import type { Thunk } from '../../store';
import { viewSlice } from '../../view';
import { changeCloths } from './edits';
import { clothMaps } from './words';

const labelOf = clothMaps.label;

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
    dispatch(beginPaint(id, key, reach / 6));
  };
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

export const removeMap =
  (id: string, key: MapKey): Thunk =>
  (dispatch) => {
    dispatch(viewSlice.actions.paintingSet(null));
    dispatch(changeCloths([id], `Remove the map of ${labelOf(key)}`, (p) => void delete p.maps[key]));
  };
