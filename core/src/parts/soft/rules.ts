import { scaledLength, scaledPlace, scaleSettings, type PartDocument } from '../../model/part';
import { RegionPart } from './document';
import { REGION_SETTINGS } from './settings';

/** How a region stays whole: it adds to what else moves its meshes, and names joints. */
export const regionDocument: PartDocument<RegionPart> = {
  schema: RegionPart,
  settings: REGION_SETTINGS,
  driven: ['amount', 'swell', 'droop'],
  claims: ({ mesh, also }) => [mesh, ...also].map((m) => ({ ...m, path: 'points', shared: true })),
  names: () => ({ colliders: [], parts: [] }),
  mend: () => undefined,
  carry: (part, { find, same, verticesOf, carriedMap }) => {
    const mesh = find(part.mesh);
    if (!mesh) return { keeps: false, missed: [`${part.name}: no mesh named ${part.mesh.name}`] };
    const missed: string[] = [];
    const before = part.mesh.node;
    part.mesh = { node: mesh.node, name: mesh.name };
    part.also = part.also.flatMap((m) => {
      const there = find(m);
      if (!there) missed.push(`${part.name}: no mesh named ${m.name}`);
      return there ? [{ node: there.node, name: there.name }] : [];
    });
    if (part.where.by === 'joint') {
      const joint = find(part.where.joint);
      if (!joint)
        return {
          keeps: false,
          missed: [`${part.name}: no joint named ${part.where.joint.name} to be soft about`],
        };
      part.where = { by: 'joint', joint: { node: joint.node, name: joint.name } };
    }
    const map = part.maps.weight;
    if (map && map.vertices !== verticesOf(mesh.node)) {
      const carried = carriedMap(map, before, mesh.node);
      if (!carried)
        return {
          keeps: false,
          missed: [
            `${part.name}: its paint, which was on ${map.vertices} vertices (${mesh.name} has ${verticesOf(mesh.node)})`,
          ],
        };
      part.maps.weight = carried;
    }
    if (!same) Object.assign(part, { keys: {}, anchors: [] });
    return { keeps: true, missed };
  },
  scale: (part, by) => {
    scaleSettings(part, REGION_SETTINGS, by);
    if (part.where.by !== 'ball') return;
    part.where.at = scaledPlace(part.where.at, by);
    part.where.inner = scaledLength(part.where.inner, by, 0, 1e4);
    part.where.outer = scaledLength(part.where.outer, by, 0, 1e4);
  },
};
