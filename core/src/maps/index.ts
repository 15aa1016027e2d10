export {
  BRUSHES,
  fallOff,
  gradient,
  grown,
  inverted,
  mirrored,
  softened,
  Stroke,
  type Brush,
  type BrushKind,
} from './brush';
export { fromRims, makePaintMesh, partnersOf, toPoints, toVertices, type PaintMesh } from './mesh';
export { fromColours, fromJoint, fromMaterial, fromPoint, inLasso, sourcesOf, type Sources } from './fills';
export { softness } from './softness';
export { carryShares } from './nearest';
