import { mendMinds, scaledLength, scaledPlace, scaleSettings, type PartDocument } from '../../model/part';
import { ChainPart } from './document';
import { CHAIN_SETTINGS } from './settings';

/** How a chain stays whole: it owns the rotations and places of its joints. */
export const chainDocument: PartDocument<ChainPart> = {
  schema: ChainPart,
  settings: CHAIN_SETTINGS,
  claims: ({ joints }) =>
    joints.flatMap(({ node, name }) => [
      { node, name, path: 'rotation' as const, shared: false },
      { node, name, path: 'translation' as const, shared: false },
    ]),
  names: ({ touches, tie }) => ({
    colliders: [
      ...(touches.colliders === 'all' ? [] : touches.colliders),
      ...(tie && 'collider' in tie.to ? [tie.to.collider] : []),
    ],
    parts: touches.parts === 'all' ? [] : touches.parts,
  }),
  mend: (part, there) => {
    const { touches, tie } = part;
    touches.colliders = mendMinds(touches.colliders, there.colliders);
    touches.parts = mendMinds(touches.parts, there.parts);
    if (tie && 'collider' in tie.to && !there.colliders.has(tie.to.collider)) part.tie = null;
  },
  scale: (part, by) => {
    scaleSettings(part, CHAIN_SETTINGS, by);
    for (const pull of part.pulls) {
      pull.path = pull.path.map((t) => scaledPlace(t, by));
      pull.slip = scaledLength(pull.slip, by, 0, 1e5);
    }
    if (!part.tie) return;
    part.tie.t = scaledPlace(part.tie.t, by);
    part.tie.breakAt = scaledLength(part.tie.breakAt, by, 0, 1e5);
  },
};
