export { bakeClip, bakeGlb, bakeRefined, readForBake, recordingFor, type Baked } from './bake';
export {
  checkBake,
  DEFAULT_FIT,
  DEFAULT_JOINTS,
  DEFAULT_THINNING,
  defaultBake,
  MOST_SHAPES,
  type BakeOptions,
  type Thinning,
  type VertexFit,
} from './options';
export { clipAsPlayed, type FitReport } from './fitMorphs';
export { asPlaces } from './pointKeys';
export { fitCosts, type FitCost } from './writeFitted';
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
export { normalsOf, positionsOf, samePlaces } from './normals';
