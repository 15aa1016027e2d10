import type { Character } from '@oscillum/core/character';
import { makeWeightMap, PartId } from '@oscillum/core/model';
import { boxAbout, sheetOf } from '@oscillum/core/sheets';
import { partsInOrder, type Shot } from '@oscillum/core/shot';
import { makeSkinPart, MOST_BELOW, type Below, type SkinPart } from '@oscillum/core/skin';
import { randomId } from '../../../api/ids';
import { change, type Recipe } from '../../edits';
import { freeName } from '../../names';
import { beginPaint, paintMeshFor } from '../../paint';
import type { Thunk } from '../../store';
import { viewSlice } from '../../view';

/** Reach of a new skin, as a share of the longest side of the largest body below it. */
const REACH = 0.4;

/** Changes some skins as one edit. */
export function changeSkins(ids: readonly string[], name: string, recipe: (p: SkinPart) => void): Thunk {
  const each: Recipe = (d) => {
    for (const id of ids) {
      const part = d.parts[id];
      if (part?.kind === 'skin') recipe(part);
    }
  };
  return change(name, each);
}

/** The soft bodies of a shot that a mesh may lie over: all but those of the mesh itself. */
export const bodiesBelow = (shot: Pick<Shot, 'parts'>, node: number): Below[] =>
  partsInOrder(shot).flatMap((p) =>
    p.kind === 'body' && p.mesh.node !== node ? [{ part: p.id, mesh: p.mesh }] : [],
  );

/** Lays a mesh over the soft bodies of the shot that move, and selects it. */
export function makeSkinOf(character: Character, node: number): Thunk {
  return (dispatch, getState) => {
    const { shot } = getState().shot;
    const mesh = character.nodes[node];
    if (!shot || !mesh) return;
    const all = bodiesBelow(shot, node);
    const live = all.filter((b) => !shot.parts[b.part]!.muted);
    const below = (live.length > 0 ? live : all).slice(0, MOST_BELOW);
    const longest = Math.max(
      ...below.map((b) => {
        const { lo, hi } = boxAbout(sheetOf(character, b.mesh.node).rest);
        return Math.max(...hi.map((x, a) => x - lo[a]!)) * shot.character.metresPerUnit;
      }),
    );
    const id = PartId.parse(`p${randomId(8)}`);
    dispatch(
      change('Make a skin', (d) => {
        d.parts[id] = makeSkinPart({
          ...{ id, name: freeName(mesh.name, shot.parts), mesh: { node, name: mesh.name }, below },
          order: partsInOrder(shot).reduce((n, p) => Math.max(n, p.order), -1) + 1,
          reach: Number((REACH * longest).toPrecision(2)),
        });
      }),
    );
    dispatch(viewSlice.actions.partsSelected({ parts: [id] }));
    dispatch(viewSlice.actions.meshChosen({ mesh: node, region: null }));
    dispatch(viewSlice.actions.jointsSelected({ joints: [] }));
  };
}

/** Begins to paint how much of a skin goes along: all of it at first. */
export function paintSkin(character: Character, id: string): Thunk {
  return (dispatch, getState) => {
    const part = getState().shot.shot?.parts[id];
    if (part?.kind !== 'skin') return;
    const { vertices } = paintMeshFor(character, part.mesh.node);
    if (!part.maps.share)
      dispatch(
        changeSkins([id], 'Paint its share', (p) => {
          p.maps.share = makeWeightMap(new Float64Array(vertices).fill(1));
        }),
      );
    dispatch(beginPaint(id, 'share', part.reach));
  };
}

export const removeShare =
  (id: string): Thunk =>
  (dispatch) => {
    dispatch(viewSlice.actions.paintingSet(null));
    dispatch(changeSkins([id], 'Remove what is painted', (p) => void delete p.maps.share));
  };
