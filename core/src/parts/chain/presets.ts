import { z } from 'zod';
import { Profile } from '../../model/curves';
import type { SettingGroup } from '../../model/settingTable';
import { settingsInPlainWords } from '../../model/oldWords';
import { documentName } from '../../model/world';
import type { ChainPart } from './document';
import { CHAIN_SETTING_KEYS, CHAIN_SETTINGS, type ChainSettingKey } from './settings';

const settingKey = z.enum(CHAIN_SETTING_KEYS as readonly [ChainSettingKey, ...ChainSettingKey[]]);

/** Settings to begin from, and when. Sizes (thickness, root slide) and weights stay the part's own. */
const Said = z.strictObject({
  format: z.literal('oscillum-preset', { error: 'This is not an Oscillum preset' }),
  name: documentName,
  /** When to use it. */
  use: z.string().max(400).default(''),
  settings: z.partialRecord(settingKey, z.number().min(-1e6).max(1e6)),
  profiles: z.partialRecord(settingKey, Profile).default({}),
});
/** As {@link Said}; files and lists from before version 7 of a shot have older names for some settings. */
export const Preset = z.preprocess(
  (data) =>
    typeof data === 'object' && data !== null
      ? Object.fromEntries(
          Object.entries(data).map(([k, x]) => [
            k,
            k === 'settings' || k === 'profiles' ? settingsInPlainWords(x) : x,
          ]),
        )
      : data,
  Said,
);
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
  // Nothing is handed down unless a preset says so.
  settings: { overlap: 0, ...settings },
  profiles,
});

/** Presets for the parts of a courier bird and its kind. */
export const PRESETS: readonly Preset[] = [
  preset(
    'Sweeping tail',
    'A tail that swings wide after the hips and does not wobble.',
    {
      hold: 1.1,
      bend: 1.6,
      damping: 0.22,
      delayPerJoint: 0,
      travel: 60,
      turn: 100,
      gravity: 0.3,
      angleLimit: 60,
    },
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
    'Parts of a flat figure: lively, but never out of the picture plane. Let it stay in a plane as well.',
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
    { hold: 5, bend: 2, damping: 0.7, delayPerJoint: 0.6, travel: 60, turn: 100, gravity: 0 },
    {
      hold: [
        [0, 1.4],
        [0.7, 1],
        [1, 0.7],
      ],
    },
  ),
  preset(
    'Long hair',
    'A braid or loose lock that hangs from the head and swings late, its end the loosest.',
    { hold: 0.4, bend: 0.9, damping: 0.3, travel: 80, turn: 100, gravity: 0.7, drag: 1.2, friction: 0.4 },
    {
      hold: [
        [0, 2.5],
        [0.4, 1],
        [1, 0.3],
      ],
    },
  ),
  preset('Short hair', 'A tuft or fringe that keeps its cut and only shivers.', {
    ...{ hold: 3, bend: 4.5, damping: 0.25, travel: 60, turn: 80, gravity: 0.2, drag: 0.8 },
  }),
  preset(
    'Skirt and cape',
    'Rows of joints in a skirt, coat or cape: they hang, follow late and come to rest soon.',
    {
      ...{
        hold: 0.8,
        bend: 1.4,
        damping: 0.55,
        travel: 90,
        turn: 80,
        gravity: 0.6,
        drag: 1.5,
        friction: 0.5,
      },
    },
  ),
  preset('Rope', 'A cord that hangs free and takes any bend.', {
    ...{ hold: 0, bend: 0.1, damping: 0.25, travel: 100, turn: 100, gravity: 1, drag: 0.3, friction: 0.6 },
  }),
  preset('Antenna', 'A springy rod that whips at a stop and rings on.', {
    ...{ hold: 2.2, bend: 5, damping: 0.06, travel: 100, turn: 100, gravity: 0.1, drag: 0.3 },
  }),
  preset('Belly', 'Flesh on one joint or two: a quick, small wobble after each step.', {
    ...{ hold: 3.4, bend: 0.5, damping: 0.28, travel: 120, turn: 60, gravity: 0.3, angleLimit: 20 },
  }),
  preset(
    'Lazy tail',
    'A keyed swing of the base runs down the tail, a little larger and late at each joint.',
    {
      ...{ hold: 5, bend: 1.5, damping: 0.8, delayPerJoint: 0, travel: 40, turn: 40, gravity: 0.2 },
      ...{ overlap: 100, overlapGain: 115, overlapLag: 2 },
    },
  ),
  preset(
    'Whip',
    'A small turn of the base cracks at the tip: each joint much larger than the one above it.',
    {
      ...{ hold: 9, bend: 0, damping: 0.9, delayPerJoint: 0, travel: 20, turn: 20, gravity: 0 },
      ...{ overlap: 100, overlapGain: 150, overlapLag: 0.8 },
    },
  ),
  preset('Fish', 'A wave that swims from base to tip, as in a fish, a snake or a ribbon in water.', {
    ...{ hold: 8, bend: 0, damping: 1, delayPerJoint: 0, travel: 20, turn: 0, gravity: 0 },
    ...{ overlap: 100, overlapGain: 120, overlapLag: 2.5 },
  }),
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

/** Words in the names of joints that tell what they are, and the preset that suits it. */
const TELLING: readonly (readonly [words: RegExp, preset: string])[] = [
  [/tail/i, 'Sweeping tail'],
  [/\bear|lappet|lop/i, 'Springy ears'],
  [/plume|feather|ribbon|streamer|scarf/i, 'Long plume'],
  [/crest|spine|quill|horn/i, 'Stiff crest'],
  [/strap|bag|purse|belt|pendant|necklace/i, 'Heavy strap'],
  [/braid|pony|long.?hair|lock/i, 'Long hair'],
  [/hair|fringe|bang|tuft|beard|mane/i, 'Short hair'],
  [/skirt|cape|cloak|coat|dress|poncho|robe|cloth/i, 'Skirt and cape'],
  [/rope|cord|cable|chain/i, 'Rope'],
  [/antenna|feeler|aerial/i, 'Antenna'],
  [/belly|wattle|jowl|cheek|breast|fat/i, 'Belly'],
  [/fin\b|fish|eel|snake/i, 'Fish'],
  [/arm|shoulder|elbow|wrist/i, 'Arm overlap'],
];

/** A lock of hair of more joints than this is long. */
const SHORT = 4;

/** The preset that a chain's joints suggest by their names and how many they are; null where they tell nothing. */
export function suggestPreset(joints: readonly { readonly name: string }[]): Preset | null {
  const names = joints.map((j) => j.name.replace(/[_.\d]+/g, ' ')).join(' ');
  const name = TELLING.find(([words]) => words.test(names))?.[1];
  const fits = name === 'Short hair' && joints.length > SHORT ? 'Long hair' : name;
  return PRESETS.find((p) => p.name === fits) ?? null;
}
