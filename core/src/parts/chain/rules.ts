import {
  mendMinds,
  mindedIds,
  scaledLength,
  scaledPlace,
  scaleSettings,
  type PartDocument,
} from '../../model/part';
import { ChainPart } from './document';
import { CHAIN_SETTINGS } from './settings';

/** How a chain stays whole: it owns the rotations and places of its joints. */
export const chainDocument: PartDocument<ChainPart> = {
  schema: ChainPart,
  settings: CHAIN_SETTINGS,
  driven: [],
  claims: ({ joints }) =>
    joints.flatMap(({ node, name }) => [
      { node, name, path: 'rotation' as const, shared: false },
      { node, name, path: 'translation' as const, shared: false },
    ]),
  names: ({ collidesWith, tipPin, springs }) => ({
    colliders: [
      ...mindedIds(collidesWith.colliders),
      ...(tipPin && 'collider' in tipPin.to ? [tipPin.to.collider] : []),
    ],
    parts: [...mindedIds(collidesWith.parts), ...springs.map((s) => s.to)],
  }),
  mend: (part, there) => {
    const { collidesWith, tipPin } = part;
    collidesWith.colliders = mendMinds(collidesWith.colliders, there.colliders);
    collidesWith.parts = mendMinds(collidesWith.parts, there.parts);
    part.springs = part.springs.filter((s) => there.parts.has(s.to));
    if (tipPin && 'collider' in tipPin.to && !there.colliders.has(tipPin.to.collider)) part.tipPin = null;
  },
  carry: (part, { find, parentOf, same }) => {
    const joints = part.joints.map(find);
    const gone = part.joints.filter((_, i) => !joints[i]).map((j) => j.name || `joint ${j.node}`);
    if (gone.length > 0) return { keeps: false, missed: [`${part.name}: no joint named ${gone.join(', ')}`] };
    const found = joints.map((j) => ({ node: j!.node, name: j!.name }));
    if (found.some((j, i) => i > 0 && parentOf(j.node) !== found[i - 1]!.node))
      return { keeps: false, missed: [`${part.name}: its joints do not hang in a row there`] };
    part.joints = found;
    for (const end of ['first', 'last'] as const) {
      const stays = part.still[end] && find(part.still[end]);
      part.still[end] = stays ? { node: stays.node, name: stays.name } : null;
    }
    if (!same) Object.assign(part, { keys: {}, anchors: [], pulls: [] });
    if (!part.tipPin || !('joint' in part.tipPin.to)) return { keeps: true, missed: [] };
    const { name } = part.tipPin.to.joint;
    const to = find(part.tipPin.to.joint);
    if (to) part.tipPin.to = { joint: { node: to.node, name: to.name } };
    else part.tipPin = null;
    const missed = to ? [] : [`${part.name}: its tip was tied to ${name}, which is not there`];
    return { keeps: true, missed };
  },
  scale: (part, by) => {
    scaleSettings(part, CHAIN_SETTINGS, by);
    for (const pull of part.pulls) {
      pull.path = pull.path.map((t) => scaledPlace(t, by));
      pull.slip = scaledLength(pull.slip, by, 0, 1e5);
    }
    if (!part.tipPin) return;
    part.tipPin.t = scaledPlace(part.tipPin.t, by);
    part.tipPin.breakAt = scaledLength(part.tipPin.breakAt, by, 0, 1e5);
  },
};
