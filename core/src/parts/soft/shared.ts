/** What soft parts are, for everyone: documents, settings and presets. What makes them move stands in index.ts. */
export { makeRegionPart, RegionPart, type Where } from './document';
export { regionInert } from './inert';
export { applyRegionPreset, REGION_PRESETS, regionSettingsFor } from './presets';
export { REGION_SETTINGS, RegionSettings, type RegionSettingKey } from './settings';
