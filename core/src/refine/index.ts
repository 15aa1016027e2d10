export {
  channelKey,
  denseOf,
  framesOf,
  groundOf,
  keysOf,
  sideOf,
  timeOf,
  type Curves,
  type Ground,
  type Key,
} from './curves';
export { readSlope } from './keys';
export { plainFrame, readCurve, type ReadCurve } from './read';
export { copyKeys, mirrorKeys } from './copy';
export {
  curvesOf,
  isRefined,
  layAll,
  layStep,
  misfits,
  refineClip,
  rememberCurves,
  type Misfit,
} from './layer';
