/**
 * What is compiled: each takes where its fields lie (see numbers.ts). The same functions, called with objects, are the
 * reference.
 */
export { pressAir } from './air';
export { buildBase } from './chain/base';
export { placeSource } from './chain/source';
export { stepChain } from './chain/step';
export { aimBend, turnNormals } from './cloth/bend';
export { bendCords } from './cloth/cords';
export { bendBack } from './cloth/bendPaths';
export { blowCloth } from './cloth/air';
export { keepLengths } from './cloth/lengths';
export { finishCloth, predictCloth } from './cloth/advance';
export { keepLeash, readyTouches } from './cloth/move';
export { findSelf, partSelf } from './cloth/self';
export { stepRegion } from './soft/region';
export { solveBody } from './soft/body';
export { blowStrands } from './strands/air';
export { predictStrands, solveStrands } from './strands/step';
export { searchLinks } from './search/search';
export {
  findTouches,
  finishTouches,
  measureTouches,
  pushOut,
  reactTouches,
  startInside,
} from './touch/touch';
export { readContactRows, writeContactRows } from './touches';
export { turnLinks } from './turns';
