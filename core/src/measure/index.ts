export { loopGap } from './loopGap';
export { peakAcceleration } from './acceleration';
export { roughness } from './roughness';
export { applyRemedy, diagnose } from './diagnose';
export { fitPartFeel, measureShot, partFeel } from './feel';
export type { AskedFeel, Diagnosis, Feel, FittedFeel, Remedy, ShotFeel } from '../parts/index';
export { lagOf } from '../parts/trailing';
