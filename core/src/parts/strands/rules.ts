import {
  carryMaps,
  mendMinds,
  mindedIds,
  scaledLength,
  scaledPlace,
  scaleSettings,
  withoutMinded,
  type PartDocument,
} from '../../model/part';
import { STRAND_MAPS, StrandsPart } from './document';
import { makeGroom, readGroom, type Groom } from './groom';
import { ENDLESS, STRAND_SETTINGS } from './settings';

/** How strands stay whole: they move nothing of the file, and name what they touch. */
export const strandsDocument: PartDocument<StrandsPart> = {
  schema: StrandsPart,
  settings: STRAND_SETTINGS,
  driven: ['amount', 'hold', 'gravity'],
  claims: () => [],
  names: ({ collidesWith }) => ({
    colliders: mindedIds(collidesWith.colliders),
    parts: mindedIds(collidesWith.parts),
  }),
  mend: (part, there) => {
    const { collidesWith } = part;
    collidesWith.colliders = mendMinds(collidesWith.colliders, there.colliders);
    collidesWith.parts = mendMinds(withoutOwn(part), there.parts);
  },
  carry: (part, { find, same, ...onto }) => {
    const before = part.mesh.node;
    const mesh = find(part.mesh);
    if (!mesh) return { keeps: false, missed: [`${part.name}: no mesh named ${part.mesh.name}`] };
    part.mesh = { node: mesh.node, name: mesh.name };
    if (!same) Object.assign(part, { keys: {}, anchors: [], pulls: [], poses: [] });
    return { keeps: true, missed: carryMaps(part, STRAND_MAPS, before, mesh, onto) };
  },
  scale: (part, by) => {
    const endless = part.settings.leash >= ENDLESS;
    scaleSettings(part, STRAND_SETTINGS, by);
    if (endless) part.settings.leash = ENDLESS;
    part.look.curl = scaledLength(part.look.curl, by, 0, 100);
    part.look.width = scaledLength(part.look.width, by, 1e-6, 10);
    if (part.growth) part.growth.length = scaledLength(part.growth.length, by, 1e-4, 1000);
    for (const pull of part.pulls) {
      pull.path = pull.path.map((p) => scaledPlace(p, by));
      pull.reach = scaledLength(pull.reach, by, 0, 1e4);
      pull.slip = scaledLength(pull.slip, by, 0, 1e5);
    }
    for (const pose of part.poses) pose.groom = scaledGroom(pose.groom, by);
    part.groom = scaledGroom(part.groom, by);
  },
};

const scaledGroom = (groom: Groom, by: number): Groom =>
  makeGroom(readGroom(groom).map((g) => g.map((x) => x * by)));

/** Nothing touches itself. */
const withoutOwn = ({ id, collidesWith: { parts } }: StrandsPart): StrandsPart['collidesWith']['parts'] =>
  mindedIds(parts).includes(id) && Array.isArray(parts) ? withoutMinded(parts, id) : parts;
