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
  readonly initial: number;
  readonly group: SettingGroup;
  /** Whether it can have a profile from root to tip. */
  readonly profile: boolean;
  /** What more of it does, to the eye. */
  readonly says: string;
}

export const SETTING_GROUPS = ['Follow', 'Swing', 'Weight and air', 'Contact', 'Limits'] as const;
export type SettingGroup = (typeof SETTING_GROUPS)[number];

/** One row of the table: name and unit, range, slider and step, initial value, what it does. */
const setting = (
  group: SettingGroup,
  label: string,
  unit: string,
  [min, max]: readonly [number, number],
  [sliderMin, sliderMax, step]: readonly [number, number, number],
  initial: number,
  profile: boolean,
  says: string,
): SettingInfo => ({ group, label, unit, min, max, sliderMin, sliderMax, step, initial, profile, says });

/**
 * The settings of a chain, in working order. Meanings are physical and carry over between frame rates, sizes and
 * joint counts; docs/simulation.md defines each.
 */
export const CHAIN_SETTINGS = {
  mix: setting(
    'Follow',
    'Mix',
    '%',
    [0, 100],
    [0, 100, 1],
    100,
    false,
    'How much of the simulated motion shows: 0 is the source, 100 the simulation.',
  ),
  hold: setting(
    'Follow',
    'Hold',
    'Hz',
    [0, 30],
    [0, 8, 0.05],
    1.6,
    true,
    'Pulls every link back to where its source points. More is snappier and stays closer.',
  ),
  delay: setting(
    'Follow',
    'Delay',
    'frames',
    [0, 30],
    [0, 4, 0.1],
    0,
    false,
    'Each link chases a pose this many frames older than the one before it. More makes a longer wave.',
  ),
  travel: setting(
    'Follow',
    'Travel response',
    '%',
    [-300, 300],
    [-100, 200, 1],
    100,
    false,
    'How much of the body’s travel the chain feels. 0 rides along, below 0 leans the other way.',
  ),
  turn: setting(
    'Follow',
    'Turn response',
    '%',
    [-300, 300],
    [-100, 200, 1],
    100,
    false,
    'How much of the body’s turning the chain feels. 0 rides along, above 100 exaggerates.',
  ),
  bend: setting(
    'Swing',
    'Bend',
    'Hz',
    [0, 30],
    [0, 12, 0.05],
    2.4,
    true,
    'Resists bending away from its own shape. More is stiffer, like a quill; less is limp.',
  ),
  damping: setting(
    'Swing',
    'Damping',
    'ratio',
    [0, 4],
    [0, 1.5, 0.01],
    0.35,
    true,
    'How soon swinging dies: 0 swings on, 1 comes home without passing the pose.',
  ),
  stretch: setting(
    'Swing',
    'Stretch',
    '%',
    [0, 100],
    [0, 30, 0.5],
    0,
    true,
    'How much longer or shorter a link may get under load. 0 keeps every length.',
  ),
  softness: setting(
    'Swing',
    'Softness',
    '×',
    [0.05, 20],
    [0.1, 5, 0.05],
    1,
    false,
    'How easily it stretches: at 1 it takes twice its own weight to reach the limit; more gives sooner.',
  ),
  gravity: setting(
    'Weight and air',
    'Gravity',
    '×',
    [-10, 10],
    [-1, 3, 0.05],
    1,
    true,
    'Scale of the shot’s gravity: more droops, below 0 floats.',
  ),
  weight: setting(
    'Weight and air',
    'Weight',
    'kg/m',
    [0.0001, 1000],
    [0.01, 2, 0.01],
    0.1,
    true,
    'Mass for each metre. More is harder for air and for what it hits to move; a profile makes a heavy tip.',
  ),
  drag: setting(
    'Weight and air',
    'Air drag',
    '×',
    [0, 100],
    [0, 5, 0.05],
    1,
    true,
    'How much air takes hold, on the thickness it has. More trails and is blown further.',
  ),
  lift: setting(
    'Weight and air',
    'Lift',
    '×',
    [0, 100],
    [0, 5, 0.05],
    0,
    true,
    'Push across the air stream on slanting links. More flutters up.',
  ),
  thickness: setting(
    'Contact',
    'Thickness',
    'm',
    [0, 100],
    [0, 0.1, 0.001],
    0,
    true,
    'Radius that touches things and that air takes hold of. More keeps a wider distance.',
  ),
  friction: setting(
    'Contact',
    'Friction',
    'μ',
    [0, 4],
    [0, 1.5, 0.01],
    0.4,
    true,
    'How much it clings to what it touches. 0 slides like ice.',
  ),
  bounce: setting(
    'Contact',
    'Bounce',
    'ratio',
    [0, 1],
    [0, 1, 0.01],
    0,
    false,
    'Share of the speed it keeps when it hits something.',
  ),
  angleLimit: setting(
    'Limits',
    'Angle limit',
    '°',
    [1, 180],
    [5, 180, 1],
    180,
    true,
    'Largest turn of each link away from its source. Less keeps it tidier; 180 is free.',
  ),
  shift: setting(
    'Limits',
    'Shift',
    'm',
    [0, 100],
    [0, 0.1, 0.001],
    0,
    false,
    'How far the whole chain may slide off its place when the body jerks.',
  ),
} as const satisfies Record<string, SettingInfo>;

