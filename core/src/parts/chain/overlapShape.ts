import { makeValueCurve, profileAt } from '../../model/index';
import type { ChainPart } from './document';
import { linkPlaces, type ChainSettingKey } from './settings';

/** How a swing that is handed down arrives at a joint: times as large as its driver's, and frames late. */
export interface Arrival {
  readonly size: number;
  readonly lag: number;
}

/** How the swing arrives at each joint of a chain of these link lengths, at a frame. */
export function overlapOf(part: ChainPart, lengths: Float64Array, frame: number): Arrival[] {
  const { middle } = linkPlaces(lengths);
  const value = (key: ChainSettingKey) =>
    part.keys[key]?.length ? makeValueCurve(part.keys[key])(frame) : part.settings[key];
  const along = (key: ChainSettingKey, i: number) =>
    value(key) * (part.profiles[key]?.length ? profileAt(part.profiles[key], middle[i]!) : 1);
  let size = value('overlap') / 100;
  let lag = 0;
  return Array.from(lengths, (_, i) => {
    // The first joint, where it drives, moves as it is keyed.
    if (i === 0 && part.overlapFrom === 'first') return { size: 1, lag: 0 };
    size *= along('overlapGain', i) / 100;
    lag += Math.max(0, along('overlapLag', i));
    return { size, lag };
  });
}

/** Gain (%) and lag (frames) a joint at which the swing arrives at the tip as asked. */
export function overlapFor(part: ChainPart, lengths: Float64Array, frame: number, tip: Arrival): Arrival {
  const now = overlapOf(part, lengths, frame);
  const joints = now.length - (part.overlapFrom === 'first' ? 1 : 0);
  const end = now[now.length - 1]!;
  const gain = part.settings.overlapGain;
  if (joints < 1 || !(end.size > 0)) return { size: gain, lag: part.settings.overlapLag };
  const lag = end.lag > 0 ? (part.settings.overlapLag * tip.lag) / end.lag : tip.lag / joints;
  return { size: gain * (Math.max(1e-3, tip.size) / end.size) ** (1 / joints), lag };
}
