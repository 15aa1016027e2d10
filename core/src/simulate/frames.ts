import type { LoopReport } from './loop';

/**
 * The simulated shot: for each frame of the range, the local rotation and translation of every simulated joint.
 * Rows are frames; `joints` and `chains` give the columns. Rows from `done` on are not filled yet.
 */
export interface Frames {
  readonly first: number;
  readonly count: number;
  /** Node of each column of rotations and translations. */
  readonly joints: Int32Array;
  /** count × joints × 4 (x y z w) */
  readonly rotations: Float64Array;
  /** count × joints × 3, file units */
  readonly translations: Float64Array;
  readonly chains: readonly ChainColumns[];
  /** Ids of the colliders that are not muted, in order. */
  readonly colliders: readonly string[];
  /** count × chains: largest angle of a link from its source direction, degrees, after mix. */
  readonly stray: Float32Array;
  /** count × chains: distance of the tip from its source place, m. */
  readonly tipStray: Float32Array;
  /** count × chains × 3: the tip in the world, m. */
  readonly tips: Float32Array;
  /** count × chains: links that press on something, deepest inside (m), fastest along it (m/s), over the frame's substeps. */
  readonly contacts: Uint16Array;
  readonly depth: Float32Array;
  readonly slip: Float32Array;
  /** count × chains: largest share by which a link is longer or shorter than its source; kinetic energy, J. */
  readonly stretch: Float32Array;
  readonly energy: Float32Array;
  /** How the range was begun and closed. */
  /** count × colliders × 7: place (m) and turn of each collider in the world. */
  readonly placements: Float32Array;
  /** For each chain, the colliders it stood in when the simulation began. */
  startsIn: string[][];
  start: StartReport;
  done: number;
}

export interface StartReport {
  /** For a settled start: seconds it took to come to rest, and whether it did. */
  settled: { seconds: number; still: boolean } | null;
  /** For a loop: see {@link findPeriodic}; `null` when none was asked for. */
  loop: LoopReport | null;
}

export interface ChainColumns {
  readonly partId: string;
  /** Its columns of `joints`: from..from + length − 1. */
  readonly from: number;
  readonly length: number;
  /** Whether its joints may leave their places, so that translations matter. */
  readonly stretches: boolean;
}

/** What the rows of frames are for: enough to make room for them. */
export type FramesLayout = Pick<Frames, 'first' | 'count' | 'joints' | 'chains' | 'colliders'>;

/** The arrays of a {@link Frames} that have a row a frame, with the numbers in a row. */
export function rowWidths(layout: FramesLayout) {
  const j = layout.joints.length;
  const c = layout.chains.length;
  return {
    rotations: 4 * j,
    translations: 3 * j,
    stray: c,
    tipStray: c,
    tips: 3 * c,
    contacts: c,
    depth: c,
    slip: c,
    stretch: c,
    energy: c,
    placements: 7 * layout.colliders.length,
  };
}

export type FrameRows = Pick<Frames, keyof ReturnType<typeof rowWidths>>;

export function emptyFrames(layout: FramesLayout): Frames {
  const { count } = layout;
  const widths = rowWidths(layout);
  return {
    ...layout,
    rotations: new Float64Array(count * widths.rotations),
    translations: new Float64Array(count * widths.translations),
    stray: new Float32Array(count * widths.stray),
    tipStray: new Float32Array(count * widths.tipStray),
    tips: new Float32Array(count * widths.tips),
    contacts: new Uint16Array(count * widths.contacts),
    depth: new Float32Array(count * widths.depth),
    slip: new Float32Array(count * widths.slip),
    stretch: new Float32Array(count * widths.stretch),
    energy: new Float32Array(count * widths.energy),
    placements: new Float32Array(count * widths.placements),
    startsIn: layout.chains.map(() => []),
    start: { settled: null, loop: null },
    done: 0,
  };
}

/** Takes the first `rows` rows, and how the range was begun, from frames of the same layout. */
export function copyRows(to: Frames, from: Frames, rows: number): void {
  const widths = rowWidths(to);
  for (const key of Object.keys(widths) as (keyof typeof widths)[])
    to[key].set(from[key].subarray(0, rows * widths[key]));
  to.startsIn = from.startsIn;
  to.start = from.start;
}
