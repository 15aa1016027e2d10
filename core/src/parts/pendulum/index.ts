import type { PartKind, PartSource } from '../kind';
import type { PendulumPart } from './document';
import { diagnosePendulum } from './diagnoses';
import { makePendulumDriver } from './drive';
import { fitPendulum, measurePendulum, pendulumFeel } from './feel';
import { contentsOf, layOutPendulum, type PendulumLayout } from './layout';
import { makePendulumRun } from './run';
import { makePendulumSource } from './source';

/**
 * Two coupled pendulums that follow a channel and drive others: breathing, swaying, all that is secondary and no chain.
 */
export const pendulumKind: PartKind<PendulumPart, PendulumLayout, PartSource> = {
  layout: layOutPendulum,
  columns: contentsOf,
  // All of it is in the driven source.
  sampled: ({ name: _, order, ...part }) => [part, order],
  follows: () => [],
  collidesWith: () => ({ colliders: [], parts: [] }),
  tied: () => [],
  concerns: () => false,
  room: () => ({ rows: 0, run: 0, bodies: 0 }),
  source: makePendulumSource,
  run: makePendulumRun,
  drive: makePendulumDriver,
  feel: (shot, track, index) => pendulumFeel(partAt(shot, track, index), shot.fps, shot.range.first),
  fit: (shot, track, index, asked) =>
    fitPendulum(partAt(shot, track, index), shot.fps, shot.range.first, asked),
  measureShot: measurePendulum,
  diagnose: diagnosePendulum,
  alikeUntil: () => Infinity,
};

const partAt = (...[shot, track, index]: Parameters<PartKind['feel']>): PendulumPart =>
  shot.parts[track.parts[index]!.layout.part.id] as PendulumPart;
