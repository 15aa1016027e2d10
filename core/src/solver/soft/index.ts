export { makeLattice, type Lattice } from './lattice';
export { bodyNumbers, makeSoftBody, type BodyMatter, type SoftBody } from './body';
export type { PressHow, PressNeeds } from './press';
export { boxOf, carryPoints, type BodySkin } from './skin';
export { ShownOut } from './shown';
export type { BodyString } from './strings';
export * from './region';
