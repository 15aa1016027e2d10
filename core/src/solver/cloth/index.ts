export { clothNumbers, makeCloth, type Cloth, type SheetStep } from './cloth';
export { alongEdges, findRims } from './paths';
export { type SheetMatter } from './setup';
export { makeSheet, type Sheet } from './sheet';
