import { z } from 'zod';
import type { PartDocument } from '../model/part';
import { BodyPart } from './body/document';
import { bodyDocument } from './body/rules';
import { ChainPart } from './chain/document';
import { chainDocument } from './chain/rules';
import { ClothPart } from './cloth/document';
import { clothDocument } from './cloth/rules';
import { PanelPart } from './cloth/panelDocument';
import { panelDocument } from './cloth/panelRules';
import { PendulumPart } from './pendulum/document';
import { pendulumDocument } from './pendulum/rules';
import { RegionPart } from './soft/document';
import { regionDocument } from './soft/rules';

/** The documents of all kinds of part, by name: one line a kind in each of these two. */
const DOCUMENTS = {
  body: bodyDocument,
  chain: chainDocument,
  cloth: clothDocument,
  panel: panelDocument,
  pendulum: pendulumDocument,
  region: regionDocument,
};
/** A part of any kind. */
export const Part = z.discriminatedUnion('kind', [
  BodyPart,
  ChainPart,
  ClothPart,
  PanelPart,
  PendulumPart,
  RegionPart,
]);

export type Part = z.infer<typeof Part>;
export type KindName = Part['kind'];

/** The rules of a part's document, by its kind. */
export const documentOf = (part: { readonly kind: KindName }): PartDocument =>
  (DOCUMENTS satisfies Record<KindName, unknown>)[part.kind];

/** Nodes that a part moves in any way; those alone that it has for itself when `owned`. */
export const nodesOf = (part: Part, owned = false): number[] => [
  ...new Set(
    documentOf(part)
      .claims(part)
      .flatMap((c) => (owned && c.shared ? [] : [c.node])),
  ),
];
