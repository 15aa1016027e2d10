export { layOutChain, type ChainLayout } from './chain/layout';
export { fitColliders } from './fit';
