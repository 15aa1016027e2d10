export { eulerFrom, eulerTo } from './euler';
export { extremes, sizeOf, thinChannel, worstError, type ThinOptions } from './thin';
