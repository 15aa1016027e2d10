import { makePose, type Channel, type Character, type Pose } from '../character/index';
import {
  readContainer,
  type BakedChannel,
  type BakedClip,
  type Container,
  type Decoders,
} from '../formats/gltf/index';
import { keepSigns } from '../formats/motion/index';
import { MOVES, pointSpans, sizesOf, TURNS, type Frames } from '../frames/index';
import { quatConjugate, quatMultiply } from '../math/index';
import type { MomentRow } from '../parts/index';
import { refineClip } from '../refine/index';
import { movesPoints, preRollFrames, readsMesh, type Shot } from '../shot/index';
import {
  clipOf,
  loopTrouble,
  makeSource,
  simulate,
  type ClipSource,
  type Recording,
} from '../simulate/index';
import { curvesOf } from './curves';
import { pointKeys } from './pointKeys';
import { checkBake, momentsOf, type BakeOptions } from './options';
import { thinBaked, type ThinReport } from './thinning';
import { writeFitted } from './writeFitted';

/** What was baked: a clip for a file, and what thinning did to it. */
export interface Baked {
  readonly clip: BakedClip;
  readonly report: ThinReport;
}

/** A moment of the clip that is written. */
interface Moment {
  /** May be a part of a frame, or below 0. */
  readonly frame: number;
  /** Row of the frames, the row of another moment, or null where the source stands. */
  readonly row: number | MomentRow | null;
}

/** One thing a bake writes, and where its values stand in the frames; column −1 for what the source alone moves. */
interface Written {
  readonly node: number;
  readonly path: BakedChannel['path'];
  readonly column: number;
  /** Numbers a key. */
  readonly size: number;
}

/**
 * Keys for the chosen joints, scales and morph weights: simulated inside the frames, the source's own motion outside
 * them. Translations only where they are moved. Quaternion signs are continuous in time. `moments` are what the
 * simulation recorded beside its frames.
 *
 * Outside the frames a source channel of straight keys keeps them (with one on the frame next to the baked ones, so
 * that its motion there stays what it is); any other is written on every frame.
 */
export function bakeClip(
  character: Character,
  shot: Shot,
  frames: Frames,
  o: BakeOptions,
  moments: readonly MomentRow[] = [],
): Baked {
  checkBake(shot, o);
  const { fps } = shot;
  const clip = clipOf(character, shot);
  const inside = momentsInside(frames, o, moments);
  const from = inside[0]!.frame;
  const offset = o.into === 'offset';
  const source = makeSource(character, shot);
  const every = everyMoment(inside, o, source.lasts, fps);
  const shift = Math.max(0, -every[0]!.frame) / fps;
  const pose = makePose(character);

  const channel = ({ node, path, column, size }: Written): BakedChannel => {
    // Where nothing is simulated vertices have no places of their own.
    if (path === 'points') return pointKeys(character, node, inside, frames, o, fps, shift);
    const list =
      o.thin?.kind === 'cubic' || column < 0 || !source.plain
        ? every
        : ownOutside(every, clip?.channels, node, path, fps);
    const values = new Float64Array(size * list.length);
    list.forEach(({ frame, row }, k) => {
      source.at(frame, pose);
      const mine = valueIn(pose, node, path, size);
      const is = row === null || column < 0 ? mine : valueOf(frames, row, column, path, size);
      values.set(is, size * k);
      if (!offset) return;
      // Turns follow the source's own: source · offset is what was simulated.
      if (path === 'rotation') {
        quatConjugate(values, 4 * k, mine, 0);
        quatMultiply(values, 4 * k, values, 4 * k, is, 0);
      } else if (path === 'scale') for (let a = 0; a < 3; a++) values[3 * k + a]! /= mine[a]! || 1;
      else for (let a = 0; a < size; a++) values[size * k + a]! -= mine[a]!;
    });
    if (path === 'rotation') keepSigns(values, 1);
    const times = Float64Array.from(list, (m) => m.frame / fps + shift);
    return { node, path, interpolation: 'LINEAR', times, values };
  };
  const rests = (path: BakedChannel['path'], x: number) => x === (path === 'scale' ? 1 : 0);
  const simulated = writtenBy(character, frames, o);
  const channels = [...simulated, ...addedTo(character, source, simulated, o)]
    .map(channel)
    .filter(({ path, values }) => path === 'rotation' || !offset || values.some((x) => !rests(path, x)));
  const span = { from: from / fps + shift, to: o.last / fps + shift };
  const { thinned, report } = thinBaked(character, shot, frames, channels, o, span, shift);
  return {
    clip: {
      name: o.into === 'replace' ? shot.clip!.name : o.name.trim(),
      channels: thinned,
      curves: curvesOf(shot, frames, inside, o, shift),
      source: offset ? -1 : (shot.clip?.index ?? -1),
      ...(offset ? { over: { clip: shot.clip!.index, shift } } : {}),
      replace: o.into === 'replace',
      shift,
      extras: {
        oscillum: {
          shot: shot.name,
          source: shot.clip?.name ?? null,
          frames: [o.first, o.last],
          fps,
          ...(offset ? { offset: { over: shot.clip!.index, shift } } : {}),
        },
      },
    },
    report,
  };
}

