import { isChain, type Spring } from '@oscillum/core/chain';
import { PartId } from '@oscillum/core/model';
import { change, type Recipe } from '../../edits';
import type { Thunk } from '../../store';

/** Springs between neighbours to begin with. */
const NEW = { stiffness: 8, damping: 0.7 };

/** Takes the springs between two chains off, whoever of them names the other. */
const apart = (d: Parameters<Recipe>[0], a: string, b: string): void => {
  for (const [own, other] of [
    [a, b],
    [b, a],
  ] as const) {
    const part = d.parts[own];
    if (isChain(part)) part.springs = part.springs.filter((s) => s.to !== other);
  }
};

/** Links chains, in this order, each to the one before; in a ring the first to the last as well. */
export const linkChains = (ids: readonly string[], ring: boolean): Thunk =>
  change(ring ? 'Link into a ring' : 'Link into a row', (d) => {
    const pairs = ids.slice(1).map((id, k) => [id, ids[k]!] as const);
    if (ring && ids.length > 2) pairs.push([ids[0]!, ids.at(-1)!]);
    for (const [own, other] of pairs) {
      apart(d, own, other);
      const part = d.parts[own];
      if (isChain(part)) part.springs.push({ to: PartId.parse(other), ...NEW });
    }
  });

/** Changes the springs between two chains; null takes them off. */
export const setSprings = (a: string, b: string, to: Partial<Omit<Spring, 'to'>> | null): Thunk =>
  change(to ? 'Set how chains are linked' : 'Unlink chains', (d) => {
    if (!to) return apart(d, a, b);
    for (const [own, other] of [
      [a, b],
      [b, a],
    ] as const) {
      const part = d.parts[own];
      if (isChain(part)) for (const s of part.springs) if (s.to === other) Object.assign(s, to);
    }
  });
