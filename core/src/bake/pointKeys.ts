import {
  makePose,
  meshTriangles,
  morphedVertices,
  rootMatrix,
  samplePose,
  worldMatrices,
  type Channel,
  type Character,
  type Clip,
} from '../character/index';
import type { BakedChannel } from '../formats/gltf/index';
import { pointSpans, sizesOf, type Frames } from '../frames/index';
import type { Shot } from '../shot/index';
import type { BakeOptions } from './options';

/** A moment that is written, and the row of the frames it stands in, where it is one. */
interface Moment {
  readonly frame: number;
  readonly row: unknown;
}

/**
 * A key of a mesh's vertices on every simulated frame: their places where a chosen part has them, and what others add;
 * how far they are off their skin where all parts do nothing but add.
 */
export function pointKeys(
  character: Character,
  node: number,
  inside: readonly Moment[],
  frames: Frames,
  o: Pick<BakeOptions, 'parts'>,
  fps: number,
  shift: number,
): BakedChannel {
  const whole = inside.flatMap(({ frame, row }) => (typeof row === 'number' ? [{ frame, row }] : []));
  const size = 3 * meshTriangles(character, node).vertices;
  const spans = frames.parts
    .flatMap((c, p) => (o.parts === null || o.parts.includes(c.partId) ? pointSpans(frames, p) : []))
    .filter((s) => s.node === node && !s.curves);
  // What has places of its own comes first; the last of them is what is shown.
  const places = spans.filter((s) => !s.picked).at(-1);
  const values = new Float64Array(size * whole.length);
  const wide = sizesOf(frames).points;
  whole.forEach(({ row }, k) => {
    const at = (column: number) => 3 * (row * wide + column);
    if (places) values.set(frames.points.subarray(at(places.from), at(places.to)), size * k);
    for (const { picked, from } of spans)
      picked?.forEach((v, i) => {
        for (let a = 0; a < 3; a++) values[size * k + 3 * v + a]! += frames.points[at(from + i) + a]!;
      });
  });
  const times = Float64Array.from(whole, (m) => m.frame / fps + shift);
  return { node, path: 'points', interpolation: 'LINEAR', times, values, ...(places ? {} : { off: true }) };
}

/** A channel of vertices with their places, m, where it says how far they are off their skin in a clip. */
export function asPlaces(
  character: Character,
  { metresPerUnit, upAxis }: Pick<Shot['character'], 'metresPerUnit' | 'upAxis'>,
  played: Clip,
  channel: Channel,
): Channel {
  const { off, ...rest } = channel;
  if (!off) return channel;
  const { node, times } = channel;
  const size = channel.values.length / times.length;
  const values = new Float64Array(channel.values.length);
  const pose = makePose(character);
  const world = new Float64Array(16 * character.nodes.length);
  const root = rootMatrix(metresPerUnit, upAxis);
  times.forEach((time, k) => {
    samplePose(character, played, time, pose);
    worldMatrices(character, pose, root, world);
    const row = values.subarray(size * k, size * (k + 1));
    morphedVertices(row, character, node, world, pose.morphs.get(node));
    for (let i = 0; i < size; i++) row[i]! += channel.values[size * k + i]!;
  });
  return { ...rest, values };
}
