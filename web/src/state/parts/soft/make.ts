import { randomId } from '../../../api/ids';
import type { Character } from '@oscillum/core/character';
import { toPoints } from '@oscillum/core/maps';
import { PartId, type MeshRegion } from '@oscillum/core/model';
import { partsInOrder } from '@oscillum/core/shot';
import { makeRegionPart, regionSettingsFor } from '@oscillum/core/soft';
import { regionsOf, sheetOf, verticesIn } from '@oscillum/core/sheets';
import { change } from '../../edits';
import { freeName } from '../../names';
import type { Thunk } from '../../store';
import { viewSlice } from '../../view';
import { sizeOf } from './edits';

/** Inner and outer reach of a new region's ball, as shares of half its size. */
const INNER = 0.2;
const OUTER = 0.8;

/**
 * Makes a soft region of a mesh, or of a part of one, and selects it: a ball round it, soft in the middle and glued at
 * its edge.
 */
export function makeRegionOf(character: Character, node: number, region: MeshRegion | null = null): Thunk {
  return (dispatch, getState) => {
    const { shot } = getState().shot;
    const mesh = character.nodes[node];
    if (!shot || !mesh) return;
    const metres = shot.character.metresPerUnit;
    const sheet = sheetOf(character, node);
    const within = region
      ? toPoints(sheet, Float64Array.from(verticesIn(character, node, region)))
      : new Float64Array(sheet.points).fill(1);
    const found =
      region && regionsOf(character, node).find((r) => JSON.stringify(r.region) === JSON.stringify(region));
    const size = sizeOf(sheet.rest, within) * metres;
    const middle = middleOf(sheet.rest, within).map((x) => Number((x * metres).toFixed(3)));
    const rounded = (x: number) => Number(x.toPrecision(2));
    const id = PartId.parse(`p${randomId(8)}`);
    dispatch(
      change('Make soft', (d) => {
        d.parts[id] = makeRegionPart({
          id,
          name: freeName(found ? found.name.replace(/^piece \d+, /, '') : mesh.name, shot.parts),
          order: partsInOrder(shot).reduce((n, p) => Math.max(n, p.order), -1) + 1,
          mesh: { node, name: mesh.name },
          where: {
            by: 'ball',
            at: middle as [number, number, number],
            inner: rounded((INNER * size) / 2),
            outer: rounded((OUTER * size) / 2),
          },
          settings: regionSettingsFor(size),
        });
      }),
    );
    dispatch(viewSlice.actions.partsSelected({ parts: [id] }));
    dispatch(viewSlice.actions.meshChosen({ mesh: node, region: null }));
    dispatch(viewSlice.actions.jointsSelected({ joints: [] }));
    dispatch(viewSlice.actions.tinted('softness'));
  };
}

/** The middle of the box round the points that are within. */
function middleOf(rest: Float64Array, within: Float64Array): number[] {
  return [0, 1, 2].map((a) => {
    let [lo, hi] = [Infinity, -Infinity];
    within.forEach((w, p) => {
      if (w <= 0) return;
      lo = Math.min(lo, rest[3 * p + a]!);
      hi = Math.max(hi, rest[3 * p + a]!);
    });
    return lo <= hi ? (lo + hi) / 2 : 0;
  });
}
