import { guessFps, rigSize, sampleChannel, type Channel } from '../character/index';
import { extremes, sizeOf, thinChannel, worstError } from '../curves/index';
import {
  readContainer,
  writeGlb,
  type BakedChannel,
  type Container,
  type Decoders,
} from '../formats/gltf/index';
import { keepSigns } from '../formats/motion/index';
import { OscillumError } from '../model/index';
import type { ThinReport } from './thinning';

export interface ThinClipOptions {
  readonly kind: 'linear' | 'cubic';
  readonly degrees: number;
  /** Tolerance of places and scales, as a share of the rig's size (and of 1). */
  readonly share: number;
}

/**
 * Thins every channel of one clip of a file, in its place: read on every frame of its rate, then as {@link
 * thinChannel}. Morph weights stay. Throws OscillumError('bake.invalid') when there is no such clip.
 */
export function thinClip(
  container: Container,
  clip: number,
  o: ThinClipOptions,
  decoders: Decoders = {},
): { bytes: Uint8Array<ArrayBuffer>; report: ThinReport } {
  const character = readContainer(container, decoders, { skeletonOnly: true });
  const own = character.clips[clip];
  if (!own)
    throw new OscillumError(
      'bake.invalid',
      `There is no clip ${clip}; this character has ${character.clips.length}`,
      'clip',
      'Give the number of a clip, from 0.',
    );
  const fps = guessFps(own);
  const report = { before: 0, after: 0, degrees: 0, millimetres: 0, joint: '', part: '' };
  const size = rigSize(character);
  const channels = own.channels
    .filter((c) => c.path !== 'weights')
    .map((c): BakedChannel => {
      const all = everyFrame(c, own.duration, fps);
      const tolerance = c.path === 'rotation' ? o.degrees : o.share * (c.path === 'scale' ? 1 : size);
      const few = thinChannel(all, { kind: o.kind, tolerance, keep: extremes(all, tolerance), loop: false });
      report.before += c.times.length;
      report.after += few.times.length;
      const off = c.path === 'rotation' ? (worstError(all, few) * 180) / Math.PI : 0;
      if (off > report.degrees) {
        report.degrees = off;
        report.joint = character.nodes[c.node]!.name;
      }
      return few as BakedChannel;
    });
  const bytes = writeGlb(container, {
    name: own.name,
    channels,
    source: clip,
    replace: true,
    shift: 0,
    extras: {},
  });
  return { bytes, report };
}

/** A channel with a straight key on every frame, quaternions on the side of the one before. */
function everyFrame(c: Channel, duration: number, fps: number): Channel {
  const size = sizeOf(c);
  const last = Math.max(0, Math.ceil(duration * fps - 1e-3));
  const times = Float64Array.from({ length: last + 1 }, (_, f) => Math.min(f / fps, Math.max(duration, 0)));
  const values = new Float64Array(size * times.length);
  times.forEach((t, k) => sampleChannel(c, size, t, values, size * k));
  if (c.path === 'rotation') keepSigns(values, 1);
  return { node: c.node, path: c.path, interpolation: 'LINEAR', times, values };
}
