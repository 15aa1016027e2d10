import { rigSize, type Character } from '@oscillum/core/character';
import { AddedMotion, AddedMotionId } from '@oscillum/core/model';
import type { Shot } from '@oscillum/core/shot';
import { freshId, lastOrder } from './fresh';
import { change } from './edits';
import type { Thunk } from './store';
import { viewSlice } from './view';

/** Motions that are added in one press. */
export interface MotionPreset {
  readonly name: string;
  readonly says: string;
  /** The joint it is for, where none is selected. */
  joint(character: Character): number | undefined;
  make(seconds: number, size: number): Partial<AddedMotion>;
}

/** The first joint whose name has one of these words, else the first of all. */
const named =
  (...words: readonly string[]) =>
  (character: Character): number | undefined =>
    Array.from(character.joints).find((n) =>
      words.some((w) => character.nodes[n]!.name.toLowerCase().includes(w)),
    ) ?? character.joints[0];
const first = (character: Character): number | undefined => character.joints[0];

/** Whole times of so many a second, so that a loop can close. */
const times = (perSecond: number, seconds: number) => Math.max(1, Math.round(perSecond * seconds));

export const MOTION_PRESETS: readonly MotionPreset[] = [
  {
    name: 'Breathing',
    says: 'A slow small turn of the chest, about 16 times a minute.',
    joint: named('chest', 'spine', 'torso'),
    make: (seconds) => ({ axis: [1, 0, 0], amount: 2, count: times(0.27, seconds) }),
  },
  {
    name: 'Sway',
    says: 'Rocks from side to side, once in two seconds.',
    joint: named('hips', 'pelvis', 'root'),
    make: (seconds) => ({ axis: [0, 0, 1], amount: 5, count: times(0.5, seconds) }),
  },
  {
    name: 'Test slide',
    says: 'The whole figure slides to and fro: the first thing to try on anything that hangs.',
    joint: first,
    make: (seconds, size) => ({
      path: 'translation',
      axis: [1, 0, 0],
      amount: Number((0.15 * size).toPrecision(2)),
      count: times(0.75, seconds),
    }),
  },
];

/** Adds a motion to a joint, and takes it up to be worked on. */
export function addMotion(
  character: Character,
  shot: Shot,
  joint: number,
  name: string,
  what: Partial<AddedMotion>,
): Thunk {
  return (dispatch) => {
    const id = freshId('t');
    const motion = AddedMotion.parse({
      id: AddedMotionId.parse(id),
      name,
      order: lastOrder(shot.addedMotions),
      joint: { node: joint, name: character.nodes[joint]!.name },
      ...what,
    });
    dispatch(change(`Add motion: ${motion.name}`, (d) => void (d.addedMotions[id] = motion)));
    dispatch(viewSlice.actions.thingChosen({ kind: 'motion', id }));
  };
}

export function addPreset(character: Character, shot: Shot, preset: MotionPreset, chosen?: number): Thunk {
  return (dispatch) => {
    const joint = chosen ?? preset.joint(character);
    if (joint === undefined) return;
    const seconds = (shot.range.last - shot.range.first) / shot.fps;
    const size = rigSize(character) * shot.character.metresPerUnit;
    const name = `${preset.name} of ${character.nodes[joint]!.name || `joint ${joint}`}`;
    dispatch(addMotion(character, shot, joint, name, preset.make(seconds, size)));
  };
}
