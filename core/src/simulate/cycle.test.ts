import { describe, expect, it } from 'vitest';
import { makeRow, rowShot, type RootMotion } from '../../truth/rig';
import { bakeClip, defaultBake } from '../bake/index';
import type { Character } from '../character/index';
import type { Frames } from '../frames/index';
import { editShot, type Shot } from '../shot/index';
import { clipOf, findCycle, simulateAll } from './index';

const FPS = 30;
/** One time a second: it walks on by 1.2 m, bobs and rocks. */
const walk: RootMotion = (t) => ({
  place: [1.2 * t, 0.05 * Math.sin(4 * Math.PI * t), 0],
  turn: 0.4 * Math.sin(2 * Math.PI * t),
});
const settings = { hold: 1.2, bend: 1.5, damping: 0.25 };

const edited = (c: Character, change: (d: Shot) => void): Shot =>
  editShot(rowShot(c, settings, { fps: FPS, substeps: 4 }), 'cycle-0001', 'Edit', change).shot;
const find = (c: Character, shot: Shot) => findCycle(c, clipOf(c, shot), shot)!;

/** Largest difference of any number of the joints' own turns between two frames. */
function apart(frames: Frames, a: number, b: number): number {
  const wide = frames.rotations.length / frames.count;
  let most = 0;
  for (let k = 0; k < wide; k++)
    most = Math.max(most, Math.abs(frames.rotations[a * wide + k]! - frames.rotations[b * wide + k]!));
  return most;
}
const repeated = (times: number, more: (d: Shot) => void = () => {}) => {
  const c = makeRow(6, 0.5, 1, walk);
  const shot = edited(c, (d) => {
    d.cycle.repeats = times;
    d.range.last = times * FPS;
    more(d);
  });
  return { c, shot, frames: simulateAll(c, shot) };
};

describe('a clip repeated', () => {
  it('carries its travel on, and its cycles agree from the loop’s own state', () => {
    const { frames } = repeated(3, (d) => void (d.loop = true));
    expect(frames.start.loop?.found).toBe(true);
    for (let f = 0; f <= 2 * FPS; f++) expect(apart(frames, f, f + FPS)).toBeLessThan(1e-6);
    const tip = (f: number) => frames.tips[3 * f]!;
    for (let f = 0; f <= 2 * FPS; f++) expect(tip(f + FPS) - tip(f)).toBeCloseTo(1.2, 4);
    // One time by itself is the same.
    const once = repeated(1, (d) => void (d.loop = true)).frames;
    const wide = once.rotations.length / once.count;
    for (let k = 0; k < wide * FPS; k++)
      expect(Math.abs(once.rotations[k]! - frames.rotations[k]!)).toBeLessThan(1e-6);
  });
  it('from rest it comes to agree with the cycle before', () => {
    const { frames } = repeated(6, (d) => void (d.preRollSeconds = 0.4));
    expect(apart(frames, 10, 10 + FPS)).toBeGreaterThan(1e-3);
    expect(apart(frames, 4 * FPS, 5 * FPS)).toBeLessThan(1e-3);
  });
  it('a run-up comes through the cycle before', () => {
    const loop = repeated(1, (d) => void (d.loop = true)).frames;
    const run = repeated(1, (d) => {
      d.start = 'run up';
      d.preRollSeconds = 8;
    }).frames;
    const wide = loop.rotations.length / loop.count;
    for (let k = 0; k < wide; k++)
      expect(Math.abs(run.rotations[k]! - loop.rotations[k]!)).toBeLessThan(1e-3);
  });
  it('is baked with all its times', () => {
    const { c, shot, frames } = repeated(3);
    const { clip } = bakeClip(c, shot, frames, defaultBake(shot));
    const root = clip.channels.find((x) => x.node === 0 && x.path === 'translation')!;
    expect(root.times.at(-1)).toBeCloseTo(3, 6);
    expect(root.values[root.values.length - 3]).toBeCloseTo(3.6, 6);
  });
});

