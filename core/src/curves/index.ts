export { distance, extremes, sizeOf, slopes, thinChannel, type ThinOptions } from './thin';
