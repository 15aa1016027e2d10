import type { StrandsPart } from './document';
import { ENDLESS, type StrandSettingKey } from './settings';

/** Why a setting does nothing at the moment, or null. */
export function strandsInert(
  part: StrandsPart,
  shot: { readonly airDensity: number; readonly gravity: readonly number[] },
  key: StrandSettingKey,
): string | null {
  if (key === 'droop' && !part.keepsGroom)
    return 'It does not keep its groom, so it feels all of its weight.';
  if ((key === 'drag' || key === 'lift') && shot.airDensity === 0)
    return 'The air has no density: set it under World.';
  if ((key === 'damping' || key === 'root') && part.settings.hold === 0 && part.settings.bend === 0)
    return 'Nothing holds it: raise Hold or Bend.';
  if ((key === 'crowd' || key === 'along') && part.groom.points.length < 2)
    return 'It is one guide: there is no other hair that it could touch.';
  if (key !== 'amount' && part.settings.amount === 0 && !part.keys.amount?.length)
    return 'Amount is 0: nothing of the simulation shows.';
  if (key === 'leash' && part.settings.leash >= ENDLESS && !part.keys.leash?.length)
    return 'It is so long that nothing comes to its end: give it the length that hair may stray by.';
  if (key === 'gravity' && shot.gravity.every((g) => g === 0))
    return 'The shot has no gravity: set it under World.';
  return null;
}
