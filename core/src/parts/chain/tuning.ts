import { makeValueCurve, profileAt } from '../../model/index';
import { lumpMasses, type ChainFeel, type ChainSail, type ChainSkin } from '../../solver/index';
import type { Gravity } from '../kind';
import type { ChainPart } from './document';
import { CHAIN_SETTING_KEYS, linkPlaces, type ChainSettingKey } from './settings';

/** A chain part's settings over time and along its length, as the solver wants them. */
export interface ChainTuning {
  /** The value of a setting at a frame. */
  value(key: ChainSettingKey, frame: number): number;
  /** Its values link by link, by its profile. */
  links(key: ChainSettingKey, frame: number): Float64Array;
  /** Whether it has a profile. */
  varies(key: ChainSettingKey): boolean;
  /** Whether what the solver is tuned with changes in time. */
  readonly keyed: boolean;
  feel(frame: number): ChainFeel;
  masses(frame: number): Float64Array;
  skin(frame: number): ChainSkin;
  sail(frame: number): ChainSail;
}

/** Settings that reach the solver through its tuning. */
const TUNED: readonly ChainSettingKey[] = [
  'hold',
  'bend',
  'damping',
  'stretch',
  'stretchSoftness',
  'gravity',
  'weight',
  'angleLimit',
];

/** Values of a part's profiles, one a link: at its middle for what links have, at its end for what points have. */
function profilesOf(part: ChainPart, lengths: Float64Array): Map<ChainSettingKey, Float64Array> {
  const { middle, end } = linkPlaces(lengths);
  return new Map(
    CHAIN_SETTING_KEYS.flatMap((k) => {
      const p = part.profiles[k];
      return p?.length ? [[k, (k === 'gravity' ? end : middle).map((at) => profileAt(p, at))] as const] : [];
    }),
  );
}

/** Profiles the solver takes as they stand. */
const SOLVED = ['hold', 'bend', 'damping', 'stretch', 'stretchSoftness', 'gravity', 'angleLimit'] as const;

export function makeTuning(part: ChainPart, shot: Gravity, lengths: Float64Array): ChainTuning {
  const n = lengths.length;
  const curves = new Map(
    CHAIN_SETTING_KEYS.flatMap((k) =>
      part.keys[k]?.length ? [[k, makeValueCurve(part.keys[k])] as const] : [],
    ),
  );
  const gravityCurve = shot.gravityKeys.length > 0 ? makeValueCurve(shot.gravityKeys) : null;
  const value = (key: ChainSettingKey, frame: number) =>
    (curves.size > 0 ? curves.get(key)?.(frame) : undefined) ?? part.settings[key];
  const profiles = profilesOf(part, lengths);
  const perLink = (key: ChainSettingKey, frame: number) => {
    const by = profiles.get(key);
    const v = value(key, frame);
    return by ? by.map((x) => x * v) : new Float64Array(n).fill(v);
  };
  const fixed = new Map<ChainSettingKey, Float64Array>();
  const linkValues = (key: ChainSettingKey, frame: number) => {
    if (curves.has(key)) return perLink(key, frame);
    let known = fixed.get(key);
    if (!known) fixed.set(key, (known = perLink(key, frame)));
    return known;
  };
  /** Made once where none of the settings is keyed. */
  const changing = <T>(keys: readonly ChainSettingKey[], make: (frame: number) => T) => {
    if (keys.some((k) => curves.has(k))) return make;
    const known = make(0);
    return () => known;
  };
  return {
    value,
    links: linkValues,
    varies: (key) => profiles.has(key),
    keyed: gravityCurve !== null || TUNED.some((k) => curves.has(k)),
    feel: (frame) => {
      const g = value('gravity', frame) * (gravityCurve?.(frame) ?? 1);
      return {
        hold: value('hold', frame),
        bend: value('bend', frame),
        damping: value('damping', frame),
        stretch: value('stretch', frame) / 100,
        stretchSoftness: value('stretchSoftness', frame),
        gravity: [shot.gravity[0] * g, shot.gravity[1] * g, shot.gravity[2] * g],
        angleLimit: value('angleLimit', frame),
        planar: part.staysInPlane !== 'none',
        profiles: Object.fromEntries(SOLVED.flatMap((k) => (profiles.has(k) ? [[k, profiles.get(k)!]] : []))),
      };
    },
    masses: (frame) => lumpMasses(lengths, linkValues('weight', frame)),
    skin: changing(['thickness', 'friction', 'bounce'], (frame) => ({
      thickness: linkValues('thickness', frame),
      friction: linkValues('friction', frame),
      bounce: value('bounce', frame),
    })),
    sail: changing(['thickness', 'drag', 'lift'], (frame) => {
      const thickness = linkValues('thickness', frame);
      const drag = linkValues('drag', frame);
      const lift = linkValues('lift', frame);
      const catches = thickness.some((t, i) => t > 0 && (drag[i]! > 0 || lift[i]! > 0));
      return { thickness, drag, lift, catches };
    }),
  };
}
