import { carryMaps, scaledLength, type PartDocument } from '../../model/part';
import { SkinPart, type Below } from './document';
import { SKIN_SETTINGS } from './settings';

/** How a skin stays whole: it adds to what else moves its mesh, and names the bodies below it. */
export const skinDocument: PartDocument<SkinPart> = {
  schema: SkinPart,
  settings: SKIN_SETTINGS,
  driven: ['amount'],
  claims: ({ mesh }) => [{ ...mesh, path: 'points', shared: true }],
  names: ({ below }) => ({ colliders: [], parts: below.map((b) => b.part) }),
  mend: (part, there) => void (part.below = part.below.filter((b) => there.parts.has(b.part))),
  carry: (part, onto) => {
    const mesh = onto.find(part.mesh);
    if (!mesh) return { keeps: false, missed: [`${part.name}: no mesh named ${part.mesh.name}`] };
    const before = part.mesh.node;
    part.mesh = { node: mesh.node, name: mesh.name };
    const missed = carryMaps(part, ['share'], before, mesh, onto);
    part.below = part.below.flatMap((b): Below[] => {
      const to = onto.find(b.mesh);
      if (!to) missed.push(`${part.name}: no mesh named ${b.mesh.name} below it`);
      return to ? [{ ...b, mesh: { node: to.node, name: to.name } }] : [];
    });
    if (!onto.same) Object.assign(part, { keys: {}, anchors: [] });
    return { keeps: true, missed };
  },
  scale: (part, by) => void (part.reach = scaledLength(part.reach, by, 1e-6, 1e4)),
};
