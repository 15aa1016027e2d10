export {
  makeStrands,
  strandNumbers,
  type Roots,
  type StrandFeel,
  type Strands,
  type StrandShape,
} from './strands';
