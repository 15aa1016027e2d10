import type { Channel } from '../character/index';
import { makePose, rootMatrix, worldMatrices, type Character } from '../character/index';
import { matRotation, quatConjugate, quatMultiply } from '../math/index';
import type { CopiedKey } from '../model/index';
import type { Key } from './curves';

/** Keys to be pasted: how far after the first of all that are copied, value and slopes. */
export function copyKeys(keys: readonly Key[], from: number): CopiedKey[] {
  return keys.map(({ frame, value, slopes }) => ({
    after: frame - from,
    value: Array.from(value),
    slopes: slopes && [Array.from(slopes[0]), Array.from(slopes[1])],
  }));
}

/**
 * Copied keys of one joint for the joint on the other side: what turns it from its rest pose is mirrored left to right
 * in the world as the character stands at rest.
 */
export function mirrorKeys(
  keys: readonly CopiedKey[],
  path: Channel['path'],
  character: Character,
  from: number,
  to: number,
  metresPerUnit: number,
  upAxis: 'Y' | 'Z',
): CopiedKey[] {
  const world = new Float64Array(16 * character.nodes.length);
  worldMatrices(character, makePose(character), rootMatrix(metresPerUnit, upAxis), world);
  /** Turn of what is above a joint, in the world, at rest. */
  const above = (node: number): Float64Array => {
    const out = Float64Array.of(0, 0, 0, 1);
    const { parent } = character.nodes[node]!;
    if (parent >= 0) matRotation(out, 0, world, 16 * parent);
    else matRotation(out, 0, rootMatrix(1, upAxis), 0);
    return out;
  };
  const multiply = (...list: ArrayLike<number>[]): Float64Array =>
    list.reduce<Float64Array>(
      (a, b) => {
        const out = new Float64Array(4);
        quatMultiply(out, 0, a, 0, b, 0);
        return out;
      },
      Float64Array.of(0, 0, 0, 1),
    );
  const inverse = (q: ArrayLike<number>): Float64Array => {
    const out = new Float64Array(4);
    quatConjugate(out, 0, q, 0);
    return out;
  };
  const [a, b] = [above(from), above(to)];
  const rests = [character.nodes[from]!, character.nodes[to]!] as const;
  // Linear in the value, so that slopes go the same way.
  const turn = (q: ArrayLike<number>): number[] => {
    const inWorld = multiply(a, q, inverse(rests[0].r), inverse(a));
    const [x, y, z, w] = inWorld as unknown as [number, number, number, number];
    return Array.from(multiply(inverse(b), [x, -y, -z, w], b, rests[1].r));
  };
  const spin = (q: Float64Array, v: readonly number[]): number[] => {
    const out = multiply(q, [v[0]!, v[1]!, v[2]!, 0], inverse(q));
    return [out[0]!, out[1]!, out[2]!];
  };
  const way = (v: readonly number[]): number[] => {
    const inWorld = spin(a, v);
    return spin(inverse(b), [-inWorld[0]!, inWorld[1]!, inWorld[2]!]);
  };
  const place = (p: readonly number[]): number[] =>
    way(p.map((x, k) => x - rests[0].t[k]!)).map((x, k) => x + rests[1].t[k]!);
  const [value, slope] = path === 'rotation' ? [turn, turn] : [place, way];
  return keys.map((key) => ({
    after: key.after,
    value: value(key.value),
    slopes: key.slopes && [slope(key.slopes[0]), slope(key.slopes[1])],
  }));
}
