export { clothNumbers, makeCloth, type Cloth, type SheetStep } from './cloth';
export { alongEdges, findRims } from './paths';
export { wholeStep, type StepBody } from './probe';
export { type SheetMatter } from './setup';
export { makeSheet, type Sheet } from './sheet';
