import { makePose, type Character } from '../character/index';
import {
  readContainer,
  writeGlb,
  type BakedChannel,
  type BakedClip,
  type Container,
  type Decoders,
} from '../formats/gltf/index';
import { OscillumError, type Shot } from '../model/index';
import { clipOf, makeSource, simulate, type Frames } from '../simulate/index';

export interface BakeOptions {
  /** Frames to write, inclusive; within the shot's range. */
  readonly first: number;
  readonly last: number;
  /** Every n-th frame; the last frame is always written. */
  readonly step: number;
  /** Parts to bake; all that are not muted when null. */
  readonly parts: readonly string[] | null;
  /** Name of the new clip; ignored when replacing. */
  readonly name: string;
  /** Write in place of the shot's clip instead of beside it. */
  readonly replace: boolean;
}

/** The whole range, every frame, all parts, into a new clip named after the old. */
export function defaultBake(shot: Shot): BakeOptions {
  return {
    first: shot.range.first,
    last: shot.range.last,
    step: 1,
    parts: null,
    name: `${shot.clip?.name ?? 'Rest'} with follow-through`,
    replace: false,
  };
}

/** Throws OscillumError('bake.invalid') saying which choice cannot be baked. */
export function checkBake(shot: Shot, o: BakeOptions): void {
  const refuse = (message: string, place: string, remedy: string) =>
    new OscillumError('bake.invalid', message, place, remedy);
  const { first, last } = shot.range;
  if (!Number.isInteger(o.first) || !Number.isInteger(o.last) || o.first > o.last)
    throw refuse(
      `Frames ${o.first} to ${o.last} are not a range`,
      'frames',
      'Give a first frame and a last frame at or after it.',
    );
  if (o.first < first || o.last > last)
    throw refuse(
      `Frames ${o.first} to ${o.last} reach outside the shot (${first} to ${last})`,
      'frames',
      'Choose frames inside the range, or change the range in Tune.',
    );
  if (!Number.isInteger(o.step) || o.step < 1)
    throw refuse(`Every ${o.step} frames is not a step`, 'step', 'Give a whole number, 1 or more.');
  if (!o.replace && !o.name.trim()) throw refuse('The new clip has no name', 'name', 'Give it one.');
  if (o.replace && !shot.clip) throw refuse('There is no clip to replace', 'clip', 'Bake into a new clip.');
  for (const id of o.parts ?? []) {
    if (!shot.parts[id]) throw refuse(`There is no part ${id}`, 'parts', 'Choose parts of this shot.');
    if (shot.parts[id].muted)
      throw refuse(
        `${shot.parts[id].name} is muted, so it has no simulated motion`,
        'parts',
        'Unmute it, or leave it out.',
      );
  }
  const chosen =
    o.parts ??
    Object.values(shot.parts)
      .filter((p) => !p.muted)
      .map((p) => p.id);
  if (chosen.length === 0)
    throw refuse(
      'Nothing moves by simulation, so there is nothing to bake',
      'parts',
      'Make a chain in Tune, or unmute one.',
    );
}

/**
 * Keys for the chosen joints: simulated inside the frames, the source's own motion on every frame outside them.
 * Rotations always; translations only where links may stretch. Quaternion signs are continuous in time.
 */
