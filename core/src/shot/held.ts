import type { Channel } from '../character/index';
import { documentOf, type Part } from '../parts/documents';
import { partsInOrder, type Shot } from './shot';

const holds = (shot: Pick<Shot, 'clip'>, id: string): boolean =>
  shot.clip?.baked?.parts.includes(id as Part['id']) ?? false;

/** Whether a part's motion was baked into the shot's clip, and is played from its keys. */
export const playsKeys = (shot: Pick<Shot, 'clip'>, part: Part): boolean =>
  part.muted && holds(shot, part.id);

/** Parts that are simulated again although the clip holds keys of them: they follow the clip it was baked from. */
export const liveAgain = (shot: Shot): Part[] =>
  partsInOrder(shot).filter((p) => !p.muted && holds(shot, p.id));

/** Whether a path is of a mesh rather than of a joint: vertices leave as weights of morph targets. */
const isMesh = (path: string): boolean => path === 'weights' || path === 'points';

/** Which channels are moved by some parts: all of their joints, and weights of their meshes. */
export function channelsOf(parts: readonly Part[]): (c: Pick<Channel, 'node' | 'path'>) => boolean {
  const claims = parts.flatMap((p) => documentOf(p).claims(p));
  const joints = new Set(claims.flatMap((c) => (isMesh(c.path) ? [] : [c.node])));
  const meshes = new Set(claims.flatMap((c) => (isMesh(c.path) ? [c.node] : [])));
  return ({ node, path }) => (isMesh(path) ? meshes : joints).has(node);
}

/** Whether a part is found on a mesh: cloth, soft parts, what grows on one. */
export const readsMesh = (part: Part): boolean => 'mesh' in part;

/** Whether a part moves the vertices of a mesh one by one. */
export const movesPoints = (part: Part): boolean =>
  documentOf(part)
    .claims(part)
    .some((c) => c.path === 'points');
