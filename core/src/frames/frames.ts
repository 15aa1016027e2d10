import { quatMultiply, quatRotate, quatSlerp } from '../math/index';
import { COLUMN_NAMES, COLUMNS, type ColumnName, type FrameRows, type SetName, type Span } from './columns';

/** One morph weight: the node of the mesh, and which of its morph targets. */
export interface MorphColumn {
  readonly node: number;
  readonly target: number;
}

/**
 * The vertices of the mesh of a node, those of its primitives one after the other: their places; or, where some are
 * `picked`, how far those are from where their skin has them, which adds to what else moves the mesh.
 */
export interface PointColumns {
  readonly node: number;
  /** How many there are columns for. */
  readonly vertices: number;
  readonly picked?: Int32Array;
  /** The part whose strands these are points of, and how many each has: none of them is a vertex of the mesh. */
  readonly curves?: { readonly part: string; readonly counts: readonly number[] };
}

/** Bits of {@link PartColumns.paths}. */
export const TURNS = 1;
export const MOVES = 2;

/** The columns of one part, by set. */
export interface PartColumns {
  readonly partId: string;
  readonly joints: Span;
  readonly scaled: Span;
  readonly morphs: Span;
  /** Of vertices. */
  readonly points: Span;
  readonly readouts: Span;
  /** Of each of its joints, whether its rotation ({@link TURNS}) and its translation ({@link MOVES}) are moved. */
  readonly paths: Uint8Array;
}

/** What the columns stand for, and so how large they are: known before the first frame. */
export interface FramesLayout {
  readonly first: number;
  readonly count: number;
  /** Node of each column of rotations and translations. A node may stand twice: what stands later is shown. */
  readonly joints: Int32Array;
  /** Node of each column of scales. */
  readonly scaled: Int32Array;
  readonly morphs: readonly MorphColumn[];
  /** The meshes whose vertices are moved, in the order of their columns. */
  readonly pointed: readonly PointColumns[];
  readonly readoutNames: readonly string[];
  /** Parts that are not muted, in the order of the source track. */
  readonly parts: readonly PartColumns[];
  /** Ids of the colliders that are not muted, in order. */
  readonly colliders: readonly string[];
}

/**
 * The simulated shot: a table with a row for each frame of the range. {@link COLUMNS} says what stands in it. Rows from
 * `done` on are not filled yet.
 */
export interface Frames extends FramesLayout, FrameRows {
  /** For each part, the colliders it stood in when the simulation began. */
  startsIn: string[][];
  /** How the range was begun and closed. */
  start: StartReport;
  done: number;
}

/** How the periodic motion of a loop was looked for. */
export interface LoopReport {
  readonly found: boolean;
  /** Times the clip was run through before the one that is kept. */
  readonly laps: number;
  /** Largest difference in place (m) or speed (m/s) between the start and the end of the last lap. */
  readonly gap: number;
  /** What kept it from being found: the clip does not close, or the motion does not come to repeat. */
  readonly why: '' | 'clip' | 'motion';
  /** Frames at the end of the loop that become its beginning, where folds never come to repeat; else 0. */
  readonly blended: number;
}

export interface StartReport {
  /** For a settled start: seconds it took to come to rest, whether it did, and how fast anything still moved, m/s. */
  settled: { seconds: number; still: boolean; speed: number } | null;
  /** For a loop: see {@link findPeriodic}; `null` when none was asked for. */
  loop: LoopReport | null;
}

/** How many things each set has. */
export const sizesOf = (layout: FramesLayout): Record<SetName, number> => ({
  joints: layout.joints.length,
  scaled: layout.scaled.length,
  morphs: layout.morphs.length,
  points: layout.pointed.reduce((n, p) => n + p.vertices, 0),
  readouts: layout.readoutNames.length,
  parts: layout.parts.length,
  colliders: layout.colliders.length,
});

