import type { Character } from '@oscillum/core/character';
import { makeWeightMap, PartId, type MeshRegion } from '@oscillum/core/model';
import { partsInOrder } from '@oscillum/core/shot';
import { sheetOf, verticesIn } from '@oscillum/core/sheets';
import { Growth, makeGroom, makeStrandsPart, strandSettingsFor } from '@oscillum/core/strands';
import { randomId } from '../../../api/ids';
import { change } from '../../edits';
import { freeName } from '../../names';
import type { Thunk } from '../../store';
import { viewSlice } from '../../view';
import { comb, grow } from './edits';

/** How long new hair is, as a share of the square root of the area it grows on. */
const LONG = 0.45;

/** Strands of a tuft. */
const TUFT = 80;

/** Grows hair on a mesh, or on a part of one, and selects it; or begins without any, to be drawn. */
export function makeHairOn(
  character: Character,
  node: number,
  region: MeshRegion | null = null,
  drawn = false,
): Thunk {
  return (dispatch, getState) => {
    const { shot } = getState().shot;
    const mesh = character.nodes[node];
    if (!shot || !mesh) return;
    const sheet = sheetOf(character, node);
    const within = region ? Float64Array.from(verticesIn(character, node, region)) : null;
    const grows = new Uint8Array(sheet.points);
    sheet.pointOf.forEach((p, v) => (grows[p] = !within || within[v]! > 0 ? 1 : grows[p]!));
    const area = sheet.area.reduce((sum, a, p) => sum + a * grows[p]!, 0);
    const length = Number((LONG * Math.sqrt(area) * shot.character.metresPerUnit).toPrecision(2)) || 0.1;
    const growth = Growth.parse({ length: Math.min(1000, Math.max(1e-3, length)) });
    const maps = within ? { grow: makeWeightMap(within) } : {};
    const ref = { node, name: mesh.name };
    const id = PartId.parse(`p${randomId(8)}`);
    // What it grows on it does not touch: its roots stand on it.
    const itself = Object.values(shot.colliders).flatMap((c) =>
      c.shape.kind === 'mesh' && c.shape.node === node ? [c.id] : [],
    );
    const part = makeStrandsPart({
      ...{
        id,
        name: freeName(`${mesh.name.replace(/ mesh$/, '')} hair`, shot.parts),
        mesh: ref,
        growth: drawn ? null : growth,
        maps,
      },
      order: partsInOrder(shot).reduce((n, p) => Math.max(n, p.order), -1) + 1,
      groom: drawn ? makeGroom([]) : grow(character, shot, { mesh: ref, maps }, growth),
      settings: strandSettingsFor(length),
      look: { width: Number((0.02 * length).toPrecision(2)), ...(drawn ? { strands: TUFT } : {}) },
      ...(itself.length > 0 ? { collidesWith: { colliders: { allBut: itself } } } : {}),
    });
    dispatch(
      change(drawn ? 'Begin a tuft' : 'Grow hair', (d) => {
        d.parts[id] = part;
      }),
    );
    dispatch(viewSlice.actions.partsSelected({ parts: [id] }));
    dispatch(viewSlice.actions.meshChosen({ mesh: node, region: null }));
    dispatch(viewSlice.actions.jointsSelected({ joints: [] }));
    if (drawn) dispatch(comb(id, 'draw'));
  };
}
