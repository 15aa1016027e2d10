/** What strands are, for everyone: documents, settings and presets. What makes them move stands in index.ts. */
export {
  Growth,
  Look,
  makeStrandsPart,
  StrandsPart,
  type StrandMapKey,
  type StrandPose,
  type StrandPull,
} from './document';
export { lengthOfGuide, makeGroom, MOST_GUIDES, readGroom, type Groom } from './groom';
export { strandsInert } from './inert';
export { applyStrandPreset, STRAND_PRESETS, strandSettingsFor } from './presets';
export { CROWD_PRICE, STRAND_SETTINGS, StrandSettings, type StrandSettingKey } from './settings';
