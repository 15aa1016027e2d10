export { makeLattice, type Lattice } from './lattice';
export { bodyNumbers, makeSoftBody, type BodyMatter, type SoftBody } from './body';
export { boxOf, carryPoints, type BodySkin, type PressNeeds } from './press';
export * from './region';
