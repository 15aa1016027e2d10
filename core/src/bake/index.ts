export { bakeClip, bakeGlb, checkBake, defaultBake, type BakeOptions } from './bake';
