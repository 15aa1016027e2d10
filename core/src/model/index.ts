export { OscillumError, type ErrorCode } from './errors';
export { lengthText, lengthUnit } from './lengths';
export {
  keysOf,
  SETTING_GROUPS,
  shareAlong,
  sliderOf,
  valueAlong,
  type SettingGroup,
  type SettingInfo,
  type SettingTable,
} from './settingTable';
export { makeWeightMap, putShares, readWeightMap, WeightMap } from './weightMap';
export {
  inOrder,
  MAX_ROW_JOINTS,
  Minds,
  mindedIds,
  minds,
  withMinded,
  withoutMinded,
  type AnchorPose,
  type Claim,
  type Onto,
  type PartBase,
  type PartDocument,
} from './part';
export {
  documentId,
  documentName,
  frameNumber,
  vector,
  PartId,
  ColliderId,
  ForceId,
  Collider,
  Force,
  AddedMotion,
  AddedMotionId,
  type ColliderShape,
  MeshRegion,
  type JointRef,
} from './world';
export {
  makeValueCurve,
  makeValueIntegral,
  profileAt,
  ValueKeys,
  type ValueKey,
  withKey,
  type Profile,
} from './curves';
export {
  ChannelRef,
  KeyOptions,
  RefineLayer,
  Refinement,
  type CopiedKey,
  type RefineTool,
  type Seen,
} from './refine';
