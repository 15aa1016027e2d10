import type { Character } from '../src/character/index';
import type { Frames } from '../src/frames/index';
import { asChain, type ChainPart, type ChainSettings } from '../src/parts/chain/shared';
import { editShot, type Shot } from '../src/shot/index';
import { simulateAll } from '../src/simulate/index';
import { makeRow, rowShot } from './rig';
import { atMost, type TruthRow } from './row';

const DEGREES = 180 / Math.PI;
export const FPS = 24;
/** A base that turns to and fro by 4° once a second. */
export const base = (seconds: number) =>
  makeRow(6, 0.6, seconds, (t) => ({
    place: [0, 0, 0],
    turn: (4 / DEGREES) * Math.sin(2 * Math.PI * t),
  }));
export const wag = { hold: 12, bend: 0, damping: 1, gravity: 0, travel: 0, turn: 0 };

export function swing(
  c: Character,
  settings: Partial<ChainSettings>,
  more: (part: ChainPart, shot: Shot) => void = () => {},
): Frames {
  const shot = rowShot(c, { ...wag, ...settings }, { fps: FPS });
  return simulateAll(c, editShot(shot, 'overlap-01', 'Edit', (d) => more(asChain(d.parts.p), d)).shot);
}

/** Size (°) and lag (frames) behind the base of a joint's own turn at 1 Hz, over frames from first to last. */
export function swingOf(frames: Frames, joint: number, first: number, last: number) {
  const wide = frames.rotations.length / frames.count;
  let [s, c] = [0, 0];
  for (let f = first; f < last; f++) {
    const q = f * wide + 4 * joint;
    const angle = 2 * Math.atan2(frames.rotations[q + 2]!, frames.rotations[q + 3]!) * DEGREES;
    s += (2 * angle * Math.sin((2 * Math.PI * f) / FPS)) / (last - first);
    c += (2 * angle * Math.cos((2 * Math.PI * f) / FPS)) / (last - first);
  }
  const lag = (Math.atan2(-c, s) / (2 * Math.PI)) * FPS;
  return { size: Math.hypot(s, c), lag: lag < -1 ? lag + FPS : lag };
}

/** 23: overlap hands a swing of the base down six joints, each later and larger as asked; in a loop it closes. */
export function overlap(): TruthRow[] {
  const settings = { overlap: 100, overlapGain: 130, overlapLag: 1.5 };
  const long = swing(base(8), settings);
  let [gain, lag, before] = [0, 0, { size: 4, lag: 0 }];
  for (let i = 0; i < 6; i++) {
    const now = swingOf(long, i, 6 * FPS, 8 * FPS);
    gain = Math.max(gain, Math.abs(now.size / before.size / 1.3 - 1));
    lag = Math.max(lag, Math.abs((now.lag - before.lag) / 1.5 - 1));
    before = now;
  }
  const loop = swing(base(1), settings, (_, shot) => void (shot.loop = true));
  const wide = loop.rotations.length / loop.count;
  let seam = loop.start.loop?.found ? 0 : Infinity;
  for (let k = 0; k < wide; k++)
    seam = Math.max(seam, Math.abs(loop.rotations[FPS * wide + k]! - loop.rotations[k]!));
  return [
    atMost(23, 'base ±4° at 1 Hz, six joints: gain a joint off by, share', gain, 0.05),
    atMost(23, 'the same: lag a joint off by, share', lag, 0.05),
    atMost(23, 'the same in a loop: last frame off the first', seam, 0),
  ];
}
