import { z } from 'zod';
import { keysOf, setting, settingsOf, valueKeysOf, type SettingTable } from '../../model/settingTable';

/**
 * The settings of a pair of pendulums, in working order. Both hang on the input by springs of their own frequency and
 * are coupled to each other by a third; docs/simulation.md gives the equations.
 */
export const PENDULUM_SETTINGS = {
  amount: setting(
    'Follow',
    'Amount',
    '%',
    [0, 100],
    [0, 100, 1],
    100,
    false,
    'How much of what it drives shows: 0 is the clip alone.',
  ),
  response: setting(
    'Follow',
    'Response',
    '%',
    [-300, 300],
    [0, 200, 1],
    100,
    false,
    'How much of the input is felt. More drives everything further, below 0 the other way.',
  ),
  delay: setting(
    'Follow',
    'Delay',
    'frames',
    [0, 240],
    [0, 24, 0.1],
    0,
    false,
    'Everything answers this many frames later, on top of what each output waits by itself.',
  ),
  frequency: setting(
    'Swing',
    'Frequency',
    'Hz',
    [0.05, 30],
    [0.1, 6, 0.01],
    1.2,
    false,
    'How fast the first pendulum swings. More follows sooner.',
  ),
  damping: setting(
    'Swing',
    'Damping',
    'ratio',
    [0, 4],
    [0, 1.5, 0.01],
    0.4,
    false,
    'How soon the first stops swinging: 0 swings on, 1 comes home without passing.',
  ),
  frequency2: setting(
    'Swing',
    'Second frequency',
    'Hz',
    [0.05, 30],
    [0.1, 6, 0.01],
    0.8,
    false,
    'How fast the second pendulum swings. Slower than the first it comes after it.',
  ),
  damping2: setting(
    'Swing',
    'Second damping',
    'ratio',
    [0, 4],
    [0, 1.5, 0.01],
    0.4,
    false,
    'How soon the second stops swinging.',
  ),
  coupling: setting(
    'Swing',
    'Coupling',
    '×',
    [0, 10],
    [0, 2, 0.01],
    0.2,
    false,
    'How firmly the two are tied to each other: 0 lets each swing alone, more makes them swing as one.',
  ),
} as const satisfies SettingTable;

export type PendulumSettingKey = keyof typeof PENDULUM_SETTINGS;
export const PENDULUM_SETTING_KEYS: readonly PendulumSettingKey[] = keysOf(PENDULUM_SETTINGS);

export const PendulumSettings = settingsOf<PendulumSettingKey>(PENDULUM_SETTINGS);
export type PendulumSettings = z.infer<typeof PendulumSettings>;
export const PendulumKeys = valueKeysOf<PendulumSettingKey>(PENDULUM_SETTINGS);
