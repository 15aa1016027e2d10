/** What a chain is, for everyone: its document, settings and presets. What makes it move stands in index.ts. */
export { asChain, ChainPart, isChain, makeChainPart, type Pull, type Spring, type TipPin } from './document';
export { inertBecause } from './inert';
export { overlapFor, overlapOf, type Arrival } from './overlapShape';
export { applyPreset, Preset, PRESETS, suggestPreset } from './presets';
export {
  CHAIN_SETTING_KEYS,
  CHAIN_SETTINGS,
  ChainSettings,
  chainSettingsFor,
  droop,
  initialChainSettings,
  linkPlaces,
  type ChainSettingKey,
} from './settings';
