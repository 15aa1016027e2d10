import {
  carryMaps,
  mendMinds,
  mindedIds,
  scaledLength,
  scaledPlace,
  scaleSettings,
  type PartDocument,
} from '../../model/part';
import { ClothPart, MAPS, type Hold, type Tie } from './document';
import { CLOTH_SETTINGS } from './settings';

/** How a cloth stays whole: it has its mesh for itself, and names joints and colliders. */
export const clothDocument: PartDocument<ClothPart> = {
  schema: ClothPart,
  settings: CLOTH_SETTINGS,
  driven: ['amount', 'hold', 'filling', 'pressure', 'float'],
  claims: ({ mesh }) => [{ ...mesh, path: 'points', shared: false }],
  names: ({ collidesWith: { colliders, parts }, ties }) => ({
    colliders: mindedIds(colliders),
    parts: [...mindedIds(parts), ...ties.flatMap(({ to }) => (to.by === 'cloth' ? [to.part] : []))],
  }),
  mend: (part, there) => {
    part.collidesWith.colliders = mendMinds(part.collidesWith.colliders, there.colliders);
    part.collidesWith.parts = mendMinds(part.collidesWith.parts, there.parts);
    part.ties = part.ties.filter(({ to }) => to.by === 'joint' || there.parts.has(to.part));
  },
  carry: (part, onto) => {
    const { find, same } = onto;
    const mesh = find(part.mesh);
    if (!mesh) return { keeps: false, missed: [`${part.name}: no mesh named ${part.mesh.name}`] };
    const before = part.mesh.node;
    part.mesh = { node: mesh.node, name: mesh.name };
    const missed: string[] = [];
    const there = (h: Hold, why: string): Hold | null => {
      if (h.by === 'rim') return h;
      const joint = find(h.joint);
      if (!joint) missed.push(`${part.name}: no joint named ${h.joint.name} to ${why} it`);
      return joint ? { ...h, joint: { node: joint.node, name: joint.name } } : null;
    };
    part.holds = part.holds.flatMap((h) => there(h, 'hold') ?? []);
    part.ties = part.ties.flatMap((tie): Tie[] => {
      const what = there(tie.what, 'tie');
      const to = tie.to.by === 'joint' ? find(tie.to.joint) : null;
      if (tie.to.by === 'joint' && !to)
        missed.push(`${part.name}: no joint named ${tie.to.joint.name} to tie it to`);
      if (!what || (tie.to.by === 'joint' && !to)) return [];
      return [{ ...tie, what, ...(to && { to: { by: 'joint', joint: { node: to.node, name: to.name } } }) }];
    });
    missed.push(...carryMaps(part, MAPS, before, mesh, onto));
    if (!same) Object.assign(part, { keys: {}, anchors: [], release: null, pulls: [] });
    return { keeps: true, missed };
  },
  scale: (part, by) => {
    scaleSettings(part, CLOTH_SETTINGS, by);
    for (const pull of part.pulls) {
      pull.path = pull.path.map((p) => scaledPlace(p, by));
      pull.reach = scaledLength(pull.reach, by, 0, 1e4);
      pull.slip = scaledLength(pull.slip, by, 0, 1e5);
    }
  },
};
