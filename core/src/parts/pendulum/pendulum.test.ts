import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { makeRow } from '../../../truth/rig';
import { applyRemedy, diagnose, fitPartFeel, partFeel } from '../../measure/index';
import { quatAngle, quatMultiply } from '../../math/index';
import { editShot, makeShot, type Shot } from '../../shot/index';
import { simulateAll, type TrackCache } from '../../simulate/index';
import { makeAnswer } from './answer';
import { softly } from './limits';
import { advancePair, stepOf } from './pair';
import { PENDULUM_PRESETS, signalKeys } from './presets';
import { makePendulumPart, type Output, type PendulumPart } from './shared';

/** Four joints in a row below a root that turns to and fro about z once a second. */
const character = makeRow(4, 0.8, 4, (t) => ({ place: [0, 0, 0], turn: 0.4 * Math.sin(2 * Math.PI * t) }));
const joint = (node: number) => ({ node, name: character.nodes[node]!.name });
const turn = (id: string, node: number, more: Partial<Output> = {}): Output => ({
  ...{ id, pendulum: 1, delay: 0, gain: 1, offset: 0, low: null, high: null, order: 'on top' },
  ...{ target: { does: 'turn', joint: joint(node), axis: 'z' } },
  ...more,
});
const part = (id: string, more: Partial<PendulumPart> & { outputs: Output[] }): PendulumPart =>
  makePendulumPart({ id, name: id, input: { from: 'turn', joint: joint(0), axis: 'z' }, ...more });

function shotOf(parts: readonly PendulumPart[], set: Partial<Shot> = {}, fps = 30): Shot {
  const clip = { index: 0, name: 'clip', duration: 4 };
  const shot = makeShot({ name: 'Row', hash: '0'.repeat(64), fileName: 'r.glb', fps, clip });
  return editShot({ ...shot, ...set }, 'pendulum-1', 'Make', (d) => {
    for (const p of parts) d.parts[p.id] = p;
  }).shot;
}
function simulated(shot: Shot) {
  const cache: TrackCache = {};
  const frames = simulateAll(character, shot, cache);
  /** Degrees about z of the shown local rotation of a node; the column that stands last counts. */
  const angles = (node: number) => {
    const column = frames.joints.lastIndexOf(node);
    return Array.from({ length: frames.count }, (_, f) => {
      const q = 4 * (f * frames.joints.length + column);
      return (2 * Math.atan2(frames.rotations[q + 2]!, frames.rotations[q + 3]!) * 180) / Math.PI;
    });
  };
  return { frames, track: cache.entry!.track, angles };
}
const largest = (list: readonly number[]) => list.reduce((m, x, i) => (x > list[m]! ? i : m), 0);

describe('a pair of pendulums', () => {
  it('without overshoot never passes what it follows, whatever its settings and however they are coupled', () => {
    const hz = fc.double({ min: 0.05, max: 30, noNaN: true });
    const ratio = fc.double({ min: 0, max: 4, noNaN: true });
    fc.assert(
      fc.property(
        hz,
        hz,
        ratio,
        ratio,
        fc.double({ min: 0, max: 10, noNaN: true }),
        (f, g, z, y, coupling) => {
          const pair = { frequency: f, frequency2: g, damping: z, damping2: y, coupling, noOvershoot: true };
          const step = stepOf(pair, 1 / 240);
          const state = new Float64Array(4);
          let most = 0;
          for (let k = 0; k < 2400; k++) {
            advancePair(state, step, k === 0 ? 0 : 1, 1);
            most = Math.max(most, state[0]!, state[1]!);
          }
          expect(most).toBeLessThanOrEqual(1 + 1e-9);
        },
      ),
      { numRuns: 200 },
    );
  });
  it('repeats exactly where its input does, be it ever so lightly damped', () => {
    const p = part('p', { outputs: [] });
    Object.assign(p.settings, { damping: 0.01, damping2: 0.01, frequency: 1.04, coupling: 0.7 });
    const signal = (f: number) => Math.sin((2 * Math.PI * f) / 30) + 0.4 * Math.cos((6 * Math.PI * f) / 30);
    const answer = makeAnswer(p, { signal, from: 0, to: 30, fps: 30, period: 30 });
    for (const pendulum of [1, 2] as const) {
      const [before, at, after] = [29.999999, 0, 1e-6].map((f) => answer.at(pendulum, f));
      expect(Math.abs(before! - at!)).toBeLessThan(1e-5);
      // It goes on at the speed it came with.
      expect(Math.abs(at! - before! - (after! - at!))).toBeLessThan(1e-6);
    }
  });
  it('a soft limit changes nothing well within it and is never reached', () => {
    expect(softly(0.5, -1, 1)).toBe(0.5);
    for (const x of [1, 5, 1e6]) {
      expect(softly(x, -1, 1)).toBeLessThanOrEqual(1);
      expect(softly(x, null, 2)).toBeLessThanOrEqual(2);
      expect(softly(-x, -2, null)).toBeGreaterThanOrEqual(-2);
    }
    expect(softly(2, null, 1)).toBeLessThan(softly(3, null, 1));
  });
});

