import type { Channel, Character } from '../character/index';
import { sizeOf } from '../curves/index';
import type { BakedChannel, BakedClip } from '../formats/gltf/index';
import type { ChannelRef, Refinement, RefineLayer, Seen } from '../model/index';
import type { Shot } from '../shot/index';
import { apart, channelKey, denseOf, groundOf, type Curves, type Ground } from './curves';
import { keyChannel } from './keys';
import { shapeChannel } from './shape';

/** Frames of a channel that are remembered, at most. */
const REMEMBERED = 120;
/** So far from what it was, a curve no longer fits what was laid on it: degrees, and a share of how far it moves. */
export const FITS = { degrees: 5, share: 0.1 };

/** One refinement laid on curves; those it does not touch are the same objects. */
export function layStep(curves: Curves, step: Refinement, g: Ground): Curves {
  if (step.muted) return curves;
  const out = new Map(curves);
  const chosen = new Set(step.channels.map((r) => r.joint.node));
  step.channels.forEach(({ joint, path }, k) => {
    const key = channelKey(joint.node, path);
    const c = curves.get(key);
    if (!c || c.times.length === 0 || g.character.nodes[joint.node]?.name !== joint.name) return;
    const { does } = step;
    switch (does.tool) {
      case 'move':
      case 'insert':
      case 'delete':
      case 'slope':
      case 'handle':
      case 'paste':
        out.set(key, keyChannel(c, step, does, k, g));
        break;
      default:
        out.set(key, shapeChannel(c, step, does, placeInRow(g.character, joint.node, chosen), g));
    }
  });
  return out;
}

/** How many joints above one are chosen too. */
function placeInRow(character: Character, node: number, chosen: ReadonlySet<number>): number {
  let n = 0;
  for (let p = character.nodes[node]!.parent; p >= 0; p = character.nodes[p]!.parent) if (chosen.has(p)) n++;
  return n;
}

/** Whether anything is laid over a shot's bake. */
export const isRefined = ({ refine }: Shot): boolean => !refine.muted && refine.steps.some((s) => !s.muted);

/** All refinements of a layer laid on curves. */
export function layAll(curves: Curves, layer: RefineLayer, g: Ground): Curves {
  return layer.muted ? curves : layer.steps.reduce((now, step) => layStep(now, step, g), curves);
}

/**
 * All curves of a clip that is to be written: those that were baked, and those of its source that are carried along
 * (not morph weights; those of scale are never refined).
 */
export function curvesOf(character: Character, clip: BakedClip): Map<string, Channel> {
  const out = new Map<string, Channel>();
  for (const c of character.clips[clip.source]?.channels ?? []) {
    if (c.path === 'weights') continue;
    out.set(channelKey(c.node, c.path), { ...c, times: c.times.map((t) => t + clip.shift) });
  }
  for (const c of clip.channels) out.set(channelKey(c.node, c.path), c);
  return out;
}

/** A clip that is to be written with the refinements of its shot laid on it; keys that came, less those that went. */
export function refineClip(
  character: Character,
  shot: Shot,
  clip: BakedClip,
): { clip: BakedClip; keys: number } {
  if (!isRefined(shot)) return { clip, keys: 0 };
  const before = curvesOf(character, clip);
  const after = layAll(before, shot.refine, groundOf(character, shot, clip.shift));
  const baked = new Set(clip.channels.map((c) => channelKey(c.node, c.path)));
  let keys = 0;
  const channels: BakedChannel[] = [];
  for (const [key, c] of after) {
    const was = before.get(key)!;
    if (c === was && !baked.has(key)) continue;
    keys += c.times.length - was.times.length;
    channels.push(c as BakedChannel);
  }
  return { clip: { ...clip, channels }, keys };
}

/** What channels are under the refinements, to be compared with later. */
export function rememberCurves(
  curves: Curves,
  channels: readonly ChannelRef[],
  first: number,
  last: number,
  g: Pick<Ground, 'fps' | 'shift'>,
): Record<string, Seen> {
  const every = Math.max(1, Math.ceil((last - first + 1) / REMEMBERED));
  const count = Math.floor((last - first) / every) + 1;
  const out: Record<string, Seen> = {};
  for (const { joint, path } of channels) {
    const key = channelKey(joint.node, path);
    const c = curves.get(key);
    if (!c) continue;
    const size = sizeOf(c);
    const all = denseOf(c, first, (count - 1) * every + 1, g);
    const values: number[] = [];
    for (let k = 0; k < count; k++)
      for (let i = 0; i < size; i++) values.push(Number(all[size * every * k + i]!.toPrecision(4)));
    out[key] = { first, every, values };
  }
  return out;
}

/** Where a bake has changed under what is laid on it. */
export interface Misfit {
  readonly step: string;
  /** First and last frame of what no longer fits. */
  readonly first: number;
  readonly last: number;
  /** The joint that is off farthest, and by how much: degrees, or the file's unit for places. */
  readonly node: number;
  readonly path: 'rotation' | 'translation';
  readonly by: number;
}

/** Refinements under which the bake is no longer what it was when they were made. */
export function misfits(curves: Curves, layer: RefineLayer, g: Pick<Ground, 'fps' | 'shift'>): Misfit[] {
  const off = new Map<string, { frame: number; by: number }[]>();
  const offOf = (key: string) => {
    const known = off.get(key);
    if (known) return known;
    const [c, seen] = [curves.get(key), layer.seen[key]];
    const found: { frame: number; by: number }[] = [];
    off.set(key, found);
    if (!c || !seen) return found;
    const size = sizeOf(c);
    const count = seen.values.length / size;
    const now = denseOf(c, seen.first, (count - 1) * seen.every + 1, g);
    let reach = 0;
    for (let k = 0; k < count; k++)
      reach = Math.max(reach, apart(c.path, seen.values, size * k, seen.values, 0));
    const limit = c.path === 'rotation' ? (FITS.degrees * Math.PI) / 180 : Math.max(1e-6, FITS.share * reach);
    for (let k = 0; k < count; k++) {
      const by = apart(c.path, now, size * seen.every * k, seen.values, size * k);
      if (by > limit) found.push({ frame: seen.first + seen.every * k, by });
    }
    return found;
  };
  return layer.steps.flatMap((step): Misfit[] => {
    if (step.muted) return [];
    const found = step.channels.flatMap(({ joint, path }) =>
      offOf(channelKey(joint.node, path))
        .filter(({ frame }) => frame >= step.first && frame <= step.last)
        .map(({ frame, by }) => ({
          ...{ frame, path, node: joint.node },
          by: path === 'rotation' ? (by * 180) / Math.PI : by,
        })),
    );
    if (found.length === 0) return [];
    const { node, path, by } = found.reduce((a, b) => (b.by > a.by ? b : a));
    const frames = found.map((f) => f.frame);
    const first = frames.reduce((a, b) => Math.min(a, b));
    const last = frames.reduce((a, b) => Math.max(a, b));
    return [{ step: step.id, first, last, node, path, by }];
  });
}