/** Meshes whose vertices a part moves: which of the frames' columns of vertices are theirs. */
export function pointSpans(
  layout: FramesLayout,
  part: number,
): (PointColumns & { readonly from: number; readonly to: number })[] {
  const { from, length } = layout.parts[part]!.points;
  let at = 0;
  return layout.pointed.flatMap((p) => {
    const own = { ...p, from: at, to: at + p.vertices };
    at = own.to;
    return length > 0 && own.from >= from && own.to <= from + length ? [own] : [];
  });
}

/** Some columns of frames, by index of part and of collider, rising. */
export interface Columns {
  readonly parts: readonly number[];
  readonly colliders: readonly number[];
}

/** Some columns of rows from..to−1, row after row without gaps. */
export interface Rows extends FrameRows {
  readonly columns: Columns;
  readonly from: number;
  readonly to: number;
}

/** Which things of each set some columns stand for. */
function spansOf(layout: FramesLayout, { parts, colliders }: Columns): Record<SetName, Span[]> {
  const of = (set: 'joints' | 'scaled' | 'morphs' | 'points' | 'readouts') =>
    parts.map((p) => layout.parts[p]![set]).filter((s) => s.length > 0);
  const each = (list: readonly number[]) => list.map((from): Span => ({ from, length: 1 }));
  return {
    joints: of('joints'),
    scaled: of('scaled'),
    morphs: of('morphs'),
    points: of('points'),
    readouts: of('readouts'),
    parts: each(parts),
    colliders: each(colliders),
  };
}

/** Where in a row some columns begin, and how many numbers they have. */
type Run = readonly [at: number, n: number];
const runsOf = (spans: readonly Span[], width: number): Run[] =>
  spans.map((s) => [width * s.from, width * s.length]);

/** Copies of some columns of some rows. */
export function packRows(frames: Frames, columns: Columns, from: number, to: number): Rows {
  const spans = spansOf(frames, columns);
  const sizes = sizesOf(frames);
  const packed = COLUMN_NAMES.map((name) => {
    const { of, width } = COLUMNS[name];
    const source = frames[name];
    const runs = runsOf(spans[of], width);
    const wide = runs.reduce((sum, [, n]) => sum + n, 0);
    const out = new (source.constructor as new (n: number) => typeof source)(wide * (to - from));
    gather(out, source, width * sizes[of], runs, from, to);
    return [name, out];
  });
  return { columns, from, to, ...(Object.fromEntries(packed) as FrameRows) };
}

/** Puts packed rows where they belong. */
export function unpackRows(frames: Frames, rows: Rows): void {
  const spans = spansOf(frames, rows.columns);
  const sizes = sizesOf(frames);
  for (const name of COLUMN_NAMES) {
    const { of, width } = COLUMNS[name];
    scatter(frames[name], rows[name], width * sizes[of], runsOf(spans[of], width), rows.from, rows.to);
  }
}

type Cells = FrameRows[ColumnName];

// Functions of their own: a loop over arrays of several kinds that goes on from one to the next is compiled again for
// each.
function gather(
  out: Cells,
  source: Cells,
  width: number,
  runs: readonly Run[],
  from: number,
  to: number,
): void {
  let o = 0;
  for (let f = from; f < to; f++)
    for (const [at, n] of runs) for (let k = 0; k < n; k++) out[o++] = source[width * f + at + k]!;
}

function scatter(
  target: Cells,
  source: Cells,
  width: number,
  runs: readonly Run[],
  from: number,
  to: number,
): void {
  let o = 0;
  for (let f = from; f < to; f++)
    for (const [at, n] of runs) for (let k = 0; k < n; k++) target[width * f + at + k] = source[o++]!;
}

const place = new Float64Array(3);

