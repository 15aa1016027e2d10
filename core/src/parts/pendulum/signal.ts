import { makePose, turnAbout, type Character } from '../../character/index';
import { makeValueCurve, OscillumError } from '../../model/index';
import type { Source } from '../kind';
import type { Input, PendulumPart } from './document';

const AXIS = { x: 0, y: 1, z: 2 } as const;

/** A node of the character that a part names. Throws OscillumError('shot.invalid') when it is another, or not there. */
export function nodeNamed(
  character: Character,
  part: PendulumPart,
  ref: { readonly node: number; readonly name: string },
  what: string,
): number {
  if (character.nodes[ref.node]?.name === ref.name) return ref.node;
  throw new OscillumError(
    'shot.invalid',
    `${part.name}: the ${what} ${ref.name || ref.node} is not on this character`,
    `/parts/${part.id}`,
    'Choose another one for it, or remove it.',
  );
}

/** Checks that a mesh has a morph target. Throws OscillumError('shot.invalid') when it has not. */
export function morphNamed(
  character: Character,
  part: PendulumPart,
  ref: { readonly node: number; readonly name: string; readonly target: number },
): number {
  const node = nodeNamed(character, part, ref, 'mesh');
  if (ref.target < (character.meshes[character.nodes[node]!.mesh]?.weights.length ?? 0)) return node;
  throw new OscillumError(
    'shot.invalid',
    `${part.name}: ${ref.name} has no morph target ${ref.target + 1}`,
    `/parts/${part.id}`,
    'Choose another one for it, or remove it.',
  );
}

/** The value of an input of the figure at a frame: degrees or m from rest, or a weight. Ask it for frames that rise. */
export function makeSignal(
  character: Character,
  part: PendulumPart,
  input: Exclude<Input, { from: 'drawn' }>,
  source: Source,
  metresPerUnit: number,
): (frame: number) => number {
  const pose = makePose(character);
  if (input.from === 'morph') {
    const node = morphNamed(character, part, input.morph);
    return (frame) => (source.at(frame, pose), pose.morphs.get(node)![input.morph.target]!);
  }
  const node = nodeNamed(character, part, input.joint, 'joint');
  const a = AXIS[input.axis];
  const { t, r } = character.nodes[node]!;
  if (input.from === 'place')
    return (frame) => (source.at(frame, pose), (pose.t[3 * node + a]! - t[a]!) * metresPerUnit);
  let before = 0;
  return (frame) => {
    source.at(frame, pose);
    let angle = turnAbout(pose, node, r, a);
    // It goes on through a half turn instead of coming back from the other side.
    while (angle - before > 180) angle -= 360;
    while (angle - before < -180) angle += 360;
    return (before = angle);
  };
}

/**
 * A signal by keys, from its first one again after the last when it cycles. In a loop of `period` frames from `from`
 * on, a cycle is made a little longer or shorter so that it fits in a whole number of times.
 */
export function drawn(
  { keys, cycles }: Extract<Input, { from: 'drawn' }>,
  from: number,
  period: number | null,
): (frame: number) => number {
  const curve = makeValueCurve(keys);
  const frames = keys.map((k) => k.frame);
  const [first, last] = [Math.min(...frames), Math.max(...frames)];
  const length = last - first;
  if (!cycles || length === 0) return curve;
  const pace = period === null ? 1 : (Math.max(1, Math.round(period / length)) * length) / period;
  return (frame) => {
    const way = (from - first + (frame - from) * pace) % length;
    return curve(first + (way < 0 ? way + length : way));
  };
}

/**
 * A signal that is known on whole frames from `from` to `to`, with the cubic through four of them between; or repeated.
 */
export function throughFrames(
  signal: (frame: number) => number,
  from: number,
  to: number,
  period: number | null,
): (frame: number) => number {
  const count = period ?? to - from + 1;
  const values = Float64Array.from({ length: count }, (_, k) => signal(from + k));
  const of = (k: number) =>
    values[period === null ? Math.min(count - 1, Math.max(0, k)) : ((k % count) + count) % count]!;
  return (frame) => {
    const k = Math.floor(frame - from);
    const u = frame - from - k;
    const [a, b, c, d] = [of(k - 1), of(k), of(k + 1), of(k + 2)];
    return b + (u / 2) * (c - a + u * (2 * a - 5 * b + 4 * c - d + u * (3 * (b - c) + d - a)));
  };
}
