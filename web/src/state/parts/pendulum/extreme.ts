import { makePose, turnAbout, type Character } from '@oscillum/core/character';
import type { Output } from '@oscillum/core/pendulum';
import type { Shot } from '@oscillum/core/shot';
import { makeSource } from '@oscillum/core/simulate';
import { settingAt } from '../../settingAt';

/**
 * How far the clip's pose on a frame has an output's target from its rest, in its unit: an extreme taken from a pose.
 */
export function extremeOf(character: Character, shot: Shot, { target }: Output, frame: number): number {
  if (target.does === 'setting') {
    const part = shot.parts[target.part];
    return part ? settingAt(part, target.setting, frame) : 0;
  }
  const pose = makePose(character);
  makeSource(character, shot).at(frame, pose);
  if (target.does === 'morph') return pose.morphs.get(target.morph.node)?.[target.morph.target] ?? 0;
  const { node } = target.joint;
  const { t, r, s } = character.nodes[node]!;
  const axis = target.axis === 'all' ? 0 : 'xyz'.indexOf(target.axis);
  if (target.does === 'place') return (pose.t[3 * node + axis]! - t[axis]!) * shot.character.metresPerUnit;
  if (target.does === 'scale') return pose.s[3 * node + axis]! / s[axis]! - 1;
  return turnAbout(pose, node, r, axis);
}
