export { fitFeel, measureFeel, type AskedFeel, type Feel, type FittedFeel } from './feel';
export { fitPartFeel, partFeel } from './part';
export { loopGap } from './loopGap';
export { peakAcceleration } from './acceleration';
export { roughness } from './roughness';
export { measureShot, type ShotFeel } from './shotFeel';
export { applyRemedy, diagnose, type Diagnosis, type Remedy } from './diagnose';
