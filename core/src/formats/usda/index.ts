export { readUsda } from './read';
export { writeUsda, type UsdaOptions } from './write';
