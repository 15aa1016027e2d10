export { documentOf, drivenSetting, nodesOf, Part, type KindName } from '../parts/documents';
export {
  SHOT_VERSION,
  Shot,
  Take,
  TUNED_FIELDS,
  asTaken,
  CharacterHash,
  parseShot,
  makeShot,
  actionRange,
  partsInOrder,
  preRollFrames,
  lastFrame,
  type TakeMeasure,
  type NewShot,
} from './shot';
export { Edit, editName, editShot, applyEdit, invertEdit } from './edit';
export { keepFeel, setScale } from './scale';
export { mendShot } from './whole';
export { channelsOf, liveAgain, movesPoints, playsKeys, readsMesh } from './held';
