export { StrandContacts, touchedNumbers } from './contact';
export { makeStrands, strandNumbers, type StrandFeel, type Strands, type StrandShape } from './strands';
export { StrandLeash } from './leash';
