export { readUsda } from './read';
export { writeUsda } from './write';
