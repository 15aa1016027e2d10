export { makeCloth, type Cloth, type SheetStep } from './cloth';
export { type Fill } from './filling';
export { bodyNumbers } from './contact';
export { wholeStep, type StepBody } from './stepBody';
export { type SheetMatter } from './setup';
