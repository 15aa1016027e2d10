import type { Character } from '../character/index';
import { inOrder } from '../model/index';
import type { Shot } from '../shot/index';
import { rideOf } from './track';

/**
 * What a shot names by another name than this character has: its clip, joints of added motion, and what colliders ride.
 * Such motion does nothing, and such colliders ride whatever stands there. Parts are not looked at: they throw.
 */
export function misnamed(character: Character, shot: Shot): string[] {
  const out: string[] = [];
  const clip = shot.clip && character.clips[shot.clip.index];
  if (clip && clip.name !== shot.clip!.name)
    out.push(
      `Clip ${shot.clip!.index} is “${clip.name}” here; the shot was made on “${shot.clip!.name}”. It may be another motion.`,
    );
  for (const { name, joint } of inOrder(shot.addedMotions))
    if (character.nodes[joint.node]?.name !== joint.name)
      out.push(`${name}: joint ${joint.node} is not ${joint.name} here, so it moves nothing.`);
  for (const c of inOrder(shot.colliders)) {
    const named = c.shape.kind === 'mesh' ? c.shape.name : c.attachedTo?.name;
    const node = c.shape.kind === 'mesh' ? c.shape.node : rideOf(character, c);
    const there = character.nodes[node]?.name;
    if (named !== undefined && there !== named)
      out.push(`${c.name}: node ${node} is ${there === undefined ? 'not there' : there}, not ${named}.`);
  }
  return out;
}
