export { fitFeel, measureFeel, type AskedFeel, type Feel, type FittedFeel } from './feel';
export { fitPartFeel, partFeel } from './part';
export { loopGap, measureShot, peakAcceleration, roughness, type ShotFeel } from './motion';
export { applyRemedy, diagnose, type Diagnosis, type Remedy } from './diagnose';
