export { readBvh } from './read';
export { writeBvh, type WrittenBvh } from './write';
