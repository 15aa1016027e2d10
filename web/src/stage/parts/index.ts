import type { KindName, Part } from '@oscillum/core/shot';
import { bodyInk } from './body/ink';
import { chainInk } from './chain/ink';
import { clothInk, panelInk } from './cloth/ink';
import type { StagePart } from './kind';
import { pendulumInk } from './pendulum/ink';
import { skinInk } from './skin/ink';
import { strandsInk } from './strands/ink';
import { regionInk } from './soft/ink';

/** How parts are drawn, by kind: one line a kind. */
const INK = {
  body: bodyInk,
  chain: chainInk,
  cloth: clothInk,
  panel: panelInk,
  pendulum: pendulumInk,
  region: regionInk,
  skin: skinInk,
  strands: strandsInk,
} satisfies Record<KindName, unknown>;

export const inkOf = (part: Part): StagePart => INK[part.kind] as StagePart;
