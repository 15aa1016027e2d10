import { z } from 'zod';
import type { Channel, CharacterNode, Clip, Mesh, Note } from '../../character/index';
import { AccessorReader } from './accessor';
import type { Container } from './container';
import { fileError } from './fault';
import { count, shownName } from './words';

/** Key times beyond this are no times. */
const MOST_SECONDS = 36_000;

const PATHS = { translation: 3, rotation: 4, scale: 3, weights: 0 } as const;

/** What is told of the clips of a file, counted. */
interface Tally {
  repeats: number;
  unsorted: number;
  other: number;
  empty: number;
  offsets: number;
}

/** A file being read. */
interface Reading {
  readonly container: Container;
  readonly accessors: AccessorReader;
  readonly nodes: readonly CharacterNode[];
  readonly meshes: readonly Mesh[];
  readonly tally: Tally;
}

export function readClips(
  container: Container,
  accessors: AccessorReader,
  nodes: readonly CharacterNode[],
  meshes: readonly Mesh[],
  notes: Note[],
): Clip[] {
  const tally: Tally = { repeats: 0, unsorted: 0, other: 0, empty: 0, offsets: 0 };
  const reading = { container, accessors, nodes, meshes, tally };
  const clips = (container.json.animations ?? []).map((a, i): Clip => {
    const channels = a.channels.flatMap((_, k) => readChannel(reading, i, k) ?? []);
    const duration = channels.reduce((most, { times }) => Math.max(most, times[times.length - 1]!), 0);
    if (duration === 0) tally.empty++;
    const over = overOf(a.extras, i);
    if (over) tally.offsets++;
    return { name: shownName(a.name) ?? `clip ${i}`, duration, channels, over };
  });
  tell(tally, notes);
  return clips;
}

/** Channel k of clip i; null for what is not shown here, and for channels without keys. */
function readChannel(reading: Reading, i: number, k: number): Channel | null {
  const { container, nodes, meshes, tally } = reading;
  const { fileName, json } = container;
  const clip = json.animations![i]!;
  const c = clip.channels[k]!;
  const place = `/animations/${i}/channels/${k}`;
  const { node, path } = c.target;
  if (node === undefined || !(path in PATHS)) {
    tally.other++;
    return null;
  }
  if (node >= nodes.length)
    throw fileError(fileName, 'file.invalid', `animates node ${node}, which does not exist`, place);
  const sampler = clip.samplers[c.sampler];
  if (!sampler)
    throw fileError(fileName, 'file.invalid', `refers to sampler ${c.sampler}, which does not exist`, place);
  const interpolation = sampler.interpolation ?? 'LINEAR';
  if (interpolation !== 'LINEAR' && interpolation !== 'STEP' && interpolation !== 'CUBICSPLINE')
    throw fileError(
      fileName,
      'file.invalid',
      'has an unknown interpolation',
      `/animations/${i}/samplers/${c.sampler}`,
    );
  const kind = path as keyof typeof PATHS;
  const size = kind === 'weights' ? (meshes[nodes[node]!.mesh]?.weights.length ?? 0) : PATHS[kind];
  if (size === 0) {
    tally.other++;
    return null;
  }
  const stride = size * (interpolation === 'CUBICSPLINE' ? 3 : 1);
  const keys = readKeys(reading, sampler, kind, stride, place);
  return keys && { node, path: kind, interpolation, ...keys };
}

/** Times and values of a sampler, in order; null when there are none. */
function readKeys(
  { container, accessors, tally }: Reading,
  sampler: { readonly input: number; readonly output: number },
  kind: Channel['path'],
  stride: number,
  place: string,
): Pick<Channel, 'times' | 'values'> | null {
  const types = kind === 'weights' ? 'SCALAR' : kind === 'rotation' ? 'VEC4' : 'VEC3';
  let times = accessors.read(sampler.input, place, (n) => new Float64Array(n), ['SCALAR']);
  let values = accessors.read(sampler.output, place, (n) => new Float64Array(n), [types]);
  if (times.length === 0) return null;
  const wild = times.find((t) => !(Math.abs(t) <= MOST_SECONDS));
  if (wild !== undefined)
    throw fileError(
      container.fileName,
      'file.invalid',
      `has a key at ${wild} s; a clip may be ${MOST_SECONDS / 3600} hours long`,
      place,
    );
  if (values.length < times.length * stride)
    throw fileError(
      container.fileName,
      'file.invalid',
      `has ${times.length} keys but values for ${Math.floor(values.length / stride)}`,
      place,
    );
  if (times.some((t, n) => n > 0 && t < times[n - 1]!)) {
    tally.unsorted++;
    const sorted = Array.from(times.keys()).sort((x, y) => times[x]! - times[y]! || x - y);
    const v = values;
    values = Float64Array.from(sorted.flatMap((n) => Array.from(v.subarray(n * stride, (n + 1) * stride))));
    const t = times;
    times = Float64Array.from(sorted, (n) => t[n]!);
  }
  if (times.some((t, n) => n > 0 && t === times[n - 1])) tally.repeats++;
  return { times, values };
}

function tell({ repeats, unsorted, other, empty, offsets }: Tally, notes: Note[]): void {
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
