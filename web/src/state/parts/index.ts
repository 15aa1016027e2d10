import type { KindName } from '@oscillum/core/shot';
import { bodyMaps } from './body/words';
import { clothMaps } from './cloth/words';
import type { PaintedMaps } from './kind';
import { skinMaps } from './skin/words';
import { strandsMaps } from './strands/words';
import { regionMaps } from './soft/words';

/** What a part is called, by kind: one line a kind. */
export const NOUNS: Record<KindName, string> = {
  body: 'soft body',
  chain: 'chain',
  cloth: 'cloth',
  panel: 'panel',
  pendulum: 'pendulum',
  region: 'soft region',
  skin: 'skin',
  strands: 'hair',
};

/** What is painted on parts, by kind: one line for each kind that has maps. */
export const MAPS_OF: Partial<Record<KindName, PaintedMaps>> = {
  body: bodyMaps as PaintedMaps,
  cloth: clothMaps as PaintedMaps,
  region: regionMaps as PaintedMaps,
  skin: skinMaps as PaintedMaps,
  strands: strandsMaps as PaintedMaps,
};