describe('what a pendulum drives', () => {
  it('comes later the longer each output waits, with the same peak', () => {
    const outputs = [0, 4, 9].map((delay, i) => turn(`o${i}`, i + 1, { delay }));
    const { angles } = simulated(shotOf([part('p', { outputs })]));
    const peaks = [1, 2, 3].map((node) => largest(angles(node).slice(60, 90)));
    expect([peaks[1]! - peaks[0]!, peaks[2]! - peaks[0]!]).toEqual([4, 9]);
  });
  it('adds up where two drive one joint', () => {
    const one = part('a', { outputs: [turn('o', 2, { gain: 0.5 })] });
    const two = part('b', { outputs: [turn('o', 2, { gain: 0.25 })] });
    const alone = [one, two].map((p) => simulated(shotOf([p])).angles(2));
    const both = simulated(shotOf([one, two])).angles(2);
    both.forEach((x, f) => expect(x).toBeCloseTo(alone[0]![f]! + alone[1]![f]!, 6));
  });
  it('does not carry a joint with its parent when it takes that out first', () => {
    const world = (order: Output['order']) => {
      const outputs = [turn('a', 1, { gain: 2 }), turn('b', 3, { gain: 0, order })];
      const { track } = simulated(shotOf([part('p', { outputs })]));
      return [20, 50].map((f) => {
        const q = Float64Array.of(0, 0, 0, 1);
        const { pose } = track.poseAt(f);
        for (const n of [0, 1, 2, 3]) quatMultiply(q, 0, q, 0, pose.r, 4 * n);
        return q;
      });
    };
    const still = simulated(shotOf([part('p', { outputs: [] })]));
    [20, 50].forEach((f, i) => {
      const q = Float64Array.of(0, 0, 0, 1);
      for (const n of [0, 1, 2, 3]) quatMultiply(q, 0, q, 0, still.track.poseAt(f).pose.r, 4 * n);
      expect(quatAngle(world('instead')[i]!, 0, q, 0)).toBeLessThan(1e-6);
    });
    expect(quatAngle(world('on top')[0]!, 0, world('instead')[0]!, 0)).toBeGreaterThan(0.02);
  });
  it('is the same motion at 24 and at 60 frames a second', () => {
    const p = part('p', { outputs: [turn('o', 2)] });
    const [a, b] = [24, 60].map((fps) => {
      const set = { start: 'run up' as const, preRollSeconds: 2 };
      return simulated(shotOf([p], set, fps)).angles(2);
    });
    const reach = Math.max(...b!);
    for (let half = 0; half < 7; half++)
      expect(Math.abs(a![12 * half]! - b![30 * half]!)).toBeLessThan(0.01 * reach);
  });
  it('a loop ends as it begins', () => {
    const shot = shotOf([part('p', { outputs: [turn('o', 2)] })], {
      loop: true,
      range: { first: 0, last: 30 },
    });
    const { frames, angles } = simulated(shot);
    expect(frames.start.loop).toMatchObject({ found: true });
    expect(Math.abs(angles(2)[0]! - angles(2)[30]!)).toBeLessThan(1e-6);
  });
});

describe('what is said of a pendulum', () => {
  const cure = (shot: Shot, cause: string) => {
    const { frames, track } = simulated(shot);
    const found = diagnose(character, shot, frames, track).find((d) => d.cause === cause);
    expect(found?.sentence).toBeTruthy();
    const cured = editShot(shot, 'cure-0001', 'Cure', (d) => applyRemedy(d as Shot, 'p', found!.remedy)).shot;
    const after = simulated(cured);
    expect(diagnose(character, cured, after.frames, after.track).map((d) => d.cause)).not.toContain(cause);
    return cured;
  };
  it('a joint below another that it turns too is driven twice; taking that out cures it', () => {
    const shot = shotOf([part('p', { outputs: [turn('a', 1), turn('b', 3)] })]);
    expect((cure(shot, 'driven twice').parts.p as PendulumPart).outputs[1]!.order).toBe('instead');
  });
  it('an input that does not move; a drawn breath cures it', () => {
    const input = { from: 'turn' as const, joint: joint(2), axis: 'x' as const };
    cure(shotOf([part('p', { input, outputs: [turn('a', 1)] })]), 'nothing to follow');
  });
  it('an output pressed against its limit', () => {
    cure(shotOf([part('p', { outputs: [turn('a', 1, { gain: 1, high: 19 })] })]), 'no room left');
  });
  it('its feel is fitted to what is asked, or what it came to is said', () => {
    const shot = shotOf([part('p', { outputs: [turn('a', 1)] })]);
    const { track } = simulated(shot);
    const { settings, feel, why } = fitPartFeel(shot, track, 0, { lag: 6, overshoot: 20 });
    expect(why).toBe('');
    expect([feel.lag, feel.overshoot].map(Math.round)).toEqual([6, 20]);
    const fitted = editShot(
      shot,
      'fit-00001',
      'Fit',
      (d) => void Object.assign(d.parts.p!.settings, settings),
    ).shot;
    expect(partFeel(fitted, track, 0).lag).toBeCloseTo(feel.lag, 6);
    expect(fitPartFeel(shot, track, 0, { lag: 6, overshoot: 20, settle: 500 }).why).toMatch(/settle/);
  });
  it.each(PENDULUM_PRESETS.map((p) => [p.name, p] as const))(
    'the preset %s is valid and moves',
    (_, preset) => {
      const input = { from: 'drawn' as const, keys: signalKeys(preset, 30), cycles: true };
      const p = makePendulumPart({ id: 'p', name: 'p', input, outputs: [turn('a', 1, { gain: 10 })] });
      Object.assign(p.settings, preset.settings);
      const { angles } = simulated(shotOf([p]));
      expect(Math.max(...angles(1)) - Math.min(...angles(1))).toBeGreaterThan(3);
    },
  );
});
