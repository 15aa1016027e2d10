import type { Character } from '@oscillum/core/character';
import { bodySettingsFor, makeBodyPart, startingAt, type BodyPart } from '@oscillum/core/body';
import { PartId } from '@oscillum/core/model';
import { ownJoints } from '@oscillum/core/sheets';
import { nodesOf, partsInOrder } from '@oscillum/core/shot';
import { randomId } from '../../../api/ids';
import { change } from '../../edits';
import { freeName } from '../../names';
import type { Thunk } from '../../store';
import { viewSlice } from '../../view';
import { bodySize, linkedWith } from './edits';

/**
 * Makes a soft body of a whole mesh and selects it. Parts that move nothing but this mesh are muted, since the body
 * moves it now; colliders that are this mesh are not touched by it.
 */
export function makeBodyOf(character: Character, node: number): Thunk {
  return (dispatch, getState) => {
    const { shot } = getState().shot;
    const mesh = character.nodes[node];
    if (!shot || !mesh) return;
    const id = PartId.parse(`p${randomId(8)}`);
    const own = ownJoints(character, node);
    const size = bodySize(character, node, shot.character.metresPerUnit);
    const itself = Object.values(shot.colliders).flatMap((c) =>
      c.shape.kind === 'mesh' && c.shape.node === node ? [c.id] : [],
    );
    dispatch(
      change('Make a soft body', (d) => {
        for (const p of Object.values(d.parts)) {
          const nodes = nodesOf(p, true);
          if (nodes.length > 0 && nodes.every((n) => own.has(n) || n === node)) p.muted = true;
        }
        d.parts[id] = makeBodyPart({
          ...{ id, name: freeName(mesh.name, shot.parts), mesh: { node, name: mesh.name } },
          order: partsInOrder(shot).reduce((n, p) => Math.max(n, p.order), -1) + 1,
          settings: bodySettingsFor(size),
          ...(itself.length > 0 ? { collidesWith: { colliders: { allBut: itself } } } : {}),
        });
      }),
    );
    dispatch(viewSlice.actions.partsSelected({ parts: [id] }));
    dispatch(viewSlice.actions.meshChosen({ mesh: node, region: null }));
    dispatch(viewSlice.actions.jointsSelected({ joints: [] }));
  };
}

/** How a soft body is copied. */
interface CopyHow {
  /** Frames by which each starts later than the one before. */
  readonly later: number;
  /** Whether they all push one another. */
  readonly push: boolean;
}

/**
 * Copies a soft body's set-up to other meshes, which start each so many frames later than the one before, and links
 * them: what is set on one holds for all. Its maps stay behind: they belong to its mesh.
 */
export function copyBody(
  character: Character,
  id: string,
  nodes: readonly number[],
  { later, push }: CopyHow,
): Thunk {
  return (dispatch, getState) => {
    const { shot } = getState().shot;
    const part = shot?.parts[id];
    if (!shot || part?.kind !== 'body') return;
    const order = partsInOrder(shot).reduce((n, p) => Math.max(n, p.order), -1);
    const ids = nodes.map(() => PartId.parse(`p${randomId(8)}`));
    dispatch(
      change('Copy its set-up', (d) => {
        const link = part.link ?? `l${randomId(8)}`;
        const last = linkedWith(shot, part).reduce((n, p) => Math.max(n, p.start), part.start);
        const collidesWith = structuredClone(part.collidesWith);
        // What it touches but a few takes the others in as it is.
        if (push && Array.isArray(collidesWith.parts)) {
          const members = [...linkedWith(shot, part).map((p) => p.id), id, ...ids];
          collidesWith.parts = [...new Set([...collidesWith.parts, ...members])];
        }
        Object.assign(d.parts[id] as BodyPart, { link, collidesWith });
        nodes.forEach((node, k) => {
          const { name } = character.nodes[node]!;
          d.parts[ids[k]!] = makeBodyPart({
            ...{ ...structuredClone(part), ...startingAt(part, last + later * (k + 1)), link, collidesWith },
            ...{ id: ids[k]!, name: freeName(name, d.parts), order: order + 1 + k, mesh: { node, name } },
            ...{ maps: {}, anchors: [], lift: 0 },
          });
        });
      }),
    );
    dispatch(viewSlice.actions.partsSelected({ parts: [id, ...ids] }));
  };
}
