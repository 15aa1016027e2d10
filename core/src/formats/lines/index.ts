export { readLines, type Lines } from './read';
