export { makeLattice, type Lattice } from './lattice';
export { bodyNumbers, makeSoftBody, type BodyMatter, type SoftBody } from './body';
export { boxOf, carryPoints, type BodySkin, type PressHow, type PressNeeds } from './press';
export { faceOut } from './facing';
export type { BodyString } from './strings';
export * from './region';
