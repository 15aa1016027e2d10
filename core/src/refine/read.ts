import { sampleChannel, type Channel, type Character } from '../character/index';
import { eulerFrom, sizeOf } from '../curves/index';
import { framesOf, timeOf, type Ground } from './curves';

/** A channel as it is read and drawn: Euler angles from the rest pose in degrees without jumps, or places. */
export interface ReadCurve {
  /** Frame of the first sample, and samples a frame. */
  readonly first: number;
  readonly perFrame: number;
  /** x, y, z a sample. */
  readonly samples: Float64Array;
  readonly keys: Float64Array;
  /** x, y, z a key. */
  readonly values: Float64Array;
}

/** A frame without what float32 times leave behind its decimals. */
export const plainFrame = (frame: number): number => Math.round(frame * 1e3) / 1e3;

/** Reads a channel over whole frames first..last; keys outside them are left out of `keys`. */
export function readCurve(
  c: Channel,
  character: Character,
  first: number,
  last: number,
  perFrame: number,
  g: Pick<Ground, 'fps' | 'shift'>,
): ReadCurve {
  const size = sizeOf(c);
  const rest = character.nodes[c.node]!.r;
  const count = (last - first) * perFrame + 1;
  const samples = new Float64Array(3 * count);
  const value = new Float64Array(size);
  const angles = new Float64Array(3);
  const read = (frame: number, out: Float64Array, at: number) => {
    sampleChannel(c, size, timeOf(frame, g), value, 0);
    if (c.path === 'rotation') {
      eulerFrom(angles, rest, value, 0, angles);
      out.set(angles, at);
    } else for (let k = 0; k < 3; k++) out[at + k] = value[k]!;
  };
  for (let n = 0; n < count; n++) read(first + n / perFrame, samples, 3 * n);
  const keys = framesOf(c, g)
    .map(plainFrame)
    .filter((f) => f >= first && f <= last);
  const values = new Float64Array(3 * keys.length);
  keys.forEach((frame, k) => {
    // On a sample it is that one; between two it is read from the nearer one on.
    const n = Math.round((frame - first) * perFrame);
    const near = samples.subarray(3 * n, 3 * n + 3);
    if (Math.abs(first + n / perFrame - frame) < 1e-4) values.set(near, 3 * k);
    else {
      angles.set(near);
      read(frame, values, 3 * k);
    }
  });
  return { first, perFrame, samples, keys, values };
}
