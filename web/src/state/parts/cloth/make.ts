import { randomId } from '../../../api/ids';
import { rigSize, type Character } from '@oscillum/core/character';
import { clothSettingsFor, makeClothPart, stringSettingsFor } from '@oscillum/core/cloth';
import { toPoints, toVertices } from '@oscillum/core/maps';
import {
  bodyUnder,
  hasLinesAlone,
  heldPoints,
  lengthOf,
  likelyHolds,
  ownJoints,
  regionsOf,
  sheetOf,
  verticesIn,
} from '@oscillum/core/sheets';
import {
  Collider,
  ColliderId,
  makeWeightMap,
  PartId,
  withoutMinded,
  type MeshRegion,
} from '@oscillum/core/model';
import { nodesOf, partsInOrder } from '@oscillum/core/shot';
import { change } from '../../edits';
import { freeName } from '../../names';
import type { Thunk } from '../../store';
import { paintMeshFor } from '../../paint';
import { viewSlice } from '../../view';

/** How closely a collider that is a mesh of the character follows it, as a share of the character's size. */
const SIMPLIFIED = 0.0025;

const same = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);

/**
 * Makes a cloth of a mesh, or of a part of one, and selects it. It touches the mesh it lies on, which becomes a
 * collider; parts that move nothing but this mesh are muted, since the cloth moves it now.
 */
export function makeClothOf(character: Character, node: number, region: MeshRegion | null = null): Thunk {
  return (dispatch, getState) => {
    const { shot } = getState().shot;
    const mesh = character.nodes[node];
    if (!shot || !mesh) return;
    const id = PartId.parse(`p${randomId(8)}`);
    const last = partsInOrder(shot).reduce((n, p) => Math.max(n, p.order), -1);
    const sheet = sheetOf(character, node);
    const within = region && toPoints(sheet, Float64Array.from(verticesIn(character, node, region)));
    const found = region && regionsOf(character, node).find((r) => same(r.region, region));
    const name = freeName(found ? found.name.replace(/^piece \d+, /, '') : mesh.name, shot.parts);
    const own = region ? new Set<number>() : ownJoints(character, node);
    const holds = likelyHolds(character, node, within);
    const held = heldPoints(character, node, holds, sheet);
    // The rest of its mesh stays on the skin.
    within?.forEach((w, p) => w < 1 && (held[p] = 1));
    const reach = lengthOf(sheet, held);
    const metres = shot.character.metresPerUnit;
    const string = hasLinesAlone(character, node);
    const mean = sheet.length.reduce((sum, l) => sum + l, 0) / sheet.length.length;
    // A string lies on the colliders there are: what it runs over is seldom the mesh that is nearest.
    const body = region ? { node, name: mesh.name } : string ? null : bodyUnder(character, node);
    const part = region && { region, only: false };
    const there = Object.values(shot.colliders).find(
      ({ shape }) => shape.kind === 'mesh' && shape.node === body?.node && same(shape.part, part),
    );
    dispatch(
      change(string ? 'Make string' : 'Make cloth', (d) => {
        for (const p of Object.values(d.parts)) {
          const nodes = nodesOf(p, true);
          if (nodes.length > 0 && nodes.every((n) => own.has(n))) p.muted = true;
        }
        const others = Object.values(d.parts);
        let touches = there?.id;
        if (body && !there) {
          touches = ColliderId.parse(`c${randomId(8)}`);
          d.colliders[touches] = Collider.parse({
            id: touches,
            name: freeName(body.name, shot.colliders),
            order: Object.keys(shot.colliders).length,
            shape: {
              kind: 'mesh',
              node: body.node,
              name: body.name,
              simplified: SIMPLIFIED * rigSize(character) * metres,
              part,
            },
          });
        }
        // What moved before goes on as it did.
        if (touches && !there)
          for (const p of others)
            if ('collidesWith' in p)
              p.collidesWith.colliders = withoutMinded(p.collidesWith.colliders, touches);
        d.parts[id] = makeClothPart({
          ...{ id, name, order: last + 1, mesh: { node, name: mesh.name } },
          ...{
            holds,
            settings: string ? stringSettingsFor(mean * metres) : clothSettingsFor(reach * metres),
          },
          ...(within
            ? { maps: { leash: makeWeightMap(toVertices(paintMeshFor(character, node), within)) } }
            : {}),
          // The mesh stands for the body: what was fitted to it beside lies in its way.
          ...(touches ? { collidesWith: { colliders: [touches] } } : {}),
        });
      }),
    );
    dispatch(viewSlice.actions.partsSelected({ parts: [id] }));
    dispatch(viewSlice.actions.meshChosen({ mesh: node, region: null }));
    dispatch(viewSlice.actions.jointsSelected({ joints: [] }));
  };
}
