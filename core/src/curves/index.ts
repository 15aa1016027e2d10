export { extremes, sizeOf, thinChannel, worstError, type ThinOptions } from './thin';
