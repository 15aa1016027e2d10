/** What a chain is, for everyone: its document, settings and presets. What makes it move stands in index.ts. */
export { asChain, ChainPart, isChain, makeChainPart, type Pull, type Tie } from './document';
export { applyPreset, Preset, PRESETS } from './presets';
export {
  CHAIN_SETTING_KEYS,
  CHAIN_SETTINGS,
  ChainSettings,
  chainSettingsFor,
  droop,
  initialChainSettings,
  type ChainSettingKey,
} from './settings';
