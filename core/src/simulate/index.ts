export { carryTo, type Elsewhere } from './carry';
export { forceField } from './forces';
export { type Share } from './groups';
export { clipOf } from './clip';
export { makeSource, turnAngle, type ClipSource } from './source';
export { shareColumns, simulate, simulateAll, trackOf, type Recording, type TrackCache } from './simulate';
export { stepsAFrame } from './steps';
export { drivenSource } from './drive';
export { misnamed } from './missing';
