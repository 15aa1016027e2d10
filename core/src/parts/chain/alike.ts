import { firstOf, keysUntil, same } from '../../model/alike';
import type { ChainPart } from './document';

/** The last frame up to which two settings of one chain simulate alike. */
export const chainAlikeUntil = (a: ChainPart, b: ChainPart): number =>
  Math.min(
    keysUntil(a.keys, b.keys),
    firstOf(a.anchors, b.anchors, (x) => x.frame - x.easeIn),
    firstOf(a.pulls, b.pulls, (x) => x.first),
    same(a, b, { keys: 0, anchors: 0, pulls: 0, name: 0 }),
  );
