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
