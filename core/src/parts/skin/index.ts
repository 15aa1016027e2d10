import { same } from '../../model/alike';
import type { PartKind } from '../kind';
import { measureStray } from '../stray';
import { diagnoseSkin } from './diagnoses';
import type { SkinPart } from './document';
import { layOutSkin, type SkinLayout } from './layout';
import { makeSkinRun } from './run';
import { makeSkinSource, type SkinSource } from './source';

/** A skin answers as the bodies below it do: its own feel is none. */
const FEEL = { lag: NaN, overshoot: NaN, settle: NaN, curve: new Float64Array(0) };

/** Skins that soft bodies below them carry along. */
export const skinKind: PartKind<SkinPart, SkinLayout, SkinSource> = {
  layout: layOutSkin,
  columns: ({ node, picked }) => ({
    ...{ paths: new Uint8Array(0), scaled: [], morphs: [], readouts: [] },
    points: [{ node, vertices: picked.length, picked }],
  }),
  sampled: (part) => [part.id, part.mesh, part.below, part.reach, part.maps],
  follows: () => [],
  collidesWith: () => ({ colliders: [], parts: [] }),
  tied: (part) => part.below.map((b) => b.part),
  concerns: () => false,
  room: () => ({ rows: 0, run: 0, bodies: 0 }),
  source: makeSkinSource,
  run: makeSkinRun,
  feel: () => FEEL,
  answersAs: (part) => part.below.map((b) => b.part),
  fit: () => ({
    settings: {},
    feel: FEEL,
    why: 'A skin answers as the soft bodies below it do: tune those.',
  }),
  measureShot: measureStray,
  diagnose: diagnoseSkin,
  alikeUntil: (a, b) => same(a, b, { name: 0, order: 0, muted: 0 }),
};
