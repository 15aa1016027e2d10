export { readUsda } from './read';
export { writeUsda } from './write';
export { writePointsUsda, type MovingCurves, type MovingMesh, type MovingMeshes } from './points';
