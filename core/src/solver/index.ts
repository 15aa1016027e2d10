export { makeChainSolver, type ChainSolver, type SourceRows } from './chain';
export { CONTACT, CONTACT_ROW } from './contactRow';
export { makeAir, type Air, type ChainSail, type Field } from './air';
export {
  carryBody,
  finishBody,
  makeBody,
  predictBody,
  restBody,
  toBody,
  type Body,
  type LinkBody,
  type SoftBodySkin,
} from './bodies';
export { collideBodies } from './collide';
export { makeChainContacts, type ChainContacts, type ChainSkin } from './contacts';
export { boundOf, nearestOnSegment, type Shape } from './shapes';
export { searchNumbers } from './search';
export { makeSurface, type Surface } from './surface';
export { makeLinkTurns, type LinkTurns } from './turns';
export { lumpMasses, NO_FEEL, type ChainFeel, type ChainMatter } from './calibrate';
export { chainNumbers, makeArena, type Arena } from './arena';
