export { sin, cos, exp, acos, atan2 } from './trig';
export {
  quatMultiply,
  quatConjugate,
  quatNormalise,
  quatRotate,
  quatBetween,
  quatSlerp,
  quatFromAxis,
  quatAngle,
  quatPower,
} from './quat';
export { matCompose, matMultiply, matInvert, matDecompose, matRotation } from './mat4';
export { mulberry32 } from './random';
export { blendRows } from '../kernel/rows';
export { makeSwirl, smoothNoise } from './noise';
export { norm } from './norm';
export { symmetricEigen } from './eigen';
export { cubeRoot } from './root';
