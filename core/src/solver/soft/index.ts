export { makeLattice, type Lattice } from './lattice';
export { bodyNumbers, makeSoftBody, type BodyMatter, type SoftBody } from './body';
export { carryPoints, type BodySkin, type PressNeeds } from './press';
export * from './region';
