export { makeCloth, type Cloth, type SheetMatter, type SheetStep } from './cloth';
export { makeSheet, type Sheet } from './sheet';
