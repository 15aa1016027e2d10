import {
  carryMaps,
  mendMinds,
  mindedIds,
  scaledLength,
  scaleSettings,
  type PartDocument,
} from '../../model/part';
import { BODY_MAPS, BodyPart } from './document';
import { linkedBodies } from './linked';
import { BODY_SETTINGS } from './settings';

/** How a soft body stays whole: it has its mesh for itself, and names colliders and parts. */
export const bodyDocument: PartDocument<BodyPart> = {
  schema: BodyPart,
  settings: BODY_SETTINGS,
  driven: ['amount', 'hold', 'swell'],
  claims: ({ mesh }) => [{ ...mesh, path: 'points', shared: false }],
  names: ({ collidesWith: { colliders, parts } }) => ({
    colliders: mindedIds(colliders),
    parts: mindedIds(parts),
  }),
  mend: (part, there) => {
    part.collidesWith.colliders = mendMinds(part.collidesWith.colliders, there.colliders);
    part.collidesWith.parts = mendMinds(part.collidesWith.parts, there.parts);
  },
  carry: (part, onto) => {
    const mesh = onto.find(part.mesh);
    if (!mesh) return { keeps: false, missed: [`${part.name}: no mesh named ${part.mesh.name}`] };
    const before = part.mesh.node;
    part.mesh = { node: mesh.node, name: mesh.name };
    const missed = carryMaps(part, BODY_MAPS, before, mesh, onto);
    part.strings = part.strings.flatMap((s): BodyPart['strings'] => {
      const joint = onto.find(s.joint);
      if (!joint) missed.push(`${part.name}: no joint named ${s.joint.name} to hang it on`);
      return joint ? [{ ...s, joint: { node: joint.node, name: joint.name } }] : [];
    });
    if (!onto.same) Object.assign(part, { keys: {}, anchors: [], lift: 0, start: 0, link: null });
    return { keeps: true, missed };
  },
  linked: linkedBodies,
  scale: (part, by) => {
    scaleSettings(part, BODY_SETTINGS, by);
    part.lift = scaledLength(part.lift, by, 0, 1e4);
    for (const s of part.strings) s.length = scaledLength(s.length, by, 1e-3, 1e4);
  },
};
