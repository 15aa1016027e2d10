/** What a cloth is, for everyone: its document, settings and presets. What makes it move stands in index.ts. */
export { ClothPart, makeClothPart, MAPPED, MAPS, type Hold, type MapKey } from './document';
export { bodyUnder, clothFor, meshesOf, ownJoints, type MeshInfo } from './make';
export { heldPoints, sheetOf } from './layout';
export { lengthOf } from './length';
export { clothInert } from './inert';
export { applyClothPreset, CLOTH_PRESETS } from './presets';
export { CLOTH_SETTINGS, ClothSettings, type ClothSettingKey } from './settings';
