import type { KindName } from '@oscillum/core/shot';

/** What a part is called, by kind: one line a kind. */
export const NOUNS: Record<KindName, string> = {
  chain: 'chain',
  cloth: 'cloth',
  panel: 'panel',
  pendulum: 'pendulum',
};