export function bakeClip(character: Character, shot: Shot, frames: Frames, o: BakeOptions): BakedClip {
  checkBake(shot, o);
  const clip = clipOf(character, shot);
  // A thousandth of a frame of slack: durations are stored as float32.
  const clipLast = clip ? Math.ceil(clip.duration * shot.fps - 1e-3) : o.last;
  const rows: number[] = [];
  for (let f = 0; f < Math.min(o.first, clipLast + 1); f++) rows.push(f);
  for (let f = o.first; f < o.last; f += o.step) rows.push(f);
  rows.push(o.last);
  for (let f = Math.max(o.last + 1, 0); f <= clipLast; f++) rows.push(f);
  const shift = Math.max(0, -rows[0]!) / shot.fps;
  const seconds = rows.map((f) =>
    f > o.last && f === clipLast && clip ? Math.max(clip.duration, (f - 1) / shot.fps) : f / shot.fps,
  );
  const times = Float64Array.from(seconds, (t) => t + shift);

  const chosen = frames.chains.filter((c) => o.parts === null || o.parts.includes(c.partId));
  const pose = makePose(character);
  const source = makeSource(character, shot);
  const keys = chosen.flatMap((c) =>
    Array.from({ length: c.length }, (_, i) => ({
      node: frames.joints[c.from + i]!,
      column: c.from + i,
      rotation: new Float64Array(4 * rows.length),
      translation: c.stretches && i > 0 ? new Float64Array(3 * rows.length) : null,
    })),
  );
  // What was added to the clip is written too, on every frame: without it the chains would hang from something else.
  const baked = new Set(keys.map((key) => key.node));
  const added = [...new Set([...source.turned, ...source.moved])]
    .filter((node) => !baked.has(node))
    .map((node) => ({
      node,
      rotation: source.turned.has(node) ? new Float64Array(4 * rows.length) : null,
      translation: source.moved.has(node) ? new Float64Array(3 * rows.length) : null,
    }));
  rows.forEach((f, k) => {
    const simulated = f >= o.first && f <= o.last;
    source.at(simulated ? f : seconds[k]! * shot.fps, pose);
    const row = (f - frames.first) * frames.joints.length;
    for (const { node, rotation, translation } of added) {
      rotation?.set(pose.r.subarray(4 * node, 4 * node + 4), 4 * k);
      translation?.set(pose.t.subarray(3 * node, 3 * node + 3), 3 * k);
    }
    for (const key of keys) {
      const q = simulated ? 4 * (row + key.column) : 4 * key.node;
      const t = simulated ? 3 * (row + key.column) : 3 * key.node;
      key.rotation.set((simulated ? frames.rotations : pose.r).subarray(q, q + 4), 4 * k);
      key.translation?.set((simulated ? frames.translations : pose.t).subarray(t, t + 3), 3 * k);
    }
  });
  const channels: BakedChannel[] = [];
  for (const { node, rotation, translation } of [...keys, ...added]) {
    if (rotation) {
      keepSigns(rotation);
      channels.push({ node, path: 'rotation', times, values: rotation });
    }
    if (translation) channels.push({ node, path: 'translation', times, values: translation });
  }
  return {
    name: o.replace ? shot.clip!.name : o.name.trim(),
    channels,
    source: shot.clip?.index ?? -1,
    replace: o.replace,
    shift,
    extras: {
      oscillum: {
        shot: shot.name,
        source: shot.clip?.name ?? null,
        frames: [o.first, o.last],
        fps: shot.fps,
      },
    },
  };
}

/** Flips quaternions in place so that each is on the same side as the one before. */
function keepSigns(q: Float64Array): void {
  for (let i = 4; i < q.length; i += 4) {
    let dot = 0;
    for (let k = 0; k < 4; k++) dot += q[i + k]! * q[i - 4 + k]!;
    if (dot < 0) for (let k = 0; k < 4; k++) q[i + k] = -q[i + k]!;
  }
}

/**
 * From an opened file and a shot to the bytes of the baked GLB. A generator: it yields the share done, 0..1, after
 * every frame, so that the caller can show progress and stop. The application and the command line both run this.
 */
export function* bakeGlb(
  container: Container,
  shot: Shot,
  o: BakeOptions,
  decoders: Decoders = {},
): Generator<number, Uint8Array<ArrayBuffer>> {
  checkBake(shot, o);
  const character = readContainer(container, decoders, { skeletonOnly: true });
  const run = simulate(character, shot);
  const total = shot.range.last - shot.range.first + 1 + shot.preRoll;
  for (let n = 0; ; n++) {
    const step = run.next();
    if (step.done) return writeGlb(container, bakeClip(character, shot, step.value, o));
    yield Math.min(1, n / total);
  }
}
