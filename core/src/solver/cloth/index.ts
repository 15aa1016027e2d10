export { clothNumbers, makeCloth, type Cloth, type SheetStep } from './cloth';
export { wholeStep, type StepBody } from './probe';
export { type SheetMatter } from './setup';
