import { describe, expect, it } from 'vitest';
import { makeRow, rowShot } from '../../truth/rig';
import { mulberry32, quatRotate } from '../math/index';
import { OscillumError } from '../model/index';
import { asChain, makeChainPart } from '../parts/chain/shared';
import { editShot, type Shot } from '../shot/index';
import { makePose, rootMatrix, samplePose, worldMatrices, type Character } from '../character/index';
import type { Frames } from '../frames/index';
import { simulate, simulateAll } from './index';

const sway = (t: number) => ({ place: [0.2 * Math.sin(4 * t), 0, 0] as const, turn: 0.8 * Math.sin(5 * t) });
const still = () => ({ place: [0, 0, 0] as const, turn: 0 });
const bits = (f: Frames) => Buffer.from(f.rotations.buffer).toString('base64');

/** World places of the row's joints at row f. */
function places(c: Character, shot: Shot, frames: Frames, f: number): number[][] {
  const pose = makePose(c);
  samplePose(c, c.clips[0]!, (frames.first + f) / shot.fps, pose);
  const n = frames.joints.length;
  frames.joints.forEach((node, i) => {
    pose.r.set(frames.rotations.subarray(4 * (f * n + i), 4 * (f * n + i) + 4), 4 * node);
    pose.t.set(frames.translations.subarray(3 * (f * n + i), 3 * (f * n + i) + 3), 3 * node);
  });
  const world = new Float64Array(16 * c.nodes.length);
  worldMatrices(c, pose, rootMatrix(shot.character.metresPerUnit, shot.character.upAxis), world);
  return c.nodes.map((_, i) => [12, 13, 14].map((k) => world[16 * i + k]!));
}

