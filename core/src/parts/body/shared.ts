/** What soft bodies are, for everyone: documents, settings and presets. What makes them move stands in index.ts. */
export { startingAt } from './linked';
export { BODY_MAPS, BodyPart, CELLS, makeBodyPart, MOST_STRINGS, type BodyMapKey } from './document';
export { bodyInert } from './inert';
export { applyBodyPreset, BODY_PRESETS, bodySettingsFor } from './presets';
export { BODY_SETTINGS, BodySettings, densityOf, FULL_HOLD, youngOf, type BodySettingKey } from './settings';
