export { carryTo, type Elsewhere } from './carry';
export { airPush } from './airPush';
export {
  cellEdges,
  cellsOf,
  drawnPoints,
  fitPose,
  heldByStrings,
  combHair,
  COMBS,
  growArea,
  growGuides,
  layLook,
  layOutStrands,
  lineOfJoints,
  linesFor,
  lineToRest,
  mirroredOnto,
  mirrorPartners,
  planLook,
  posedGroom,
  posedHair,
  resample,
  restPlaces,
  skinAt,
  takeGuides,
  type Comb,
  type FittedPose,
  type CombDab,
  type LookPlan,
  type PosedHair,
  type StrandsLayout,
} from '../parts/index';
export { layerGaps } from '../solver/cloth/layers';
export { clearances, type Standing } from './clearance';
export { forceField } from './forces';
export { type Share } from './groups';
export { coarseShot, couldBeCoarse } from './coarse';
export { clipOf } from './clip';
export { findCycle, loopTrouble, makeCycle, type CycleFinding } from './cycle';
export { makeSource, motionAmount, type ClipSource } from './source';
export { shareColumns, simulate, simulateAll, trackOf, type Recording, type TrackCache } from './simulate';
export { stepsAFrame } from './steps';
export { drivenSource } from './drive';
export { misnamed } from './missing';