/** What the chosen parts move. Where two of them have a column for one thing, the later holds what is shown. */
function writtenBy(character: Character, frames: Frames, o: BakeOptions): Written[] {
  const wanted = new Set(
    o.joints ?? [
      ...frames.joints,
      ...frames.scaled,
      ...[...frames.morphs, ...frames.pointed].map((m) => m.node),
    ],
  );
  const out = new Map<string, Written>();
  const add = (node: number, path: Written['path'], column: number, size: number) => {
    if (wanted.has(node)) out.set(`${node} ${path}`, { node, path, column, size });
  };
  for (const c of frames.parts) {
    if (o.parts !== null && !o.parts.includes(c.partId)) continue;
    c.paths.forEach((path, i) => {
      const column = c.joints.from + i;
      const node = frames.joints[column]!;
      if (path & TURNS) add(node, 'rotation', column, 4);
      if (path & MOVES) add(node, 'translation', column, 3);
    });
    for (let k = c.scaled.from; k < c.scaled.from + c.scaled.length; k++)
      add(frames.scaled[k]!, 'scale', k, 3);
    for (let k = c.morphs.from; k < c.morphs.from + c.morphs.length; k++) {
      const { node } = frames.morphs[k]!;
      // A channel of weights holds all of a mesh, and a part has columns for all of them.
      if (frames.morphs[k]!.target === 0)
        add(node, 'weights', k, character.meshes[character.nodes[node]!.mesh]!.weights.length);
    }
    for (const { node, curves } of pointSpans(frames, frames.parts.indexOf(c)))
      if (!curves) add(node, 'points', 0, 0);
  }
  return [...out.values()];
}

/** Numbers a value of a path has. */
const SIZES = { rotation: 4, translation: 3, scale: 3 } as const;

/** What was added to the clip is written too: without it the parts would hang from something else. */
function addedTo(
  character: Character,
  source: ClipSource,
  written: readonly Written[],
  o: BakeOptions,
): Written[] {
  if (o.into === 'offset') return [];
  const baked = new Set(written.map((w) => `${w.node} ${w.path}`));
  const out = new Map<string, Written>();
  for (const { node, path } of source.changed) {
    const size =
      path === 'weights' ? (character.meshes[character.nodes[node]!.mesh]?.weights.length ?? 0) : SIZES[path];
    if (!baked.has(`${node} ${path}`)) out.set(`${node} ${path}`, { node, path, column: -1, size });
  }
  return [...out.values()];
}

/** All moments of the clip: simulated ones, and every frame of the source before and after them. */
function everyMoment(inside: readonly Moment[], o: BakeOptions, lasts: number, fps: number): Moment[] {
  if (o.into === 'offset') return [...inside];
  const every: Moment[] = [];
  const clip = lasts < Infinity;
  // A thousandth of a frame of slack: durations are stored as float32.
  const clipLast = clip ? Math.ceil(lasts * fps - 1e-3) : o.last;
  for (let f = 0; f < Math.min(inside[0]!.frame, clipLast + 1); f++) every.push({ frame: f, row: null });
  every.push(...inside);
  for (let f = Math.max(o.last + 1, 0); f <= clipLast; f++)
    every.push({ frame: f === clipLast && clip ? Math.max(lasts * fps, f - 1) : f, row: null });
  return every;
}

/** The moments that are simulated: lead-in, then every step of the range, always with its last frame. */
function momentsInside(frames: Frames, o: BakeOptions, moments: readonly MomentRow[]): Moment[] {
  const between = momentsOf(o.step)!;
  const out: Moment[] = [];
  // Before frames that are left out nothing leads in.
  if (o.lead && o.first === frames.first)
    for (const m of moments) if (m.frame < o.first) out.push({ frame: m.frame, row: m });
  const step = between > 1 ? 1 : o.step;
  for (let f = o.first; f < o.last; f += step) {
    out.push({ frame: f, row: f - frames.first });
    if (between > 1)
      for (const m of moments) if (m.frame > f && m.frame < f + 1) out.push({ frame: m.frame, row: m });
  }
  out.push({ frame: o.last, row: o.last - frames.first });
  return out;
}

