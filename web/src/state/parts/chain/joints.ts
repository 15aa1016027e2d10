import type { Character } from '@oscillum/core/character';
import { jointChildren } from '@oscillum/core/character';
import { isChain, type ChainPart } from '@oscillum/core/chain';
import type { JointRef } from '@oscillum/core/model';
import { change } from '../../edits';
import type { Thunk } from '../../store';

/** Joints that a chain could be made longer by: above its first, and below its last. */
export function neighbours(
  character: Character,
  { joints }: ChainPart,
): { above: number | null; below: readonly number[] } {
  const { parent } = character.nodes[joints[0]!.node]!;
  return {
    above: parent >= 0 && character.joints.includes(parent) ? parent : null,
    below: jointChildren(character, joints.at(-1)!.node),
  };
}

/**
 * Makes a chain longer or shorter at one end, keeping its settings. Pulls and poses by hand stay on the joints they
 * were made on. Throws OscillumError('shot.invalid') when the joint is another chain's.
 */
export function reshapeChain(id: string, end: 'root' | 'tip', joint: JointRef | null): Thunk {
  return change(`${joint ? 'Add a joint' : 'Take a joint off'} at the ${end}`, (d) => {
    const part = d.parts[id];
    if (!isChain(part)) return;
    part.still[end === 'root' ? 'first' : 'last'] = null;
    reshape(part, end, joint);
  });
}

/**
 * Whether the first joint of a chain turns, or its last one with an end link: what does not stays with its source, and
 * is remembered, so that one press lets it in again.
 */
export function letTurn(id: string, end: 'root' | 'tip', on: boolean): Thunk {
  const which = end === 'root' ? 'first' : 'last';
  return change(`${on ? 'Let' : 'Keep'} the ${which} joint ${on ? 'turn' : 'still'}`, (d) => {
    const part = d.parts[id];
    if (!isChain(part)) return;
    const joint = on ? part.still[which] : null;
    if (on && !joint) return;
    part.still[which] = on ? null : { ...part.joints.at(end === 'root' ? 0 : -1)! };
    reshape(part, end, joint);
  });
}

function reshape(part: ChainPart, end: 'root' | 'tip', joint: JointRef | null): void {
  if (end === 'tip') part.joints = joint ? [...part.joints, joint] : part.joints.slice(0, -1);
  else part.joints = joint ? [joint, ...part.joints] : part.joints.slice(1);
  const shift = end === 'root' ? (joint ? 1 : -1) : 0;
  const inside = (i: number) => i >= 0 && i < part.joints.length;
  part.pulls = part.pulls.flatMap((p) => (inside(p.link + shift) ? [{ ...p, link: p.link + shift }] : []));
  part.anchors = part.anchors.map((a) => ({
    ...a,
    turns:
      a.turns &&
      Object.fromEntries(
        Object.entries(a.turns).flatMap(([i, q]) =>
          inside(Number(i) + shift) ? [[String(Number(i) + shift), q]] : [],
        ),
      ),
  }));
}
