export { bakeClip, bakeGlb, bakeRefined, readForBake, recordingFor, type Baked } from './bake';
export { checkBake, DEFAULT_THINNING, defaultBake, type BakeOptions, type Thinning } from './options';
export type { ThinReport } from './thinning';
export {
  bakeClips,
  MANY_NAMES,
  planClips,
  type BakedPiece,
  type ClipPlan,
  type ClipReport,
  type Pieces,
  type SharedOptions,
} from './many';
export { bakeInto, goOnWith, type BakedInto } from './into';
export { thinClip, type ThinClipOptions } from './thinClip';
