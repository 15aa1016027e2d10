import { same } from '../../model/alike';
import type { PartKind } from '../kind';
import { diagnoseRegion } from './diagnoses';
import type { RegionPart } from './document';
import { measureStray } from '../stray';
import { fitRegion, regionFeel } from './feel';
import { layOutRegion, type RegionLayout } from './layout';
import { makeRegionRun } from './run';
import { makeRegionSource, type RegionSource } from './source';
import { valuesOf } from './values';

/** Regions of a character's skin that quiver. */
export const regionKind: PartKind<RegionPart, RegionLayout, RegionSource> = {
  layout: layOutRegion,
  columns: ({ pieces }) => ({
    ...{ paths: new Uint8Array(0), scaled: [], morphs: [], readouts: [] },
    points: pieces.map(({ node, picked }) => ({ node, vertices: picked.length, picked })),
  }),
  sampled: (part) => [part.id, part.mesh, part.also, part.where, part.maps],
  follows: () => [],
  collidesWith: () => ({ colliders: [], parts: [] }),
  tied: () => [],
  concerns: () => false,
  // It has an arena of its own: see ownArena.
  room: () => ({ rows: 0, run: 0, bodies: 0 }),
  source: makeRegionSource,
  run: makeRegionRun,
  feel: (shot, track, index) => regionFeel(valuesOf(found(shot, track, index)), shot.fps, shot.range.first),
  fit: (shot, track, index, asked) => fitRegion(found(shot, track, index), shot.fps, shot.range.first, asked),
  measureShot: measureStray,
  diagnose: diagnoseRegion,
  alikeUntil: (a, b) => same(a, b, { name: 0, order: 0, muted: 0 }),
};

const found = (...[shot, track, index]: Parameters<PartKind['feel']>): RegionPart =>
  shot.parts[track.parts[index]!.layout.part.id] as RegionPart;
