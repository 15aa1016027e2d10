/** What a pendulum is, for everyone: its document, settings and presets. What makes it move stands in index.ts. */
export { makePendulumPart, PendulumPart, type Input, type Output, type Target } from './document';
export {
  PENDULUM_SETTING_KEYS,
  PENDULUM_SETTINGS,
  PendulumSettings,
  type PendulumSettingKey,
} from './settings';
export { applyPendulumPreset, PENDULUM_PRESETS, signalKeys, type PendulumPreset } from './presets';
export { softly } from './limits';
