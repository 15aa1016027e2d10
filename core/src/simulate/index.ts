export { forceField } from './forces';
export { type SourceTrack } from './track';
export { makeTuning } from './chainRun';
export { clipOf, simulate, simulateAll, trackOf, type TrackCache } from './simulate';
export {
  emptyFrames,
  rowWidths,
  type ChainColumns,
  type FrameRows,
  type Frames,
  type FramesLayout,
  type StartReport,
} from './frames';
export { stepsAFrame } from './steps';
