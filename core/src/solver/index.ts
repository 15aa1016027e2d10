export { CONTACT, CONTACT_ROW, makeChainSolver, type ChainSolver, type SourceRows } from './chain';
export { blow, type ChainSail, type Field } from './air';
export { carryBody, makeBody, predictBody, toBody, type Body } from './bodies';
export { collideBodies } from './collide';
export { makeChainContacts, type ChainContacts, type ChainSkin } from './contacts';
export { boundOf, type Shape } from './shapes';
export { makeSurface } from './surface';
export { lumpMasses, NO_FEEL, type ChainFeel, type ChainMatter } from './calibrate';
export { chainNumbers, makeArena, type Arena } from './arena';
