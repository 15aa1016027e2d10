export { bakeClip, bakeGlb, recordingFor, type Baked } from './bake';
export { checkBake, DEFAULT_THINNING, defaultBake, type BakeOptions, type Thinning } from './options';
export type { ThinReport } from './thinning';
export { bakeClips, MANY_NAMES, type ClipReport, type SharedOptions } from './many';
export { thinClip, type ThinClipOptions } from './thinClip';
