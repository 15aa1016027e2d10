export { layOutChain, type ChainLayout } from './chain/layout';
export { writeTurns } from './chain/turns';
export { fitColliders } from './fit';
