import { minds, type PartBase } from '../../model/index';
import type { ChainPart } from './document';
import type { ChainSettingKey } from './settings';

/** What of a shot decides whether a setting of a chain can have an effect. */
export interface Surroundings {
  readonly gravity: readonly number[];
  readonly airDensity: number;
  readonly colliders: Readonly<Record<string, { readonly muted: boolean }>>;
}

/** Why a setting of a chain has no effect as things stand, or null when it has one. */
export function inertBecause(part: ChainPart, key: ChainSettingKey, shot: Surroundings): string | null {
  const off = (k: ChainSettingKey) => part.settings[k] === 0 && !(part as PartBase).keys[k]?.length;
  const touchesNothing =
    Array.isArray(part.collidesWith.parts) &&
    part.collidesWith.parts.length === 0 &&
    Object.entries(shot.colliders).every(([id, c]) => c.muted || !minds(part.collidesWith.colliders, id));
  switch (key) {
    case 'friction':
    case 'bounce':
      return touchesNothing ? 'It collides with nothing: choose under Collides with.' : null;
    case 'thickness':
      return touchesNothing && (off('drag') || shot.airDensity === 0)
        ? 'Nothing touches it and no air takes hold of it.'
        : null;
    case 'drag':
    case 'lift':
      if (shot.airDensity === 0) return 'The shot has no air: set its density under World.';
      return off('thickness') ? 'Without thickness no air takes hold: give it some under Contact.' : null;
    case 'stretchSoftness':
      return off('stretch') ? 'It does not stretch: set Stretch above 0.' : null;
    case 'overlapGain':
    case 'overlapLag':
      return off('overlap') ? 'No swing is handed down: set Overlap above 0.' : null;
    case 'gravity':
      return shot.gravity.every((g) => g === 0) ? 'The shot has no gravity: set it under World.' : null;
    case 'delayPerJoint':
      return part.joints.length === 1 ? 'It has one joint only.' : null;
    case 'amount':
      return null;
    default:
      return off('amount') ? 'Amount is 0: only the source shows.' : null;
  }
}
