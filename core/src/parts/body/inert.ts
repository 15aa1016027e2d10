import type { BodyPart } from './document';
import { FULL_HOLD, type BodySettingKey } from './settings';

/** Why a setting of a soft body has no effect as things stand, or null. */
export function bodyInert(
  part: Pick<BodyPart, 'settings' | 'keys' | 'maps'>,
  shot: { readonly gravity: readonly number[]; readonly airDensity: number },
  key: BodySettingKey,
): string | null {
  const { settings, keys, maps } = part;
  const is = (k: BodySettingKey, value: number) => settings[k] === value && !keys[k]?.length;
  if (key !== 'amount' && is('amount', 0)) return 'Amount is 0: nothing of the simulation shows.';
  if (key !== 'hold' && key !== 'amount' && is('hold', FULL_HOLD) && !maps.hold)
    return 'A hold of 30 Hz follows the animation exactly: nothing else acts.';
  if (key === 'holdDamping' && is('hold', 0)) return 'Hold is 0.';
  if (key === 'drag' && shot.airDensity === 0) return 'The air has no density: set it under World.';
  if (key === 'gravity' && shot.gravity.every((g) => g === 0))
    return 'The shot has no gravity: set it under World.';
  return null;
}
