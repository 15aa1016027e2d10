export { compareMotions, type Comparison } from './compare';
export {
  clipMotion,
  MOTION_FORMATS,
  unitOf,
  writeMotion,
  type MotionFile,
  type MotionFileOptions,
  type MotionFormat,
} from './files';
export { measuredTable, motionTable, toCsv, type Table } from './table';
