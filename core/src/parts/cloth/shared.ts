/** What a cloth is, for everyone: its document, settings and presets. What makes it move stands in index.ts. */
export {
  ClothPart,
  makeClothPart,
  MAPPED,
  MAPS,
  type Hold,
  type MapKey,
  type SheetPart,
  type ClothPull,
  type Tie,
} from './document';
export { makePanelPart, PanelPart } from './panelDocument';
export { clothInert } from './inert';
export {
  applyClothPreset,
  CLOTH_PRESETS,
  clothSettingsFor,
  STRING_PRESETS,
  stringSettingsFor,
} from './presets';
export { CLOTH_SETTINGS, ClothSettings, type ClothSettingKey } from './settings';
