import { z } from 'zod';
import { Profile } from '../../model/curves';
import type { SettingGroup } from '../../model/settingTable';
import { documentName } from '../../model/world';
import type { ChainPart } from './document';
import { CHAIN_SETTING_KEYS, CHAIN_SETTINGS, type ChainSettingKey } from './settings';

const settingKey = z.enum(CHAIN_SETTING_KEYS as readonly [ChainSettingKey, ...ChainSettingKey[]]);

/** Settings to begin from, and when. Sizes (thickness, shift) and weights stay the part's own. */
export const Preset = z.strictObject({
  format: z.literal('oscillum-preset', { error: 'This is not an Oscillum preset' }),
  name: documentName,
  /** When to use it. */
  use: z.string().max(400).default(''),
  settings: z.partialRecord(settingKey, z.number().min(-1e6).max(1e6)),
  profiles: z.partialRecord(settingKey, Profile).default({}),
});
export type Preset = z.infer<typeof Preset>;

const preset = (
  name: string,
  use: string,
  settings: Preset['settings'],
  profiles: Preset['profiles'] = {},
): Preset => ({
  format: 'oscillum-preset',
  name,
  use,
  settings,
  profiles,
});

/** Presets for the parts of a courier bird and its kind. */
export const PRESETS: readonly Preset[] = [
  preset(
    'Sweeping tail',
    'A tail that swings wide after the hips and does not wobble.',
    { hold: 1.1, bend: 1.6, damping: 0.22, delay: 0, travel: 60, turn: 100, gravity: 0.3, angleLimit: 60 },
    {
      hold: [
        [0, 1.6],
        [0.4, 0.8],
        [1, 0.3],
      ],
    },
  ),
  preset('Springy ears', 'Ears or lappets that wobble when touched and hardly answer walking.', {
    hold: 3.2,
    bend: 4,
    damping: 0.12,
    travel: 15,
    turn: 60,
    gravity: 0.2,
  }),
  preset(
    'Long plume',
    'A long feather or ribbon that trails and comes to rest late.',
    { hold: 0.5, bend: 0.8, damping: 0.2, travel: 100, turn: 100, gravity: 0.25, drag: 1.4 },
    {
      hold: [
        [0, 1.8],
        [0.5, 0.7],
        [1, 0.2],
      ],
    },
  ),
  preset('Stiff crest', 'Short feathers or spines that quiver at a stop.', {
    hold: 4.5,
    bend: 6,
    damping: 0.14,
    travel: 80,
    turn: 100,
    gravity: 0,
  }),
  preset('Heavy strap', 'Straps, chains and bags that hang and swing with their weight.', {
    hold: 0,
    bend: 0.3,
    damping: 0.12,
    travel: 100,
    turn: 100,
    gravity: 1,
    drag: 0.4,
    friction: 0.5,
    bounce: 0.05,
  }),
  preset('Floating ribbon', 'Light strands that rise, drift and take every breath of air.', {
    hold: 0.25,
    bend: 0.3,
    damping: 0.5,
    travel: 100,
    turn: 100,
    gravity: -0.1,
    drag: 3,
    lift: 0.6,
  }),
  preset(
    'Flat cut-out',
    'Parts of a flat figure: lively, but never out of the picture plane. Set the plane lock as well.',
    {
      hold: 2,
      bend: 2.6,
      damping: 0.25,
      travel: 100,
      turn: 100,
      gravity: 0.2,
      stretch: 0,
    },
  ),
  preset(
    'Arm overlap',
    'Shoulder, elbow and wrist drag a little, and the hand still arrives.',
    { hold: 5, bend: 2, damping: 0.7, delay: 0.6, travel: 60, turn: 100, gravity: 0 },
    {
      hold: [
        [0, 1.4],
        [0.7, 1],
        [1, 0.7],
      ],
    },
  ),
];

/** Puts a preset on a part: the settings and profiles of the groups asked for. What it keys is no longer keyed. */
export function applyPreset(
  part: ChainPart,
  { settings, profiles }: Preset,
  groups: readonly SettingGroup[],
): void {
  for (const key of CHAIN_SETTING_KEYS) {
    const { group, min, max } = CHAIN_SETTINGS[key];
    const value = settings[key];
    if (value === undefined || !groups.includes(group)) continue;
    part.settings[key] = Math.min(max, Math.max(min, value));
    delete part.keys[key];
    const profile = profiles[key];
    if (profile?.length) part.profiles[key] = profile;
    else delete part.profiles[key];
  }
}
