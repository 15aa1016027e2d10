export { makeLattice, type Lattice } from './lattice';
export { bodyNumbers, makeSoftBody, type BodyMatter, type SoftBody } from './body';
export * from './region';
