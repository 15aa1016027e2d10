export { LIMITS, type Container } from './container';
export { openContainer, readMotion } from './open';
export { containerOf } from './fromMotion';
export { readContainer, readGltf, type Decoders, type ReadOptions } from './read';
export { addJoints, type JointPlan } from './addJoints';
export { toGlb, writeGlb, type BakedChannel, type BakedClip } from './write';
export type { MeshoptDecoder } from './accessor';
export type { DracoModule } from './draco';
export { loadMeshopt } from './meshopt';
