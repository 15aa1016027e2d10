export { readBvh } from './read';
export { bvhNames, writeBvh } from './write';