export type ChainSettingKey = keyof typeof CHAIN_SETTINGS;
export const CHAIN_SETTING_KEYS = Object.keys(CHAIN_SETTINGS) as ChainSettingKey[];

const numberOf = (key: ChainSettingKey) => {
  const s = CHAIN_SETTINGS[key];
  return z
    .number({ error: `${s.label} must be a number in ${s.unit}` })
    .min(s.min, { error: `${s.label} must be at least ${s.min} ${s.unit}` })
    .max(s.max, { error: `${s.label} must be at most ${s.max} ${s.unit}` })
    .default(s.initial);
};

export const ChainSettings = z.strictObject({
  mix: numberOf('mix'),
  hold: numberOf('hold'),
  delay: numberOf('delay'),
  travel: numberOf('travel'),
  turn: numberOf('turn'),
  bend: numberOf('bend'),
  damping: numberOf('damping'),
  stretch: numberOf('stretch'),
  softness: numberOf('softness'),
  gravity: numberOf('gravity'),
  weight: numberOf('weight'),
  drag: numberOf('drag'),
  lift: numberOf('lift'),
  thickness: numberOf('thickness'),
  friction: numberOf('friction'),
  bounce: numberOf('bounce'),
  angleLimit: numberOf('angleLimit'),
  shift: numberOf('shift'),
});
export type ChainSettings = z.infer<typeof ChainSettings>;

export const initialChainSettings = (): ChainSettings => ChainSettings.parse({});

/** Length (m) below which gravity would bend a new chain down by more than 16°, and more the shorter it is. */
const DROOPS_BELOW = 0.15;

/**
 * Settings of a chain of this length (m) to begin with: what has a size takes it from the chain's own, and the short
 * ones get less gravity, so that a mouse begins as much in shape as a bird. A single joint has no length.
 */
export const chainSettingsFor = (length: number): ChainSettings => {
  const initial = initialChainSettings();
  if (!(length > 0)) return initial;
  return {
    ...initial,
    gravity: Number((initial.gravity * Math.min(1, length / DROOPS_BELOW)).toPrecision(2)),
    thickness: Number((length * 0.02).toPrecision(2)),
  };
};

/**
 * How far gravity (m/s²) bends an even, level chain of this length (m) down, as the tangent of the angle, roughly: its
 * share of the gravity in which a hanging chain would swing as fast as this one does by hold and bend (Hz), by the
 * first mode of a hanging chain, 1.2024 √(g/L) rad/s. Infinite where nothing holds it.
 */
export const droop = (length: number, gravity: number, hold: number, bend: number): number =>
  gravity / (length * ((2 * Math.PI) / 1.2024) ** 2 * (hold * hold + bend * bend));

/**
 * Slider of a setting on a chain of this length (m): range and step. The table's lengths suit a chain of half a metre;
 * for others they are ten, a hundred … times as large or small.
 */
export function sliderOf(info: SettingInfo, length: number): { min: number; max: number; step: number } {
  const times = info.unit === 'm' && length > 0 ? 10 ** Math.round(Math.log10(length / 0.5)) : 1;
  const rounded = (v: number) => Number((v * times).toPrecision(6));
  return { min: rounded(info.sliderMin), max: rounded(info.sliderMax), step: rounded(info.step) };
}

const keyed = (key: ChainSettingKey) => {
  const s = CHAIN_SETTINGS[key];
  return ValueKeys.refine((keys) => keys.every((k) => k.value >= s.min && k.value <= s.max), {
    error: `A key of ${s.label} lies outside ${s.min} to ${s.max} ${s.unit}`,
  }).optional();
};
type OfEach<T> = { [K in ChainSettingKey]: T };
const forEach = <T>(make: (key: ChainSettingKey) => T) =>
  Object.fromEntries(CHAIN_SETTING_KEYS.map((k) => [k, make(k)])) as OfEach<T>;

/** Settings that vary from root to tip: multipliers. */
export const ChainProfiles = z
  .strictObject(forEach(() => Profile.optional()))
  .refine((p) => CHAIN_SETTING_KEYS.every((k) => !p[k] || CHAIN_SETTINGS[k].profile), {
    error: 'This setting has one value for the whole chain and takes no profile',
  });
export type ChainProfiles = z.infer<typeof ChainProfiles>;

/** Settings that vary in time: keys, in the setting's own unit, instead of its value. */
export const ChainKeys = z.strictObject(forEach(keyed));
export type ChainKeys = z.infer<typeof ChainKeys>;
