import { cubeRoot } from '../../math/index';
import { same } from '../../model/alike';
import { minds } from '../../model/index';
import type { PartKind } from '../kind';
import { measureStray } from '../stray';
import { diagnoseBody } from './diagnoses';
import type { BodyPart } from './document';
import { bodyFeel, fitBody } from './feel';
import { layOutBody, type BodyLayout } from './layout';
import { BODY_READOUTS } from './readouts';
import { makeBodyRun } from './run';
import { makeBodySource, type BodySource } from './source';
import { valuesOf } from './values';

/** A coarse answer has about so many cells. */
const COARSE = 200;

/** Whole meshes that go soft. */
export const bodyKind: PartKind<BodyPart, BodyLayout, BodySource> = {
  layout: layOutBody,
  coarsen: (layout) => {
    const { lattice, part } = layout;
    const fewer = Math.max(2, Math.floor(part.cells * cubeRoot(COARSE / lattice.cells)));
    return layout.coarser(Math.min(part.cells, fewer));
  },
  folds: true,
  solid: true,
  columns: ({ node, vertices }) => ({
    ...{ paths: new Uint8Array(0), scaled: [], morphs: [], readouts: [...BODY_READOUTS] },
    points: [{ node, vertices }],
  }),
  sampled: (part) => [part.id, part.mesh, part.cells, part.maps, part.start, part.strings],
  follows: (part) => part.strings.map((s) => s.joint.node),
  collidesWith: (part) => part.collidesWith,
  tied: () => [],
  concerns: (part, collider) => minds(part.collidesWith.colliders, collider.id),
  // It has an arena of its own: see ownArena.
  room: () => ({ rows: 0, run: 0, bodies: 0 }),
  source: makeBodySource,
  run: makeBodyRun,
  feel: (shot, track, index) => bodyFeel(valuesOf(found(shot, track, index)), shot.fps, shot.range.first),
  fit: (shot, track, index, asked) => fitBody(found(shot, track, index), shot.fps, shot.range.first, asked),
  measureShot: measureStray,
  diagnose: diagnoseBody,
  alikeUntil: (a, b) => same(a, b, { name: 0, order: 0, muted: 0 }),
};

const found = (...[shot, track, index]: Parameters<PartKind['feel']>): BodyPart =>
  shot.parts[track.parts[index]!.layout.part.id] as BodyPart;
