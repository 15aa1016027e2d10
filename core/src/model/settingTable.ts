import { z } from 'zod';
import { Profile, ValueKeys } from './curves';

/** What a setting is, for sliders, command line help and docs. Values in files are always in `unit`. */
export interface SettingInfo {
  readonly label: string;
  readonly unit: string;
  readonly min: number;
  readonly max: number;
  /** The range of the slider: where most work happens. */
  readonly sliderMin: number;
  readonly sliderMax: number;
  readonly step: number;
  /** What stands half way along the slider: the values used most have half of it. */
  readonly sliderMiddle: number;
  readonly initial: number;
  readonly group: SettingGroup;
  /** Whether it can have a profile from root to tip. */
  readonly profile: boolean;
  /** What more of it does, to the eye. */
  readonly says: string;
}

export const SETTING_GROUPS = ['Follow', 'Swing', 'Overlap', 'Weight and air', 'Contact', 'Limits'] as const;
export type SettingGroup = (typeof SETTING_GROUPS)[number];

/** The settings of one kind of part, in working order. */
export type SettingTable<K extends string = string> = { readonly [key in K]: SettingInfo };

/** One row of a table: group and name, unit, range, slider and step, initial value, what it does. */
export const setting = (
  group: SettingGroup,
  label: string,
  unit: string,
  [min, max]: readonly [number, number],
  [sliderMin, sliderMax, step, sliderMiddle = (sliderMin + sliderMax) / 2]: readonly [
    ...[number, number, number],
    middle?: number,
  ],
  initial: number,
  profile: boolean,
  says: string,
): SettingInfo => ({
  ...{ group, label, unit, min, max, sliderMin, sliderMax, step, sliderMiddle },
  ...{ initial, profile, says },
});

/** The keys of a table, in its order. */
export const keysOf = <K extends string>(table: SettingTable<K>): K[] => Object.keys(table) as K[];

/** A number in the range of its setting, with the table's value where there is none. */
const numberOf = (s: SettingInfo) =>
  z
    .number({ error: `${s.label} must be a number in ${s.unit}` })
    .min(s.min, { error: `${s.label} must be at least ${s.min} ${s.unit}` })
    .max(s.max, { error: `${s.label} must be at most ${s.max} ${s.unit}` })
    .default(s.initial);

type Each<K extends string, T> = { [key in K]: T };
const forEach = <K extends string, T>(table: SettingTable<K>, make: (key: K) => T): Each<K, T> =>
  Object.fromEntries(keysOf(table).map((k) => [k, make(k)])) as Each<K, T>;

/** Schema of a part's values, all of them. */
export const settingsOf = <K extends string>(table: SettingTable<K>) =>
  z.strictObject(forEach(table, (k) => numberOf(table[k])));

/** Schema of the multipliers from root to tip, for the settings that take a profile. */
export const profilesOf = <K extends string>(table: SettingTable<K>) =>
  z
    .strictObject(forEach(table, () => Profile.optional()))
    .refine((p) => keysOf(table).every((k) => !(p as Partial<Each<K, Profile>>)[k] || table[k].profile), {
      error: 'This setting has one value for the whole part and takes no profile',
    });

/** Schema of keys in time, in the setting's own unit and range, in place of its value. */
export const valueKeysOf = <K extends string>(table: SettingTable<K>) =>
  z.strictObject(
    forEach(table, (k) => {
      const s = table[k];
      return ValueKeys.refine((keys) => keys.every((v) => v.value >= s.min && v.value <= s.max), {
        error: `A key of ${s.label} lies outside ${s.min} to ${s.max} ${s.unit}`,
      }).optional();
    }),
  );

/** The range of a slider, its step, and the value half way along it. */
export interface Slider {
  readonly min: number;
  readonly max: number;
  readonly step: number;
  readonly middle: number;
}

/**
 * Slider of a setting on a part of this length (m). The table's lengths suit a part of half a metre;
 * for others they are ten, a hundred … times as large or small.
 */
export function sliderOf(info: SettingInfo, length: number): Slider {
  const times = info.unit === 'm' && length > 0 ? 10 ** Math.round(Math.log10(length / 0.5)) : 1;
  const rounded = (v: number) => Number((v * times).toPrecision(6));
  return {
    ...{ min: rounded(info.sliderMin), max: rounded(info.sliderMax), step: rounded(info.step) },
    middle: rounded(info.sliderMiddle),
  };
}

/** How much slower than the last the first values go by: so that the middle comes half way. */
const bow = ({ min, max, middle }: Slider): number => (max - min) / (middle - min) - 1;

/** The value at a share (0..1) of a slider, on its steps; and the share at which a value stands. */
export function valueAlong(slider: Slider, share: number): number {
  const { min, max, step } = slider;
  const t = Math.min(1, Math.max(0, share));
  const value = min + ((max - min) * t) / (t + bow(slider) * (1 - t));
  const steps = Math.round((value - min) / step);
  return Number(Math.min(max, min + steps * step).toPrecision(6));
}
export function shareAlong(slider: Slider, value: number): number {
  const s = Math.min(1, Math.max(0, (value - slider.min) / (slider.max - slider.min)));
  return (s * bow(slider)) / (1 - s + s * bow(slider));
}
