export {
  keepSigns,
  motionOf,
  motionSize,
  turnBack,
  worldOf,
  type Motion,
  type MotionJoint,
  type MotionOptions,
} from './motion';
