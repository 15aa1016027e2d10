import { firstOf, keysUntil, same } from '../../model/alike';
import { minds } from '../../model/index';
import type { PartKind } from '../kind';
import { measureStray } from '../stray';
import { diagnoseStrands } from './diagnoses';
import type { StrandsPart } from './document';
import { fitStrands, strandFeel } from './feel';
import { coarser, layOutStrands, type StrandsLayout } from './layout';
import { makeStrandsRun, STRAND_READOUTS } from './run';
import { makeStrandsSource, type StrandsSource } from './source';
import { valuesOf } from './values';

/** Strands that grow on a mesh. */
export const strandsKind: PartKind<StrandsPart, StrandsLayout, StrandsSource> = {
  layout: layOutStrands,
  fine: true,
  coarsen: coarser,
  columns: ({ part, node, points, shapes }) => ({
    ...{ paths: new Uint8Array(0), scaled: [], morphs: [], readouts: [...STRAND_READOUTS] },
    points:
      points > 0
        ? [
            {
              ...{ node, vertices: points },
              curves: { part: part.id, counts: shapes.map((s) => s.lengths.length + 1) },
            },
          ]
        : [],
  }),
  sampled: (part) => [part.id, part.mesh, part.groom, part.maps.hold, part.maps.bend],
  follows: () => [],
  collidesWith: (part) => part.collidesWith,
  tied: () => [],
  concerns: (part, collider) => minds(part.collidesWith.colliders, collider.id),
  // It has an arena of its own: see ownArena.
  room: () => ({ rows: 0, run: 0, bodies: 0 }),
  source: makeStrandsSource,
  run: makeStrandsRun,
  feel: (shot, track, index) =>
    strandFeel(
      found(shot, track, index),
      valuesOf(found(shot, track, index)),
      lengthOf(track, index),
      shot.fps,
      shot.range.first,
    ),
  fit: (shot, track, index, asked) =>
    fitStrands(found(shot, track, index), lengthOf(track, index), shot.fps, shot.range.first, asked),
  curveLook: ({ look }) => ({
    widths: [look.width, look.width * look.taper],
    colours: [linearColour(look.root), linearColour(look.tip)],
  }),
  measureShot: measureStray,
  diagnose: diagnoseStrands,
  alikeUntil: (a, b) =>
    Math.min(
      keysUntil(a.keys, b.keys),
      firstOf(a.anchors, b.anchors, (x) => x.frame - x.easeIn),
      firstOf(a.poses, b.poses, (x) => x.frame - x.easeIn),
      firstOf(a.pulls, b.pulls, (x) => x.first),
      same(moves(a), moves(b), {
        ...{ name: 0, order: 0, muted: 0, look: 0, growth: 0 },
        ...{ keys: 0, anchors: 0, poses: 0, pulls: 0 },
      }),
    ),
};

/** Where it grows is told by its groom. */
const moves = (part: StrandsPart) => ({ ...part, maps: { ...part.maps, grow: 0 } });

/** A colour (#rrggbb, sRGB) as linear red, green and blue, 0..1 (IEC 61966-2-1). */
const linearColour = (text: string): number[] =>
  [1, 3, 5].map((k) => {
    const c = parseInt(text.slice(k, k + 2), 16) / 255;
    return c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4;
  });

const found = (...[shot, track, index]: Parameters<PartKind['feel']>): StrandsPart =>
  shot.parts[track.parts[index]!.layout.part.id] as StrandsPart;
const lengthOf = (track: Parameters<PartKind['feel']>[1], index: number): number =>
  (track.parts[index]!.layout as StrandsLayout).length;
