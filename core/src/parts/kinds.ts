import type { KindName } from './documents';
import { bodyKind } from './body/index';
import { chainKind } from './chain/index';
import { clothKind } from './cloth/index';
import { panelKind } from './cloth/panelKind';
import { pendulumKind } from './pendulum/index';
import { skinKind } from './skin/index';
import { strandsKind } from './strands/index';
import { regionKind } from './soft/index';
import type { PartKind } from './kind';

/** All kinds of part, by name: one line a kind. */
const KINDS = {
  body: bodyKind,
  chain: chainKind,
  cloth: clothKind,
  panel: panelKind,
  pendulum: pendulumKind,
  region: regionKind,
  skin: skinKind,
  strands: strandsKind,
} satisfies Record<KindName, unknown>;

/** What the core asks of a part, by its kind. */
export const kindOf = (part: { readonly kind: KindName }): PartKind => KINDS[part.kind];