/** A value as the simulation has it. */
function valueOf(
  frames: Frames,
  row: number | MomentRow,
  column: number,
  path: BakedChannel['path'],
  size: number,
): Float64Array {
  const f = typeof row === 'number' ? row : 0;
  const rows = typeof row === 'number' ? frames : row;
  const sizes = sizesOf(frames);
  if (path === 'weights') {
    const at = f * sizes.morphs + column;
    return rows.weights.subarray(at, at + size);
  }
  const [list, wide] =
    path === 'scale'
      ? [rows.scales, sizes.scaled]
      : [path === 'rotation' ? rows.rotations : rows.translations, sizes.joints];
  const at = size * (f * wide + column);
  return list.subarray(at, at + size);
}

/** A value as a pose has it. */
function valueIn(pose: Pose, node: number, path: BakedChannel['path'], size: number): Float64Array {
  if (path === 'weights') return pose.morphs.get(node)!;
  const list = path === 'rotation' ? pose.r : path === 'scale' ? pose.s : pose.t;
  return list.subarray(size * node, size * node + size);
}

/** Moments in which what stands outside the baked ones is the source channel's own straight keys. */
function ownOutside(
  every: readonly Moment[],
  channels: readonly Channel[] | undefined,
  node: number,
  path: Channel['path'],
  fps: number,
): readonly Moment[] {
  const own = channels?.find((c) => c.node === node && c.path === path);
  const first = every.findIndex((m) => m.row !== null);
  const last = every.findLastIndex((m) => m.row !== null);
  if (own?.interpolation !== 'LINEAR' || (first === 0 && last === every.length - 1)) return every;
  const keys = Array.from(own.times, (t): Moment => ({ frame: t * fps, row: null }));
  const [before, after] = [every[first - 1], every[last + 1]];
  return [
    ...(before ? [...keys.filter((k) => k.frame < before.frame - 1e-3), before] : []),
    ...every.slice(first, last + 1),
    ...(after ? [after, ...keys.filter((k) => k.frame > after.frame + 1e-3)] : []),
  ];
}

/** What a bake asks of the simulation beside its frames. */
export function recordingFor(o: BakeOptions): Recording | null {
  const between = momentsOf(o.step) ?? 1;
  return o.lead || between > 1 ? { lead: o.lead, between, rows: [] } : null;
}

/**
 * Simulates a shot and bakes it, its refinements laid on it; says why a loop that was asked for was not found. A
 * generator: yields the share done after every frame.
 */
export function* bakeRefined(
  character: Character,
  shot: Shot,
  o: BakeOptions,
): Generator<number, { clip: BakedClip; report: ThinReport; trouble: string | null }> {
  checkBake(shot, o);
  const recording = recordingFor(o);
  const run = simulate(character, shot, {}, undefined, recording);
  const total = shot.range.last - shot.range.first + 1 + preRollFrames(shot);
  for (let n = 0; ; n++) {
    const step = run.next();
    if (step.done) {
      const { clip, report } = bakeClip(character, shot, step.value, o, recording?.rows);
      const refined = refineClip(character, shot, clip);
      return {
        clip: refined.clip,
        report: { ...report, after: report.after + refined.keys },
        trouble: loopTrouble(character, clipOf(character, shot), shot, step.value.start),
      };
    }
    yield Math.min(1, n / total);
  }
}

/** The character as baking a shot needs it: its meshes are read only where one moves by itself or is a collider. */
export const readForBake = (
  container: Container,
  shot: Pick<Shot, 'colliders' | 'parts'>,
  decoders: Decoders = {},
): Character =>
  readContainer(container, decoders, {
    skeletonOnly: !(
      Object.values(shot.colliders).some((c) => c.shape.kind === 'mesh' && !c.muted) ||
      Object.values(shot.parts).some((p) => movesPoints(p) || readsMesh(p))
    ),
  });

/** From an opened file and a shot to the bytes of the baked GLB. A generator like {@link bakeRefined}. */
export function* bakeGlb(
  container: Container,
  shot: Shot,
  o: BakeOptions,
  decoders: Decoders = {},
): Generator<number, { bytes: Uint8Array<ArrayBuffer>; report: ThinReport }> {
  checkBake(shot, o);
  const character = readForBake(container, shot, decoders);
  const { clip, report } = yield* bakeRefined(character, shot, o);
  return { bytes: writeFitted(container, character, shot, clip, o.vertices).bytes, report };
}