describe('cycles as exporters write them', () => {
  /** The shot with the cure that was found, over one whole cycle, looped. */
  const cured = (c: Character, shot: Shot, last: number) => {
    const { cure } = find(c, shot);
    return editShot(shot, 'cycle-0002', 'Cure', (d) => {
      Object.assign(d.cycle, cure);
      d.range.last = last;
      d.loop = true;
    }).shot;
  };
  const loops = (c: Character, shot: Shot) => simulateAll(c, shot).start.loop!;

  it('one that closes is left alone', () => {
    const c = makeRow(6, 0.5, 1, walk);
    expect(
      find(
        c,
        edited(c, () => {}),
      ),
    ).toMatchObject({ kind: 'closes', cure: null });
  });
  it('the repeated last frame is left out: it is added', () => {
    const c = walker(29 / 30);
    const shot = edited(c, (d) => void (d.loop = true));
    expect(loops(c, shot)).toMatchObject({ found: false, why: 'clip' });
    expect(find(c, shot).kind).toBe('missing frame');
    const whole = cured(c, shot, 30);
    expect(find(c, whole).kind).toBe('closes');
    expect(loops(c, whole).found).toBe(true);
    expect(simulateAll(c, whole).tips[3 * 30]! - simulateAll(c, whole).tips[0]!).toBeCloseTo(1.2, 2);
  });
  it('it misses its first pose a little: its end is led there', () => {
    const c = walker(1, 1, 0.3);
    const shot = edited(c, (d) => void (d.loop = true));
    expect(find(c, shot).kind).toBe('misses');
    expect(find(c, shot).sentence).toMatch(/misses its first pose by [\d.]+ mm and 0\.3°/);
    expect(loops(c, shot).found).toBe(false);
    const whole = cured(c, shot, 30);
    expect(find(c, whole).kind).toBe('closes');
    expect(loops(c, whole).found).toBe(true);
  });
  it('86.4 frames at the shot’s rate: fitted to 86', () => {
    const c = walker(2.88, 2.88);
    const shot = edited(c, (d) => void (d.loop = true));
    expect(find(c, shot)).toMatchObject({ kind: 'part of a frame', cure: { frames: 86 } });
    expect(loops(c, shot).found).toBe(false);
    const whole = cured(c, shot, 86);
    expect(find(c, whole).kind).toBe('closes');
    expect(loops(c, whole).found).toBe(true);
  });
  it('one that goes elsewhere is no cycle', () => {
    const c = walker(1, 1, 50);
    expect(
      find(
        c,
        edited(c, () => {}),
      ),
    ).toMatchObject({ kind: 'open', cure: null });
  });
});

/** The row with its second joint turning as a formula of time says, degrees; keys on every frame of the clip. */
function bent(c: Character, degrees: (t: number) => number): Character {
  const { duration, channels, ...clip } = c.clips[0]!;
  const count = Math.round(duration * 300) + 1;
  const times = Float64Array.from({ length: count }, (_, k) => (k * duration) / (count - 1));
  const values = Float64Array.from({ length: 4 * count }, (_, i) => {
    const half = (degrees(times[Math.floor(i / 4)]!) * Math.PI) / 360;
    return i % 4 === 2 ? Math.sin(half) : i % 4 === 3 ? Math.cos(half) : 0;
  });
  const bend = { node: 2, path: 'rotation' as const, interpolation: 'LINEAR' as const, times, values };
  return { ...c, clips: [{ ...clip, duration, channels: [...channels, bend] }] };
}
/** Of a walk that lasts so many seconds a time: the row bends once a time, and by `off` degrees more at its end. */
const walker = (seconds: number, time = 1, off = 0): Character =>
  bent(
    makeRow(6, 0.5, seconds, (t) => walk(t / time)),
    (t) => 15 * Math.sin((2 * Math.PI * t) / time + 1) + (off * t) / time,
  );
