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
  names: ({ touches, tie, springs }) => ({
    colliders: [
      ...(touches.colliders === 'all' ? [] : touches.colliders),
      ...(tie && 'collider' in tie.to ? [tie.to.collider] : []),
    ],
    parts: [...(touches.parts === 'all' ? [] : touches.parts), ...springs.map((s) => s.to)],
  }),
  mend: (part, there) => {
    const { touches, tie } = part;
    touches.colliders = mendMinds(touches.colliders, there.colliders);
    touches.parts = mendMinds(touches.parts, there.parts);
    part.springs = part.springs.filter((s) => there.parts.has(s.to));
    if (tie && 'collider' in tie.to && !there.colliders.has(tie.to.collider)) part.tie = null;
  },
  carry: (part, { find, parentOf, same }) => {
    const joints = part.joints.map(find);
    const gone = part.joints.filter((_, i) => !joints[i]).map((j) => j.name || `joint ${j.node}`);
    if (gone.length > 0) return { keeps: false, missed: [`${part.name}: no joint named ${gone.join(', ')}`] };
    const found = joints.map((j) => ({ node: j!.node, name: j!.name }));
    if (found.some((j, i) => i > 0 && parentOf(j.node) !== found[i - 1]!.node))
      return { keeps: false, missed: [`${part.name}: its joints do not hang in a row there`] };
    part.joints = found;
    if (!same) Object.assign(part, { keys: {}, anchors: [], pulls: [] });
    if (!part.tie || !('joint' in part.tie.to)) return { keeps: true, missed: [] };
    const { name } = part.tie.to.joint;
    const to = find(part.tie.to.joint);
    if (to) part.tie.to = { joint: { node: to.node, name: to.name } };
    else part.tie = null;
    const missed = to ? [] : [`${part.name}: its tip was tied to ${name}, which is not there`];
    return { keeps: true, missed };
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
