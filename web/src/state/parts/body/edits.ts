import { boxAbout, sheetOf } from '@oscillum/core/sheets';
import { restWorld, type Character } from '@oscillum/core/character';
import {
  applyBodyPreset,
  startingAt,
  type BodyMapKey,
  type BODY_PRESETS,
  type BodyPart,
} from '@oscillum/core/body';
import { partsInOrder, type Shot } from '@oscillum/core/shot';
import { makeWeightMap, type JointRef } from '@oscillum/core/model';
import { change } from '../../edits';
import { beginPaint, paintMeshFor } from '../../paint';
import type { Thunk } from '../../store';
import { viewSlice } from '../../view';

/** Changes some soft bodies as one edit. */
export const changeBodies = (ids: readonly string[], name: string, recipe: (p: BodyPart) => void): Thunk =>
  change(name, (d) => {
    for (const id of ids) {
      const part = d.parts[id];
      if (part?.kind === 'body') recipe(part);
    }
  });

export const putBodyPreset = (ids: readonly string[], preset: (typeof BODY_PRESETS)[number]): Thunk =>
  changeBodies(ids, `Preset ${preset.name}`, (p) => applyBodyPreset(p, preset));

/** Hangs a body on a joint by a string that is as long as it is far from it at rest. */
export function hangBody(character: Character, id: string, joint: JointRef): Thunk {
  return (dispatch, getState) => {
    const shot = getState().shot.shot;
    const part = shot?.parts[id];
    if (!shot || part?.kind !== 'body') return;
    const { rest } = sheetOf(character, part.mesh.node);
    const at = restWorld(character).subarray(16 * joint.node + 12, 16 * joint.node + 15);
    let nearest = Infinity;
    for (let o = 0; o < rest.length; o += 3)
      nearest = Math.min(
        nearest,
        Math.hypot(rest[o]! - at[0]!, rest[o + 1]! - at[1]!, rest[o + 2]! - at[2]!),
      );
    const length = Math.max(1e-3, Number((nearest * shot.character.metresPerUnit).toPrecision(3)));
    dispatch(changeBodies([id], `Hang it on ${joint.name}`, (p) => void p.strings.push({ joint, length })));
  };
}

/** Moves when some bodies start, with their keys. */
export const startBodies = (ids: readonly string[], start: number): Thunk =>
  changeBodies(ids, 'Set when it starts', (p) => void Object.assign(p, startingAt(p, start)));

/** The other bodies that a body is linked with, in their order. */
export const linkedWith = (shot: Pick<Shot, 'parts'>, part: BodyPart): BodyPart[] =>
  partsInOrder(shot).flatMap((p) =>
    p.kind === 'body' && part.link !== null && p.link === part.link && p.id !== part.id ? [p] : [],
  );

/** The longest side of the box about a mesh at rest, m. */
export function bodySize(character: Character, node: number, metresPerUnit: number): number {
  const { lo, hi } = boxAbout(sheetOf(character, node).rest);
  return Math.max(...hi.map((x, a) => x - lo[a]!)) * metresPerUnit;
}

/** Begins to paint a map of a soft body: full everywhere at first. */
export function paintBody(character: Character, id: string, key: BodyMapKey): Thunk {
  return (dispatch, getState) => {
    const shot = getState().shot.shot;
    const part = shot?.parts[id];
    if (!shot || part?.kind !== 'body') return;
    const { vertices } = paintMeshFor(character, part.mesh.node);
    if (!part.maps[key])
      dispatch(
        changeBodies([id], `Paint ${key === 'hold' ? 'hold' : 'firmness'}`, (p) => {
          p.maps[key] = makeWeightMap(new Float64Array(vertices).fill(1));
        }),
      );
    const size = bodySize(character, part.mesh.node, shot.character.metresPerUnit);
    dispatch(beginPaint(id, key, size * 0.15));
  };
}

export const removeBodyMap =
  (id: string, key: BodyMapKey): Thunk =>
  (dispatch) => {
    dispatch(viewSlice.actions.paintingSet(null));
    dispatch(changeBodies([id], 'Remove what is painted', (p) => void delete p.maps[key]));
  };
