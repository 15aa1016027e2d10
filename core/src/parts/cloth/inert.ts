import { minds } from '../../model/index';
import type { SheetPart } from './document';
import type { ClothSettingKey } from './settings';

/** What of a shot decides whether a setting of a cloth can have an effect. */
interface Around {
  readonly gravity: readonly number[];
  readonly airDensity: number;
  readonly loop: boolean;
  readonly start: string;
  readonly preRollSeconds: number;
  readonly colliders: Readonly<Record<string, { readonly id: string; readonly muted: boolean }>>;
}

/** Why a setting of a cloth, or of a `string` (lines alone), has no effect as things stand, or null. */
export function clothInert(
  part: Pick<SheetPart, 'settings' | 'keys' | 'collidesWith'>,
  shot: Around,
  key: ClothSettingKey,
  threads = true,
  closed = true,
  string = false,
): string | null {
  const off = (k: ClothSettingKey) => part.settings[k] === 0 && !part.keys[k]?.length;
  const { colliders, parts } = part.collidesWith;
  const touchesNothing =
    Object.values(shot.colliders).every((c) => c.muted || !minds(colliders, c.id)) &&
    Array.isArray(parts) &&
    parts.length === 0;
  const matter = ['weight', 'stretch', 'compression', 'shear', 'bend'].includes(key);
  if (matter && (part.keys[key]?.length ?? 0) > 1)
    return 'Its keys are read on the first frame alone: what a cloth is made of stays the same on the way.';
  switch (key) {
    case 'amount':
      return null;
    case 'thickness':
    case 'friction':
      return touchesNothing ? 'It collides with nothing: add colliders under World.' : null;
    case 'drag':
    case 'lift':
      if (string && key === 'lift') return 'A string has no side that air could lift.';
      return shot.airDensity === 0 ? 'The shot has no air: set its density under World.' : null;
    case 'gravity':
      return shot.gravity.every((g) => g === 0) ? 'The shot has no gravity: set it under World.' : null;
    case 'filling':
      return closed ? null : 'No piece of its mesh is closed all round, so nothing can fill it.';
    case 'pressure':
    case 'float':
      if (!closed) return 'No piece of its mesh is closed all round, so nothing can fill it.';
      return off('filling') ? 'Nothing fills it: raise Filling.' : null;
    case 'holdDamping':
      return off('hold') ? 'Nothing pulls it to its animation: raise Hold.' : null;
    case 'settle':
      if (shot.loop) return 'The shot loops: its cloth has no beginning to settle before.';
      return shot.start === 'settled' || (shot.start === 'wait' && shot.preRollSeconds > 0)
        ? 'The whole shot waits or settles before its first frame already: see World.'
        : null;
    case 'shear':
      if (!threads) return 'Its mesh has no texture coordinates, so which way its threads run is not known.';
      return off('stretch') && off('compression')
        ? 'It neither stretches nor gives way, so its diagonals do not either: raise Stretch or Compression.'
        : null;
    case 'inner':
      return part.settings.inner >= 1000 && !part.keys.inner?.length
        ? 'It is longer than anything: shorten it to keep the cloth out of its skin.'
        : null;
    case 'leash':
      return part.settings.leash >= 1000 && !part.keys.leash?.length
        ? 'It is longer than anything: shorten it to keep the cloth near its skin.'
        : null;
    default:
      return off('amount') ? 'Amount is 0: only the skin shows.' : null;
  }
}
