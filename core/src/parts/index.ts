export { cellEdges, cellsOf, heldByStrings } from './body/drawn';
export {
  drawnPoints,
  combHair,
  COMBS,
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
  type CombDab,
  type LookPlan,
  type PosedHair,
  type StrandsLayout,
} from './strands/hair';
export { fitColliders } from './fit';
export { kindOf } from './kinds';
export { rowAt, writePlacement, keepSign } from './rows';
export type { AskedFeel, Diagnosis, Feel, FittedFeel, Remedy, ShotFeel } from './diagnosis';
export type {
  ColliderRun,
  Driver,
  Env,
  Hanging,
  Loop,
  MomentRow,
  Moving,
  PartForces,
  PartKind,
  PartLayout,
  PartRun,
  PartSource,
  PartTrack,
  Posed,
  Simulated,
  Source,
  SourceTrack,
} from './kind';
