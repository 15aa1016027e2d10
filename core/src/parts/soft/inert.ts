import type { RegionPart } from './document';
import type { RegionSettingKey } from './settings';

/** Why a setting of a region has no effect as things stand, or null. */
export function regionInert(
  part: Pick<RegionPart, 'settings' | 'keys'>,
  shot: { readonly gravity: readonly number[] },
  key: RegionSettingKey,
): string | null {
  const off = (k: RegionSettingKey) => part.settings[k] === 0 && !part.keys[k]?.length;
  if (key !== 'amount' && off('amount')) return 'Amount is 0: nothing of the simulation shows.';
  if (key === 'droop' && shot.gravity.every((g) => g === 0))
    return 'The shot has no gravity: set it under World.';
  if (key === 'soften' && part.settings.reach >= 1000) return 'Its reach ends nowhere.';
  return null;
}
