import { mendMinds, mindedIds, scaleSettings, type PartDocument } from '../../model/part';
import { CLOTH_SETTINGS } from './settings';
import { PanelPart } from './panelDocument';

/** How a panel stays whole: it has its joints for itself, and names colliders. */
export const panelDocument: PartDocument<PanelPart> = {
  schema: PanelPart,
  settings: CLOTH_SETTINGS,
  driven: ['amount', 'hold'],
  claims: ({ rows, moves }) =>
    rows
      .flat()
      .flatMap((j) => [
        ...(moves === 'points' ? [] : [{ ...j, path: 'rotation' as const, shared: false }]),
        ...(moves === 'turns' ? [] : [{ ...j, path: 'translation' as const, shared: false }]),
      ]),
  names: ({ collidesWith: { colliders, parts } }) => ({
    colliders: mindedIds(colliders),
    parts: mindedIds(parts),
  }),
  mend: (part, there) => {
    part.collidesWith.colliders = mendMinds(part.collidesWith.colliders, there.colliders);
    part.collidesWith.parts = mendMinds(part.collidesWith.parts, there.parts);
  },
  carry: (part, { find, same }) => {
    const missed: string[] = [];
    part.rows = part.rows.flatMap((row) => {
      const found = row.map(find);
      const lost = row.find((_, k) => !found[k]);
      if (lost) missed.push(`${part.name}: no joint named ${lost.name}`);
      return lost ? [] : [found.map((j) => ({ node: j!.node, name: j!.name }))];
    });
    if (part.rows.length < 2) return { keeps: false, missed };
    if (!same) Object.assign(part, { keys: {}, anchors: [] });
    return { keeps: true, missed };
  },
  scale: (part, by) => scaleSettings(part, CLOTH_SETTINGS, by),
};
