export { carryTo, type Elsewhere } from './carry';
export { forceField } from './forces';
export { type SourceTrack } from './track';
export { makeTuning } from './chainRun';
export { type Share } from './groups';
export { clipOf } from './clip';
export { makeSource, turnAngle, type Source } from './source';
export { shareColumns, simulate, simulateAll, trackOf, type Recording, type TrackCache } from './simulate';
export type { MomentRow } from './write';
export {
  emptyFrames,
  joinStarts,
  packRows,
  rowWidths,
  unpackRows,
  type ChainColumns,
  type Columns,
  type Frames,
  type FramesLayout,
  type Rows,
  type StartReport,
} from './frames';
export { stepsAFrame } from './steps';
