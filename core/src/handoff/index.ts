export { applyMotion, type Applied } from './applyMotion';
export { compareMotions, isSame, troubleIn, WITHIN, WITHIN_DEGREES, type Comparison } from './compare';
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
export {
  CARDS,
  HAIR_JOINTS,
  checkPlan,
  clipPlans,
  HAND_OFF_FORMATS,
  handOff,
  LABELS,
  zipFiles,
  type FileCheck,
  type HandedOff,
  type HandOffFile,
  type HandOffFormat,
  type HandOffPlan,
} from './handOff';
export {
  DEFAULT_HAIR,
  MOST_CARD_JOINTS,
  MOST_CARDS,
  MOST_STRANDS,
  writeCards,
  type HairChoice,
  type Cards,
} from './cards';
export { POINT_FORMATS } from './files';
export { writePoints } from './points';
export { weighFits, type Weighed } from './costs';