describe('a simulated shot', () => {
  it('without outside motion and without gravity stays on its source, curled or not', () => {
    for (const curl of [0, 0.3]) {
      const c = makeRow(8, 0.5, 2, still, { curl });
      const frames = simulateAll(c, rowShot(c, { gravity: 0 }, { preRoll: 5 }));
      expect(Math.max(...frames.offSource)).toBeLessThan(1e-4);
    }
  });
  it('gives the same bits twice, and a kept source track changes nothing', () => {
    const c = makeRow(8, 0.5, 2, sway, { curl: 0.1 });
    const shot = rowShot(c, {}, { preRoll: 3 });
    const cache = {};
    const first = bits(simulateAll(c, shot, cache));
    expect(bits(simulateAll(c, shot, cache))).toBe(first);
    expect(bits(simulateAll(c, shot))).toBe(first);
  });
  it('keeps joint lengths and scales when stretch is 0, and its points are where the joints are', () => {
    const c = makeRow(10, 0.5, 2, sway, { curl: 0.1 });
    const shot = rowShot(c, { hold: 0.5, bend: 1 });
    const frames = simulateAll(c, shot);
    for (let f = 0; f < frames.count; f += 7) {
      const p = places(c, shot, frames, f);
      for (let i = 2; i < p.length; i++)
        expect(Math.hypot(...p[i]!.map((x, k) => x - p[i - 1]![k]!))).toBeCloseTo(0.05, 9);
      // The row's last node is the chain's tip.
      [0, 1, 2].forEach((k) => expect(frames.tips[3 * f + k]!).toBeCloseTo(p.at(-1)![k]!, 6));
    }
  });
  it('stretch lets links lengthen under load, never beyond its share', () => {
    const c = makeRow(6, 0.5, 2, sway);
    const shot = rowShot(c, { hold: 0.3, bend: 0, gravity: 3, stretch: 20 });
    const frames = simulateAll(c, shot);
    const p = places(c, shot, frames, frames.count - 1);
    const lengths = p.slice(2).map((q, i) => Math.hypot(...q.map((x, k) => x - p[i + 1]![k]!)) / (0.5 / 6));
    expect(Math.max(...lengths)).toBeGreaterThan(1.03);
    expect(Math.max(...lengths)).toBeLessThanOrEqual(1.2 + 1e-9);
  });
  it('amount 0 is the source to the bit of a rounding, 50 lies between', () => {
    const c = makeRow(6, 0.5, 1, sway);
    const at = (amount: number) => simulateAll(c, rowShot(c, { amount, hold: 0.5 }));
    const none = at(0);
    none.rotations.forEach((q, i) => expect(q).toBeCloseTo(i % 4 === 3 ? 1 : 0, 12));
    expect(Math.max(...at(50).offSource)).toBeGreaterThan(0.2 * Math.max(...at(100).offSource));
    expect(Math.max(...at(50).offSource)).toBeLessThan(0.8 * Math.max(...at(100).offSource));
  });
  it('more hold strays less, more bend strays less, more gravity droops more', () => {
    const c = makeRow(8, 0.5, 3, sway, { direction: [1, 0, 0] });
    const offSource = (s: Parameters<typeof rowShot>[1]) => {
      const f = simulateAll(c, rowShot(c, s));
      return f.offSource.reduce((a, b) => a + b, 0) / f.count;
    };
    expect(offSource({ hold: 4, gravity: 0 })).toBeLessThan(offSource({ hold: 1, gravity: 0 }));
    expect(offSource({ bend: 8, hold: 0, gravity: 0 })).toBeLessThan(
      offSource({ bend: 2, hold: 0, gravity: 0 }),
    );
    expect(offSource({ gravity: 3 })).toBeGreaterThan(offSource({ gravity: 0.5 }));
  });
  it('more damping swings less after a stop', () => {
    const stop = (t: number) => ({ place: [0, 0, 0] as const, turn: Math.min(1, t / 0.15) });
    const c = makeRow(8, 0.5, 3, stop);
    const late = (damping: number) =>
      Math.max(
        ...simulateAll(c, rowShot(c, { damping, hold: 1, bend: 1.5, gravity: 0 })).offSource.slice(45),
      );
    expect(late(0.05)).toBeGreaterThan(4 * late(0.4));
    expect(late(1)).toBeLessThan(late(0.4));
  });
  it('twist is the source’s own, and nothing flips when a chain swings far round', () => {
    const c = makeRow(8, 0.5, 3, (t) => ({ place: [0, 0, 0], turn: 9 * Math.sin(2 * t) }));
    const shot = rowShot(c, { hold: 0.2, bend: 0.3, damping: 0.05, gravity: 1 });
    const frames = simulateAll(c, shot);
    const n = frames.joints.length;
    const z = [0, 0, 0];
    for (let f = 0; f < frames.count; f++) {
      // The row moves in the x–y plane: its z axes never leave z.
      for (let i = 0; i < n; i++) {
        quatRotate(z, 0, frames.rotations, 4 * (f * n + i), [0, 0, 1], 0);
        expect(z[2]).toBeGreaterThan(1 - 1e-6);
      }
    }
  });
  it('the same character in centimetres and in metres moves alike', () => {
    const shape = (m: number) => {
      const c = makeRow(8, 0.5, 2, sway, { metresPerUnit: m });
      return simulateAll(c, rowShot(c, {}, { metresPerUnit: m }));
    };
    const a = shape(1),
      b = shape(0.01);
    a.rotations.forEach((x, i) => expect(Math.abs(x - b.rotations[i]!)).toBeLessThan(1e-9));
  });
  it('a chain below another follows it; muting a part changes nothing it does not carry', () => {
    const c = makeRow(8, 0.8, 2, sway);
    const whole = rowShot(c, {});
    const split = (mutedUpper: boolean) =>
      editShot(whole, 'test-0001', 'Split', (d) => {
        const joints = asChain(whole.parts.p).joints;
        const part = (id: string, list: typeof joints, muted: boolean) =>
          makeChainPart({
            id,
            name: id,
            muted,
            joints: list,
            settings: { hold: 0.8 },
          });
        d.parts = {
          upper: part('upper', joints.slice(0, 4), mutedUpper),
          lower: part('lower', joints.slice(4), false),
        };
      }).shot;
    const both = simulateAll(c, split(false));
    const p = places(c, split(false), both, 40);
    const lower = both.parts.findIndex((k) => k.partId === 'lower');
    [0, 1, 2].forEach((k) => expect(both.tips[3 * (40 * 2 + lower) + k]!).toBeCloseTo(p.at(-1)![k]!, 5));
    const alone = simulateAll(c, split(true));
    expect(alone.parts.map((k) => k.partId)).toEqual(['lower']);
    // The order of parts in the document is of no account.
    const shot = split(false);
    const reversed = { ...shot, parts: Object.fromEntries(Object.entries(shot.parts).reverse()) };
    expect(bits(simulateAll(c, reversed))).toBe(bits(both));
  });
  it('frames come as they are ready, and a stopped run can be left', () => {
    const c = makeRow(4, 0.3, 1, sway);
    const run = simulate(c, rowShot(c, {}, { preRoll: 4 }));
    const seen: number[] = [];
    for (let k = 0; k < 8; k++) seen.push(run.next().value.done);
    expect(seen).toEqual([0, 0, 0, 0, 1, 2, 3, 4]);
  });
  it('joints of another character are named, not guessed', () => {
    const c = makeRow(4, 0.3, 1, sway);
    const other = makeRow(4, 0.3, 1, sway);
    (other.nodes[2] as { name: string }).name = 'elsewhere';
    expect(() => simulateAll(other, rowShot(c, {}))).toThrow(OscillumError);
  });
});

describe('wild shots', () => {
  it('300 random valid shots give no NaN and no link longer than it may be', () => {
    const random = mulberry32(99);
    for (let n = 0; n < 300; n++) {
      const links = 1 + Math.floor(random() * 14);
      const speed = random() * 12;
      const jump = random() < 0.2 ? 3 : 0;
      const c = makeRow(
        links,
        0.02 + random() * 2,
        0.5,
        (t) => ({
          place: [random() * 0.001 + (t > 0.2 ? jump : 0), Math.sin(speed * t), 0],
          turn: speed * t,
        }),
        { curl: random() },
      );
      const shot = rowShot(
        c,
        {
          hold: random() * 30,
          bend: random() * 30,
          damping: random() * 4,
          stretch: random() < 0.5 ? 0 : random() * 100,
          gravity: random() * 20 - 10,
        },
        {
          fps: 12 + Math.floor(random() * 100),
          substeps: 1 + Math.floor(random() * 12),
          preRoll: Math.floor(random() * 5),
        },
      );
      const frames = simulateAll(c, shot);
      expect(frames.rotations.every(Number.isFinite)).toBe(true);
      expect(frames.tips.every((x) => Math.abs(x) < 100)).toBe(true);
    }
  });
});
