export { OscillumError, type ErrorCode } from './errors';
export { lengthText, lengthUnit } from './lengths';
export {
  CHAIN_SETTINGS,
  CHAIN_SETTING_KEYS,
  SETTING_GROUPS,
  ChainSettings,
  initialChainSettings,
  chainSettingsFor,
  droop,
  sliderOf,
  type ChainSettingKey,
  type SettingGroup,
  type SettingInfo,
} from './settings';
export {
  SHOT_VERSION,
  MAX_CHAIN_JOINTS,
  Shot,
  Take,
  TUNED_FIELDS,
  asTaken,
  ChainPart,
  CharacterHash,
  parseShot,
  makeChainPart,
  inOrder,
  makeShot,
  partsInOrder,
  lastFrame,
  type AnchorPose,
  type TakeMeasure,
  type Pull,
  type Tie,
  type NewShot,
} from './shot';
export { Edit, editShot, applyEdit, invertEdit } from './edit';
export {
  PartId,
  ColliderId,
  ForceId,
  Collider,
  Force,
  SourceTurn,
  SourceTurnId,
  type ColliderShape,
  type JointRef,
} from './world';
export { makeValueCurve, profileAt, withKey, type Profile, type ValueKeys } from './curves';
export { applyPreset, Preset, PRESETS } from './presets';
export {
  ChannelRef,
  KeyOptions,
  Refinement,
  type CopiedKey,
  type RefineLayer,
  type RefineTool,
  type Seen,
} from './refine';
