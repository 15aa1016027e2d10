import type { KindName, Part } from '@oscillum/core/shot';
import { bodyUi } from './body';
import { chainUi } from './chain';
import { clothUi, panelUi } from './cloth';
import type { PartUi } from './kind';
import { pendulumUi } from './pendulum';
import { skinUi } from './skin';
import { strandsUi } from './strands';
import { regionUi } from './soft';

/** How parts are shown, by kind: one line a kind. */
const UI = {
  body: bodyUi,
  chain: chainUi,
  cloth: clothUi,
  panel: panelUi,
  pendulum: pendulumUi,
  region: regionUi,
  skin: skinUi,
  strands: strandsUi,
} satisfies Record<KindName, unknown>;

export const uiOf = (part: { readonly kind: KindName }): PartUi => UI[part.kind] as PartUi;
export const ALL_UI = Object.values(UI) as unknown as readonly PartUi<Part>[];
