import { z } from 'zod';
import type { PartDocument } from '../model/part';
import type { SettingInfo } from '../model/settingTable';
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
import { SkinPart } from './skin/document';
import { skinDocument } from './skin/rules';
import { StrandsPart } from './strands/document';
import { strandsDocument } from './strands/rules';
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
  skin: skinDocument,
  strands: strandsDocument,
};
/** A part of any kind. */
export const Part = z.discriminatedUnion('kind', [
  BodyPart,
  ChainPart,
  ClothPart,
  PanelPart,
  PendulumPart,
  RegionPart,
  SkinPart,
  StrandsPart,
]);

export type Part = z.infer<typeof Part>;
export type KindName = Part['kind'];

/** The rules of a part's document, by its kind. */
export const documentOf = (part: { readonly kind: KindName }): PartDocument =>
  (DOCUMENTS satisfies Record<KindName, unknown>)[part.kind];

/** A setting of a part of a shot that a pendulum may drive: its part and what it is, or null when it is not there. */
export function drivenSetting(
  parts: Readonly<Record<string, Part>>,
  target: { readonly part: string; readonly setting: string },
): { readonly part: Part; readonly info: SettingInfo } | null {
  const part = parts[target.part];
  if (!part || !documentOf(part).driven.includes(target.setting)) return null;
  return { part, info: documentOf(part).settings[target.setting]! };
}

/** Nodes that a part moves in any way; those alone that it has for itself when `owned`. */
export const nodesOf = (part: Part, owned = false): number[] => [
  ...new Set(
    documentOf(part)
      .claims(part)
      .flatMap((c) => (owned && c.shared ? [] : [c.node])),
  ),
];
