import { z } from 'zod';
import { keysOf, setting, settingsOf, valueKeysOf, type SettingTable } from '../../model/settingTable';

/** Hz of hold from which a body follows its animation exactly. */
export const FULL_HOLD = 30;

/** The settings of a soft body, in working order; docs/simulation.md says what each does in numbers. */
export const BODY_SETTINGS = {
  amount: setting(
    'Follow',
    'Amount',
    '%',
    [0, 200],
    [0, 200, 1],
    100,
    false,
    'How much of the simulation shows: 0 is the animation alone, above 100 exaggerates.',
  ),
  hold: setting(
    'Follow',
    'Hold',
    'Hz',
    [0, FULL_HOLD],
    [0, FULL_HOLD, 0.1, 3],
    2,
    false,
    'How fast it comes back to its animation. 0 lets it go; at 30 it follows exactly.',
  ),
  holdDamping: setting(
    'Follow',
    'Hold damping',
    'ratio',
    [0, 4],
    [0, 1.5, 0.01, 0.3],
    0.3,
    false,
    'How soon it stops swinging about its animation, as a ratio of critical.',
  ),
  droop: setting(
    'Swing',
    'Droop',
    '%',
    [0.01, 60],
    [0.1, 40, 0.1, 4],
    4,
    false,
    'How firm it is: how much of its height it sinks when it stands under its own weight.',
  ),
  volume: setting(
    'Swing',
    'Volume kept',
    '%',
    [0, 100],
    [0, 100, 1],
    98,
    false,
    'How much what is pressed in at one place bulges at another: Poisson’s ratio, up to 0.49.',
  ),
  damping: setting(
    'Swing',
    'Damping',
    'ratio',
    [0, 4],
    [0, 1, 0.01, 0.2],
    0.15,
    false,
    'How soon it stops wobbling, as a ratio of critical of its first wobble.',
  ),
  density: setting(
    'Weight and air',
    'Density',
    'kg/l',
    [0.001, 20],
    [0.05, 3, 0.01, 0.6],
    0.6,
    false,
    'How heavy it is against what it meets. Water has 1.',
  ),
  gravity: setting(
    'Weight and air',
    'Gravity',
    '×',
    [-4, 4],
    [0, 2, 0.05, 1],
    1,
    false,
    'How much of the shot’s gravity pulls it.',
  ),
  swell: setting(
    'Weight and air',
    'Volume',
    '×',
    [0.05, 20],
    [0.2, 10, 0.05, 1],
    1,
    false,
    'How many times its volume at rest it wants to fill. Key it to let it swell.',
  ),
  drag: setting(
    'Weight and air',
    'Air drag',
    '×',
    [0, 20],
    [0, 4, 0.05, 1],
    0,
    false,
    'How hard the air presses where it blows on to it. 0 feels no wind; a flat side has about 1.',
  ),
  thickness: setting(
    'Contact',
    'Thickness',
    'm',
    [1e-5, 10],
    [0.001, 0.05, 0.0005, 0.01],
    0.005,
    false,
    'Distance it keeps from what it touches, in which it presses.',
  ),
  friction: setting(
    'Contact',
    'Friction',
    '',
    [0, 4],
    [0, 1.5, 0.01, 0.5],
    0.5,
    false,
    'Coulomb’s coefficient. What acts is the mean of it and that of what it touches.',
  ),
} as const satisfies SettingTable;

export type BodySettingKey = keyof typeof BODY_SETTINGS;
export const BODY_SETTING_KEYS: readonly BodySettingKey[] = keysOf(BODY_SETTINGS);
export const BodySettings = settingsOf<BodySettingKey>(BODY_SETTINGS);
export type BodySettings = z.infer<typeof BodySettings>;
export const BodyKeys = valueKeysOf<BodySettingKey>(BODY_SETTINGS);

const G = 9.81;

/** kg/m³, of kg/l. */
export const densityOf = (perLitre: number): number => 1000 * perLitre;

/** Pa: Young's modulus of a column that its own weight makes shorter by a droop (%): the mean strain is ρ g H / 2E. */
export const youngOf = (droop: number, density: number, height: number): number =>
  (density * G * height * 100) / (2 * droop);
