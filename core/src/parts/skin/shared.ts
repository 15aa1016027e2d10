/** What skins over soft bodies are, for everyone. What makes them move stands in index.ts. */
export { makeSkinPart, MOST_BELOW, SkinPart, type Below } from './document';
export { SKIN_SETTINGS, SkinSettings } from './settings';
