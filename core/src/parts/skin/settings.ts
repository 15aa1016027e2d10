import { z } from 'zod';
import { keysOf, setting, settingsOf, valueKeysOf, type SettingTable } from '../../model/settingTable';

/** The settings of a skin over soft bodies; docs/simulation.md says what each does in numbers. */
export const SKIN_SETTINGS = {
  amount: setting(
    'Follow',
    'Amount',
    '%',
    [0, 200],
    [0, 200, 1],
    100,
    false,
    'How much of what the bodies below it do shows on the skin. 0 leaves it as it is animated.',
  ),
  smoothing: setting(
    'Follow',
    'Smoothing',
    'passes',
    [0, 60],
    [0, 30, 1, 6],
    4,
    false,
    'How far what moves below spreads over the skin: each pass takes half of the mean of a vertex’s neighbours.',
  ),
} as const satisfies SettingTable;

export type SkinSettingKey = keyof typeof SKIN_SETTINGS;
export const SKIN_SETTING_KEYS: readonly SkinSettingKey[] = keysOf(SKIN_SETTINGS);
export const SkinSettings = settingsOf<SkinSettingKey>(SKIN_SETTINGS);
export type SkinSettings = z.infer<typeof SkinSettings>;
export const SkinKeys = valueKeysOf<SkinSettingKey>(SKIN_SETTINGS);
