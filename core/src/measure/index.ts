export { fitFeel, measureFeel, type AskedFeel, type Feel, type FittedFeel } from './feel';
export { fitPartFeel, partFeel } from './part';
export { loopGap, peakAcceleration, roughness } from './motion';
export { measureShot, type ShotFeel } from './shotFeel';
export { applyRemedy, diagnose, type Diagnosis, type Remedy } from './diagnose';
