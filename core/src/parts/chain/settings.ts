import { z } from 'zod';
import {
  keysOf,
  profilesOf,
  setting,
  settingsOf,
  valueKeysOf,
  type SettingTable,
} from '../../model/settingTable';

/**
 * The settings of a chain, in working order. Meanings are physical and carry over between frame rates, sizes and
 * joint counts; docs/simulation.md defines each.
 */
export const CHAIN_SETTINGS = {
  amount: setting(
    'Follow',
    'Amount',
    '%',
    [0, 200],
    [0, 200, 1],
    100,
    true,
    'How much of the simulated motion shows: 0 is the source, 100 the simulation, more exaggerates it.',
  ),
  hold: setting(
    'Follow',
    'Hold',
    'Hz',
    [0, 30],
    [0, 8, 0.05, 2],
    1.6,
    true,
    'Pulls every link back to where its source points. More is snappier and stays closer.',
  ),
  delayPerJoint: setting(
    'Follow',
    'Delay per joint',
    'frames',
    [0, 30],
    [0, 4, 0.1, 1],
    0,
    true,
    'Each link chases a pose this many frames older than the one before it. More makes a longer wave.',
  ),
  travel: setting(
    'Follow',
    'Travel response',
    '%',
    [-300, 300],
    [-100, 200, 1],
    100,
    true,
    'How much of the body’s travel the chain feels. 0 rides along, below 0 leans the other way.',
  ),
  turn: setting(
    'Follow',
    'Turn response',
    '%',
    [-300, 300],
    [-100, 200, 1],
    100,
    true,
    'How much of the body’s turning the chain feels. 0 rides along, above 100 exaggerates.',
  ),
  bend: setting(
    'Swing',
    'Bend',
    'Hz',
    [0, 30],
    [0, 12, 0.05, 3],
    2.4,
    true,
    'Resists bending away from its own shape. More is stiffer, like a quill; less is limp.',
  ),
  damping: setting(
    'Swing',
    'Damping',
    'ratio',
    [0, 4],
    [0, 1.5, 0.01, 0.4],
    0.35,
    true,
    'How soon swinging dies: 0 swings on, 1 comes home without passing the pose.',
  ),
  stretch: setting(
    'Swing',
    'Stretch',
    '%',
    [0, 100],
    [0, 30, 0.5, 8],
    0,
    true,
    'How much longer or shorter a link may get under load. 0 keeps every length.',
  ),
  stretchSoftness: setting(
    'Swing',
    'Stretch softness',
    '×',
    [0.05, 20],
    [0.1, 5, 0.05, 1],
    1,
    true,
    'How easily it stretches: at 1 it takes twice its own weight to reach the limit; more gives sooner.',
  ),
  overlap: setting(
    'Overlap',
    'Overlap',
    '%',
    [0, 400],
    [0, 200, 1],
    0,
    false,
    'How much of the swing of the joint above it (or of its first joint) is handed down along it.',
  ),
  overlapGain: setting(
    'Overlap',
    'Gain per joint',
    '%',
    [0, 300],
    [50, 200, 1],
    120,
    true,
    'How large each joint swings beside the one before it. Above 100 the swing grows toward the tip.',
  ),
  overlapLag: setting(
    'Overlap',
    'Lag per joint',
    'frames',
    [0, 30],
    [0, 6, 0.1, 2],
    1.5,
    true,
    'How much later each joint swings than the one before it. More makes a longer wave.',
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
    [0.01, 2, 0.01, 0.2],
    0.1,
    true,
    'Mass for each metre. More is harder for air and for what it hits to move; a profile makes a heavy tip.',
  ),
  drag: setting(
    'Weight and air',
    'Air drag',
    '×',
    [0, 100],
    [0, 5, 0.05, 1],
    1,
    true,
    'How much air takes hold, on the thickness it has. More trails and is blown further.',
  ),
  lift: setting(
    'Weight and air',
    'Lift',
    '×',
    [0, 100],
    [0, 5, 0.05, 1],
    0,
    true,
    'Push across the air stream on slanting links. More flutters up.',
  ),
  thickness: setting(
    'Contact',
    'Thickness',
    'm',
    [0, 100],
    [0, 0.1, 0.001, 0.02],
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
    [5, 180, 1, 45],
    180,
    true,
    'Largest turn of each link away from its source. Less keeps it tidier; 180 is free.',
  ),
  rootSlide: setting(
    'Limits',
    'Root slide',
    'm',
    [0, 100],
    [0, 0.1, 0.001, 0.02],
    0,
    false,
    'How far the whole chain may slide off its place when the body jerks.',
  ),
} as const satisfies SettingTable;

export type ChainSettingKey = keyof typeof CHAIN_SETTINGS;
export const CHAIN_SETTING_KEYS: readonly ChainSettingKey[] = keysOf(CHAIN_SETTINGS);

export const ChainSettings = settingsOf<ChainSettingKey>(CHAIN_SETTINGS);
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

/** Where the middle and the end of each link stand along a chain, as shares of its length from the root. */
export function linkPlaces(lengths: Float64Array): { middle: Float64Array; end: Float64Array } {
  const total = lengths.reduce((a, b) => a + b, 0);
  let run = 0;
  const middle = new Float64Array(lengths.length);
  const end = new Float64Array(lengths.length);
  lengths.forEach((length, i) => {
    middle[i] = (run + length / 2) / total;
    run += length;
    end[i] = Math.min(1, run / total);
  });
  return { middle, end };
}

/** Settings that vary from root to tip: multipliers. */
export const ChainProfiles = profilesOf<ChainSettingKey>(CHAIN_SETTINGS);
export type ChainProfiles = z.infer<typeof ChainProfiles>;

/** Settings that vary in time: keys, in the setting's own unit, instead of its value. */
export const ChainKeys = valueKeysOf<ChainSettingKey>(CHAIN_SETTINGS);
export type ChainKeys = z.infer<typeof ChainKeys>;
