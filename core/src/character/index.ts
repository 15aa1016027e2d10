export {
  guessFps,
  type Channel,
  type Character,
  type CharacterNode,
  type Clip,
  type Material,
  type Mesh,
  type Note,
  type Picture,
  type Primitive,
  type Skin,
} from './character';
export {
  makePose,
  rootMatrix,
  sampleChannel,
  samplePose,
  updateWorld,
  worldMatrices,
  type Pose,
  turnAbout,
} from './pose';
export { coarserTriangles, simplifiedTriangles } from './simplify';
export {
  addMorphs,
  meshLines,
  meshTriangles,
  morphedVertices,
  skinMoved,
  skinVertices,
  unskinMoves,
  unskinVertices,
} from './skinning';
export { alongPath, findStrands, meshAtRest, strandWeights, type StrandPath } from './strand';
export { questionUnit, unitFrom, type FileUnit, type LikelyUnit } from './unit';
export { endLink, restWorld, rigSize, rowLength, rowLengths } from './size';
export { jointChildren, rowBetween, rowForks, rowToTip } from './rows';
export { branchesBelow, limbIn, suggestChains } from './suggest';
