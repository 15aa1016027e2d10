import { inOrder } from '../../model/part';
import type { BodyPart } from './document';

const laterKeys = (keys: BodyPart['keys'], by: number): BodyPart['keys'] =>
  by === 0
    ? keys
    : Object.fromEntries(
        Object.entries(keys).map(([key, list]) => [key, list?.map((k) => ({ ...k, frame: k.frame + by }))]),
      );

/** When a body starts, with its keys as much later as it starts later. Frames. */
export const startingAt = (
  part: Pick<BodyPart, 'start' | 'keys'>,
  start: number,
): Pick<BodyPart, 'start' | 'keys'> => ({ start, keys: laterKeys(part.keys, start - part.start) });

/** What linked bodies have in common, beside their keys. */
const SHARED = ['settings', 'cells', 'collidesWith'] as const;

/**
 * What an edit of some linked bodies changes on the others, by id: what was set on one holds for all, their keys as
 * much later as they start later. When the first of them starts at another time, all others go with it.
 */
export function linkedBodies(
  after: readonly BodyPart[],
  before: Readonly<Record<string, unknown>>,
): ReadonlyMap<string, Partial<BodyPart>> {
  const was = (p: BodyPart) => before[p.id] as BodyPart | undefined;
  const out = new Map<string, Partial<BodyPart>>();
  for (const link of new Set(after.flatMap((p) => p.link ?? []))) {
    const linked = inOrder(Object.fromEntries(after.flatMap((p) => (p.link === link ? [[p.id, p]] : []))));
    const [first] = linked;
    const moved = first!.start - (was(first!)?.start ?? first!.start);
    const startOf = (p: BodyPart) => (p !== first && was(p)?.start === p.start ? p.start + moved : p.start);
    const differs = (p: BodyPart) => {
      const old = was(p);
      if (old?.link !== link) return false;
      // Keys that went along with their start are not others.
      return SHARED.some((key) => old[key] !== p[key]) || (old.start === p.start && old.keys !== p.keys);
    };
    const changed = linked.find(differs);
    if (!changed && moved === 0) continue;
    for (const p of linked) {
      if (p === changed || (!changed && startOf(p) === p.start)) continue;
      const from = changed ?? p;
      const start = startOf(p);
      const keys = laterKeys(from.keys, start - from.start);
      const { settings, cells, collidesWith } = from;
      out.set(p.id, { start, keys, settings, cells, collidesWith });
    }
  }
  return out;
}