/** Makes row `to` of some columns an earlier row again, carried by a loop's travel (place and turn, 7 numbers). */
export function repeatRow(
  frames: Frames,
  columns: Columns,
  row: number,
  to: number,
  travel: Float64Array,
): void {
  const first = packRows(frames, columns, row, row + 1);
  unpackRows(frames, { ...first, from: to, to: to + 1 });
  const at = to * frames.parts.length;
  const vertices = to * sizesOf(frames).points;
  for (const p of columns.parts) {
    carryPlace(frames.tips, 3 * (at + p), travel);
    for (const { from, to: end, picked } of pointSpans(frames, p))
      for (let v = vertices + from; v < vertices + end; v++)
        if (picked) quatRotate(frames.points, 3 * v, travel, 3, frames.points, 3 * v);
        else carryPlace(frames.points, 3 * v, travel);
  }
  for (const c of columns.colliders) {
    const q = 7 * (to * frames.colliders.length + c);
    carryPlace(frames.placements, q, travel);
    quatMultiply(frames.placements, q + 3, travel, 3, frames.placements, q + 3);
  }
}

const BLENDED = ['rotations', 'translations', 'scales', 'weights', 'points', 'tips'] as const;

/** Makes row `to` a share of the way to a row that was packed, in that row's columns. */
export function blendRow(frames: Frames, rows: Rows, to: number, share: number): void {
  const own = packRows(frames, rows.columns, to, to + 1);
  for (const name of BLENDED) {
    const [a, b] = [own[name], rows[name]];
    const one = b.length / (rows.to - rows.from);
    const at = (to - rows.from) * one;
    if (name === 'rotations')
      for (let k = 0; k < one; k += 4) quatSlerp(a as Float64Array, k, a, k, b, at + k, share);
    else for (let k = 0; k < one; k++) a[k] = (1 - share) * a[k]! + share * b[at + k]!;
  }
  unpackRows(frames, own);
}

function carryPlace(places: Float32Array, at: number, travel: Float64Array): void {
  for (let a = 0; a < 3; a++) place[a] = places[at + a]!;
  quatRotate(place, 0, travel, 3, place, 0);
  for (let a = 0; a < 3; a++) places[at + a] = place[a]! + travel[a]!;
}

/** How a range was begun and closed by several groups: as the slowest and worst of them. */
export function joinStarts(starts: readonly StartReport[]): StartReport {
  const settled = starts.flatMap((s) => s.settled ?? []);
  const loops = starts.flatMap((s) => s.loop ?? []);
  return {
    settled:
      settled.length > 0
        ? {
            seconds: Math.max(...settled.map((s) => s.seconds)),
            still: settled.every((s) => s.still),
            speed: Math.max(...settled.map((s) => s.speed)),
          }
        : null,
    loop:
      loops.length > 0
        ? {
            found: loops.every((l) => l.found),
            laps: Math.max(...loops.map((l) => l.laps)),
            gap: Math.max(...loops.map((l) => l.gap)),
            why: loops.find((l) => !l.found)?.why ?? '',
            blended: Math.max(...loops.map((l) => l.blended)),
          }
        : null,
  };
}

/** Frames without rows: in the arrays of others that nobody needs any more, where they are as long. */
export function emptyFrames(layout: FramesLayout, others?: Frames): Frames {
  const sizes = sizesOf(layout);
  const rooms = COLUMN_NAMES.map((name) => {
    const { of, width, array } = COLUMNS[name];
    const size = layout.count * width * sizes[of];
    const known = others?.[name];
    return [name, known?.length === size ? known : new array(size)];
  });
  return {
    ...layout,
    ...(Object.fromEntries(rooms) as FrameRows),
    startsIn: layout.parts.map(() => []),
    start: { settled: null, loop: null },
    done: 0,
  };
}

/** The layout alone, without rows: what another thread needs to make room. */
export function layoutOf(frames: Frames): FramesLayout {
  const { first, count, joints, scaled, morphs, pointed, readoutNames, parts, colliders } = frames;
  return { first, count, joints, scaled, morphs, pointed, readoutNames, parts, colliders };
}
