import { firstOf, same, sameUntil } from '../../model/alike';
import type { ChainPart } from './document';

/** The last frame up to which two settings of one chain simulate alike. */
export const chainAlikeUntil = (a: ChainPart, b: ChainPart): number =>
  Math.min(
    ...[...new Set([...Object.keys(a.keys), ...Object.keys(b.keys)])].map((k) =>
      sameUntil(a.keys[k as 'hold'] ?? [], b.keys[k as 'hold'] ?? []),
    ),
    firstOf(a.anchors, b.anchors, (x) => x.frame - x.easeIn),
    firstOf(a.pulls, b.pulls, (x) => x.first),
    same(a, b, { keys: 0, anchors: 0, pulls: 0, name: 0 }),
  );
