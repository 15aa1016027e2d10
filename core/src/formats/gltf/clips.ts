import { z } from 'zod';
import type { Channel, CharacterNode, Clip, Mesh, Note } from '../../character/index';
import { AccessorReader } from './accessor';
import { fileError, type Container } from './container';
import { count } from './words';

const PATHS = { translation: 3, rotation: 4, scale: 3, weights: 0 } as const;

export function readClips(
  container: Container,
  accessors: AccessorReader,
  nodes: readonly CharacterNode[],
  meshes: readonly Mesh[],
  notes: Note[],
): Clip[] {
  let repeats = 0;
  let unsorted = 0;
  let other = 0;
  let empty = 0;
  let offsets = 0;
  const { fileName, json } = container;
  const clips = (json.animations ?? []).map((a, i): Clip => {
    const channels: Channel[] = [];
    let duration = 0;
    a.channels.forEach((c, k) => {
      const place = `/animations/${i}/channels/${k}`;
      const { node, path } = c.target;
      if (node === undefined || !(path in PATHS)) {
        other++;
        return;
      }
      if (node >= nodes.length)
        throw fileError(fileName, 'file.invalid', `animates node ${node}, which does not exist`, place);
      const sampler = a.samplers[c.sampler];
      if (!sampler)
        throw fileError(
          fileName,
          'file.invalid',
          `refers to sampler ${c.sampler}, which does not exist`,
          place,
        );
      const interpolation = sampler.interpolation ?? 'LINEAR';
      if (interpolation !== 'LINEAR' && interpolation !== 'STEP' && interpolation !== 'CUBICSPLINE')
        throw fileError(
          fileName,
          'file.invalid',
          'has an unknown interpolation',
          `/animations/${i}/samplers/${c.sampler}`,
        );
      const kind = path as Channel['path'];
      const size = kind === 'weights' ? (meshes[nodes[node]!.mesh]?.weights.length ?? 0) : PATHS[kind];
      if (size === 0) {
        other++;
        return;
      }
      let times = accessors.read(sampler.input, place, (n) => new Float64Array(n), ['SCALAR']);
      let values = accessors.read(
        sampler.output,
        place,
        (n) => new Float64Array(n),
        kind === 'weights' ? ['SCALAR'] : kind === 'rotation' ? ['VEC4'] : ['VEC3'],
      );
      const stride = size * (interpolation === 'CUBICSPLINE' ? 3 : 1);
      if (times.length === 0) return;
      if (values.length < times.length * stride)
        throw fileError(
          fileName,
          'file.invalid',
          `has ${times.length} keys but values for ${Math.floor(values.length / stride)}`,
          place,
        );
      if (times.some((t, n) => n > 0 && t < times[n - 1]!)) {
        unsorted++;
        const sorted = Array.from(times.keys()).sort((x, y) => times[x]! - times[y]! || x - y);
        const v = values;
        values = Float64Array.from(
          sorted.flatMap((n) => Array.from(v.subarray(n * stride, (n + 1) * stride))),
        );
        const t = times;
        times = Float64Array.from(sorted, (n) => t[n]!);
      }
      if (times.some((t, n) => n > 0 && t === times[n - 1])) repeats++;
      duration = Math.max(duration, times[times.length - 1]!);
      channels.push({ node, path: kind, interpolation, times, values });
    });
    if (duration === 0) empty++;
    const over = overOf(a.extras, i);
    if (over) offsets++;
    return { name: a.name ?? `clip ${i}`, duration, channels, over };
  });
  if (offsets)
    notes.push({
      kind: 'found',
      text: `${count(offsets, 'offset clip')}: added to the clip it was made over.`,
    });
  if (repeats)
    notes.push({
      kind: 'repaired',
      text: `${count(repeats, 'channel')} with two keys at one time: the later counts from there on.`,
    });
  if (unsorted)
    notes.push({ kind: 'repaired', text: `${count(unsorted, 'channel')} with keys out of order: sorted.` });
  if (empty) notes.push({ kind: 'warning', text: `${count(empty, 'clip')} of no length: a still pose.` });
  if (other)
    notes.push({
      kind: 'found',
      text: `${count(other, 'channel')} of kinds not shown here: kept in the file as they are.`,
    });
  return clips;
}

/** What our own writer says of an offset clip; it can only be over a clip that stands before it. */
const Offset = z.object({
  oscillum: z.object({ offset: z.object({ over: z.int().min(0), shift: z.number().min(0).default(0) }) }),
});

function overOf(extras: unknown, index: number): Clip['over'] {
  const said = Offset.safeParse(extras);
  if (!said.success) return null;
  const { over, shift } = said.data.oscillum.offset;
  return over < index ? { clip: over, shift } : null;
}
