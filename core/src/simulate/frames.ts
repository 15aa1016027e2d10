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
  /** count × chains: 1 + index in `colliders` of what it stands deepest in, 0 when in none. */
  readonly deepIn: Uint16Array;
  readonly slip: Float32Array;
  /** count × chains: where it presses hardest, in links from the root; meaningless where nothing presses. */
  readonly contactAt: Float32Array;
  /** count × chains: largest share by which a link is longer or shorter than its source; kinetic energy, J. */
  readonly stretch: Float32Array;
  readonly energy: Float32Array;
  /** count × colliders × 7: place (m) and turn of each collider in the world. */
  readonly placements: Float32Array;
  /** For each chain, the colliders it stood in when the simulation began. */
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
    contactAt: c,
    depth: c,
    deepIn: c,
    slip: c,
    stretch: c,
    energy: c,
    placements: 7 * layout.colliders.length,
  };
}

export type FrameRows = Pick<Frames, keyof ReturnType<typeof rowWidths>>;

/** Some columns of frames, by index of chain and of collider, rising. */
export interface Columns {
  readonly chains: readonly number[];
  readonly colliders: readonly number[];
}

/** Some columns of rows from..to−1, row after row without gaps. */
export interface Rows extends FrameRows {
  readonly columns: Columns;
  readonly from: number;
  readonly to: number;
}

type Key = keyof FrameRows;

/** Where in a row some columns begin, and how many numbers they have. */
type Span = readonly [at: number, n: number];

/** Where in a row of each array some columns stand. */
function spansOf(layout: FramesLayout, { chains, colliders }: Columns): Record<Key, Span[]> {
  const joints = (width: number) =>
    chains.map((c): Span => [width * layout.chains[c]!.from, width * layout.chains[c]!.length]);
  const each = (list: readonly number[], width: number) => list.map((c): Span => [width * c, width]);
  const one = each(chains, 1);
  return {
    rotations: joints(4),
    translations: joints(3),
    stray: one,
    tipStray: one,
    tips: each(chains, 3),
    contacts: one,
    contactAt: one,
    depth: one,
    deepIn: one,
    slip: one,
    stretch: one,
    energy: one,
    placements: each(colliders, 7),
  };
}

/** Copies of some columns of some rows. */
export function packRows(frames: Frames, columns: Columns, from: number, to: number): Rows {
  const spans = spansOf(frames, columns);
  const packed = Object.entries(rowWidths(frames)).map(([name, width]) => {
    const key = name as Key;
    const source = frames[key];
    const wide = spans[key].reduce((sum, [, n]) => sum + n, 0);
    const out = new (source.constructor as new (n: number) => typeof source)(wide * (to - from));
    gather(out, source, width, spans[key], from, to);
    return [key, out];
  });
  return { columns, from, to, ...(Object.fromEntries(packed) as FrameRows) };
}

/** Puts packed rows where they belong. */
export function unpackRows(frames: Frames, rows: Rows): void {
  const spans = spansOf(frames, rows.columns);
  for (const [name, width] of Object.entries(rowWidths(frames))) {
    const key = name as Key;
    scatter(frames[key], rows[key], width, spans[key], rows.from, rows.to);
  }
}

type Cells = FrameRows[Key];

// Functions of their own: a loop over arrays of several kinds that goes on from one to the next is compiled again for each.
function gather(
  out: Cells,
  source: Cells,
  width: number,
  spans: readonly Span[],
  from: number,
  to: number,
): void {
  let o = 0;
  for (let f = from; f < to; f++)
    for (const [at, n] of spans) for (let k = 0; k < n; k++) out[o++] = source[width * f + at + k]!;
}

function scatter(
  target: Cells,
  source: Cells,
  width: number,
  spans: readonly Span[],
  from: number,
  to: number,
): void {
  let o = 0;
  for (let f = from; f < to; f++)
    for (const [at, n] of spans) for (let k = 0; k < n; k++) target[width * f + at + k] = source[o++]!;
}

/** How a range was begun and closed by several groups: as the slowest and worst of them. */
export function joinStarts(starts: readonly StartReport[]): StartReport {
  const settled = starts.flatMap((s) => s.settled ?? []);
  const loops = starts.flatMap((s) => s.loop ?? []);
  return {
    settled:
      settled.length > 0
        ? { seconds: Math.max(...settled.map((s) => s.seconds)), still: settled.every((s) => s.still) }
        : null,
    loop:
      loops.length > 0
        ? {
            found: loops.every((l) => l.found),
            laps: Math.max(...loops.map((l) => l.laps)),
            gap: Math.max(...loops.map((l) => l.gap)),
            why: loops.find((l) => !l.found)?.why ?? '',
          }
        : null,
  };
}

/** Frames without rows: in the arrays of others that nobody needs any more, where they are as long. */
export function emptyFrames(layout: FramesLayout, others?: Frames): Frames {
  const { count } = layout;
  const widths = rowWidths(layout);
  const room = <T extends Float64Array | Float32Array | Uint16Array>(
    key: Key,
    make: new (size: number) => T,
  ): T => {
    const size = count * widths[key];
    return others?.[key].length === size ? (others[key] as T) : new make(size);
  };
  return {
    ...layout,
    rotations: room('rotations', Float64Array),
    translations: room('translations', Float64Array),
    stray: room('stray', Float32Array),
    tipStray: room('tipStray', Float32Array),
    tips: room('tips', Float32Array),
    contacts: room('contacts', Uint16Array),
    contactAt: room('contactAt', Float32Array),
    depth: room('depth', Float32Array),
    deepIn: room('deepIn', Uint16Array),
    slip: room('slip', Float32Array),
    stretch: room('stretch', Float32Array),
    energy: room('energy', Float32Array),
    placements: room('placements', Float32Array),
    startsIn: layout.chains.map(() => []),
    start: { settled: null, loop: null },
    done: 0,
  };
}
