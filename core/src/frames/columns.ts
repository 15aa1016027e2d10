/**
 * The one table of what a simulated frame holds. A column belongs to a set of things and has so many numbers for each
 * of them; a row of the column is one frame. Room, packing, sending and repeating of frames all follow from this table.
 */
export const COLUMNS = {
  /** Local rotation of each moved joint, x y z w. */
  rotations: { of: 'joints', width: 4, array: Float64Array },
  /** Local translation, file units. */
  translations: { of: 'joints', width: 3, array: Float64Array },
  /** Local scale of each joint that is scaled. */
  scales: { of: 'scaled', width: 3, array: Float64Array },
  /** Each moved morph weight. */
  weights: { of: 'morphs', width: 1, array: Float64Array },
  /** Place of each moved vertex in the world, m. A loop's travel carries it. */
  points: { of: 'points', width: 3, array: Float32Array },
  /** Readouts that a kind of part has of its own. */
  readouts: { of: 'readouts', width: 1, array: Float32Array },
  /** Largest angle of a link from its source direction, degrees, as shown; of other kinds what stands for it. */
  offSource: { of: 'parts', width: 1, array: Float32Array },
  /** Distance of the tip from its source place, m. */
  tipOffSource: { of: 'parts', width: 1, array: Float32Array },
  /** The tip in the world, m. A loop's travel carries it. */
  tips: { of: 'parts', width: 3, array: Float32Array },
  /** Links that press on something, the most over the frame's substeps. */
  contacts: { of: 'parts', width: 1, array: Uint16Array },
  /** Where it presses hardest, in links from the root; meaningless where nothing presses. */
  contactAt: { of: 'parts', width: 1, array: Float32Array },
  /** Deepest inside something, m. */
  depth: { of: 'parts', width: 1, array: Float32Array },
  /** 1 + index of the collider it stands deepest in, 0 when in none. */
  deepIn: { of: 'parts', width: 1, array: Uint16Array },
  /** Fastest along what it presses on, m/s. */
  slip: { of: 'parts', width: 1, array: Float32Array },
  /** Largest share by which a link is longer or shorter than its source. */
  stretch: { of: 'parts', width: 1, array: Float32Array },
  /** Kinetic energy, J. */
  energy: { of: 'parts', width: 1, array: Float32Array },
  /** Place (m) and turn of each collider in the world, 7 numbers. A loop's travel carries it. */
  placements: { of: 'colliders', width: 7, array: Float32Array },
} as const;

export type ColumnName = keyof typeof COLUMNS;
export const COLUMN_NAMES = Object.keys(COLUMNS) as ColumnName[];

/** The sets that columns belong to. */
export type SetName = (typeof COLUMNS)[ColumnName]['of'];
/** The arrays of a table of frames. */
export type FrameRows = { readonly [K in ColumnName]: InstanceType<(typeof COLUMNS)[K]['array']> };

/** Where in a set something begins, and how many of it there are. */
export interface Span {
  readonly from: number;
  readonly length: number;
}
