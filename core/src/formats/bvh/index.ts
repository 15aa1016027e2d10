export { readBvh } from './read';
export { writeBvh } from './write';
