export {
  carrierOf,
  eachWeight,
  heldPoints,
  likelyHolds,
  sheetOf,
  weighingJoints,
  type Holding,
} from './holds';
export { lengthOf } from './length';
export { bodyUnder, hasLinesAlone, meshesOf, ownJoints, stringsOf, type MeshInfo } from './meshes';
export { alongEdges, findPaths, findRims, type Path } from './paths';
export { regionsOf, verticesIn, type RegionInfo } from './regions';
export { measure as measurePocket, middle, pocketsOf, type Pocket } from './pockets';
export { diagonalsOf } from './threads';
export { boxAbout, cellAt, fillCells, type FilledCells } from './cells';
export { makeSheet, normalsOf, restAt, sumNormals, type Sheet } from './sheet';
