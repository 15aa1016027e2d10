/** What hair is drawn from, for the stage and for what grows it. */
export { growArea, growGuides } from './grow';
export { layOutStrands, restPlaces, type StrandsLayout } from './layout';
export { drawnPoints, layLook, planLook, type LookPlan } from './look';
export { combHair, COMBS, mirroredOnto, mirrorPartners, resample, type Comb, type CombDab } from './brush';
export { fitPose, type FittedPose } from './fitPose';
export { posedGroom, posedHair, skinAt, type PosedHair } from './posed';
export { lineOfJoints, linesFor, takeGuides } from './take';
export { lineToRest } from './turns';
