import type { Motion } from '../motion/index';
import type { Container } from './container';
import type { GltfJson } from './schema';
import { Tail } from './write';

/** A turn or place that differs by more than this from its first one is keyed. */
const MOVES = 1e-7;

/** A skeleton and its motion as a glTF asset: one node a joint, one clip with a key on every frame. */
export function containerOf(motion: Motion, fileName: string): Container {
  const { joints, count, fps } = motion;
  const n = joints.length;
  const below = joints.map((): number[] => []);
  joints.forEach((j, i) => j.parent >= 0 && below[j.parent]!.push(i));
  const json = {
    asset: { version: '2.0', generator: 'Oscillum' },
    scene: 0,
    scenes: [{ nodes: joints.flatMap((j, i) => (j.parent < 0 ? [i] : [])) }],
    nodes: joints.map((j, i) => {
      const children = below[i]!;
      return {
        name: j.name,
        translation: [...j.t],
        rotation: [...j.r],
        scale: [...j.s],
        ...(children.length > 0 ? { children } : {}),
      };
    }),
    accessors: [],
    bufferViews: [],
    buffers: [{ byteLength: 0 }],
  } as unknown as GltfJson;
  const pieces: Uint8Array[] = [];
  const tail = new Tail(json, pieces);
  const input = tail.add(
    Float64Array.from({ length: count }, (_, f) => f / fps),
    'SCALAR',
    1,
    true,
  );
  const samplers: { input: number; output: number; interpolation: string }[] = [];
  const channels: { sampler: number; target: { node: number; path: string } }[] = [];
  const key = (node: number, path: string, list: Float64Array, size: 3 | 4, rest: readonly number[]) => {
    const values = new Float64Array(size * count);
    let moves = false;
    for (let f = 0; f < count; f++)
      for (let k = 0; k < size; k++) {
        const x = (values[size * f + k] = list[size * (f * n + node) + k]!);
        moves ||= Math.abs(x - rest[k]!) > MOVES;
      }
    if (!moves) return;
    const output = tail.add(values, size === 4 ? 'VEC4' : 'VEC3', size, false);
    const sampler = samplers.push({ input, output, interpolation: 'LINEAR' }) - 1;
    channels.push({ sampler, target: { node, path } });
  };
  joints.forEach((j, i) => {
    key(i, 'rotation', motion.r, 4, j.r);
    key(i, 'translation', motion.t, 3, j.t);
    key(i, 'scale', motion.s, 3, j.s);
  });
  if (channels.length > 0)
    json.animations = [{ name: motion.name, samplers, channels }] as GltfJson['animations'];
  const bytes = new Uint8Array(pieces.reduce((sum, p) => sum + p.length, 0));
  let at = 0;
  for (const p of pieces) {
    bytes.set(p, at);
    at += p.length;
  }
  json.buffers![0]!.byteLength = bytes.length;
  return { fileName, json, buffers: [bytes], binaryChunk: true, resource: () => null };
}
