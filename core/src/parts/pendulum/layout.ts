import type { Character } from '../../character/index';
import { MOVES, TURNS } from '../../frames/index';
import type { PartContents, PartLayout } from '../kind';
import type { PendulumPart } from './document';
import { morphNamed, nodeNamed } from './signal';

/** A pendulum found on a character. */
export interface PendulumLayout extends PartLayout {
  readonly part: PendulumPart;
  /** Its outputs in the order in which they act: parents before children. */
  readonly order: readonly number[];
  /** Morph targets of each mesh node it drives. */
  readonly targets: ReadonlyMap<number, number>;
  /** The joint it follows, or the figure's first where it follows none. */
  readonly follows: number;
  /** Parent of every node above what it drives. */
  readonly parents: ReadonlyMap<number, number>;
}

/** Finds what a part names on the character. Throws OscillumError('shot.invalid') when something is not there. */
export function layOutPendulum(character: Character, part: PendulumPart): PendulumLayout {
  const rank = new Map(Array.from(character.order, (node, k) => [node, k]));
  const { input } = part;
  let follows = character.joints[0] ?? 0;
  if (input.from === 'morph') morphNamed(character, part, input.morph);
  else if (input.from !== 'drawn') follows = nodeNamed(character, part, input.joint, 'joint');
  const targets = new Map<number, number>();
  // What drives a setting has no node, and acts on no pose.
  const nodes = part.outputs.map(({ target }) => {
    if (target.does === 'setting') return -1;
    if (target.does !== 'morph') return nodeNamed(character, part, target.joint, 'joint');
    const node = morphNamed(character, part, target.morph);
    targets.set(node, character.meshes[character.nodes[node]!.mesh]!.weights.length);
    return node;
  });
  const moved = new Set(nodes.filter((_, i) => ['turn', 'place'].includes(part.outputs[i]!.target.does)));
  const order = nodes
    .flatMap((node, i) => (node < 0 ? [] : [i]))
    .sort((a, b) => rank.get(nodes[a]!)! - rank.get(nodes[b]!)! || a - b);
  const parents = new Map<number, number>();
  for (const node of nodes)
    for (let n = node; n >= 0; n = character.nodes[n]!.parent) parents.set(n, character.nodes[n]!.parent);
  return { part, joints: Int32Array.from(moved), above: new Int32Array(0), order, targets, follows, parents };
}

/**
 * What the frames hold of it: the joints it turns and moves, those it scales, whole meshes of weights, and its
 * readouts.
 */
export function contentsOf({ joints, targets }: PendulumLayout, part: PendulumPart): PartContents {
  const does = (node: number, what: 'turn' | 'place' | 'scale') =>
    part.outputs.some(
      ({ target }) => target.does === what && 'joint' in target && target.joint.node === node,
    );
  const scaled = part.outputs.flatMap(({ target }) => (target.does === 'scale' ? [target.joint.node] : []));
  return {
    paths: Uint8Array.from(joints, (n) => (does(n, 'turn') ? TURNS : 0) | (does(n, 'place') ? MOVES : 0)),
    scaled: [...new Set(scaled)],
    points: [],
    morphs: [...targets].flatMap(([node, count]) =>
      Array.from({ length: count }, (_, target) => ({ node, target })),
    ),
    readouts: ['input', 'first', 'second', ...part.outputs.map((o) => o.id)],
  };
}
