import { describe, expect, it } from 'vitest';
import { makeRow, rowShot } from '../../truth/rig';
import { Collider } from '../model/index';
import { asChain, chainSettingsFor } from '../parts/chain/shared';
import { editShot, type Shot } from '../shot/index';
import { simulateAll, type TrackCache } from '../simulate/index';
import { lumpMasses, NO_FEEL } from '../solver/index';
import { fitDroop, fitFeel, measureFeel, restDroop } from '../parts/chain/feel';
import { applyRemedy, diagnose, loopGap, measureShot, peakAcceleration, roughness } from './index';

const links = 8;
const lengths = new Float64Array(links).fill(0.05);
const matter = { lengths, masses: lumpMasses(lengths, 0.1) };
const shape = Float64Array.from({ length: 3 * links + 3 }, (_, k) => (k % 3 === 0 ? (k / 3) * 0.05 : 0));

describe('feel', () => {
  it('says what the simulation of the same turn does, within 5 %', () => {
    // A row along x that turns 30° about z in 1/6 s, as a shot.
    const turn = (t: number) => {
      const s = Math.min(1, Math.max(0, (t - 0.2) * 6));
      return { place: [0, 0, 0] as const, turn: (Math.PI / 6) * s ** 3 * (10 + s * (6 * s - 15)) };
    };
    const settings = { hold: 1, bend: 1.5, damping: 0.2, gravity: 0 };
    const c = makeRow(links, 0.4, 3, turn, { direction: [1, 0, 0] });
    const fps = 120;
    const frames = simulateAll(c, rowShot(c, settings, { fps, substeps: 4 }));
    const share = Array.from(
      { length: frames.count },
      (_, f) => Math.atan2(frames.tips[3 * f + 1]!, frames.tips[3 * f]!) / (Math.PI / 6),
    );
    const feel = measureFeel(matter, { ...NO_FEEL, ...settings, gravity: [0, 0, 0] }, shape, fps);
    const half = share.findIndex((s) => s >= 0.5);
    const at = half - 1 + (0.5 - share[half - 1]!) / (share[half]! - share[half - 1]!);
    expect(Math.abs(at - (0.2 + 1 / 12) * fps - feel.lag)).toBeLessThan(0.05 * feel.lag + 0.1);
    expect(Math.abs((Math.max(...share) - 1) * 100 - feel.overshoot)).toBeLessThan(0.05 * feel.overshoot);
    let last = 0;
    share.forEach((s, f) => Math.abs(s - 1) > 0.05 && (last = f));
    expect(Math.abs(last - (0.2 + 1 / 6) * fps - feel.settle)).toBeLessThan(0.05 * feel.settle + 1);
  });
  it('is the same in frames a second for any frame rate', () => {
    const feel = { ...NO_FEEL, hold: 1, bend: 1.5, damping: 0.2 };
    const [a, b] = [24, 60].map((fps) => measureFeel(matter, feel, shape, fps));
    expect(a!.lag / 24).toBeCloseTo(b!.lag / 60, 9);
    expect(a!.overshoot).toBe(b!.overshoot);
  });
  it('droop is where the simulation comes to rest, and asked for it is had by hold', () => {
    const gravity = [0, -9.81, 0] as const;
    const h = 1 / 240;
    const settings = { hold: 1.6, bend: 0.2, damping: 0.8 };
    const feel = { ...NO_FEEL, ...settings, gravity };
    const c = makeRow(links, 0.4, 6, () => ({ place: [0, 0, 0], turn: 0 }), { direction: [1, 0, 0] });
    const f = simulateAll(c, rowShot(c, settings, { preRoll: 0 }));
    const last = 3 * (f.count - 1);
    const seen = (-Math.atan2(f.tips[last + 1]!, f.tips[last]!) * 180) / Math.PI;
    expect(restDroop(matter, feel, shape, h)).toBeCloseTo(seen, 1);
    for (const asked of [5, 20, 60]) {
      const { hold, droop } = fitDroop(matter, feel, shape, h, asked);
      expect(droop).toBeCloseTo(asked, 1);
      expect(restDroop(matter, { ...feel, hold }, shape, h)).toBeCloseTo(asked, 1);
    }
    // Bend alone holds it higher than that.
    expect(fitDroop(matter, { ...feel, bend: 5 }, shape, h, 60).hold).toBe(0);
    expect(restDroop(matter, { ...feel, gravity: [0, 0, 0] }, shape, h)).toBe(0);
  });
  it('fitting gives what is asked within 5 %, or says what it came to', () => {
    const base = { ...NO_FEEL, hold: 1.6, bend: 2.4, damping: 0.35 };
    for (const asked of [
      { lag: 4, overshoot: 20 },
      { lag: 2, overshoot: 40 },
      { overshoot: 10 },
      { settle: 14 },
    ]) {
      const fit = fitFeel(matter, base, shape, 30, asked);
      expect(fit.why).toBe('');
      for (const [key, want] of Object.entries(asked))
        expect(Math.abs(fit.feel[key as 'lag'] - want)).toBeLessThan(0.05 * want + 0.05);
    }
    const all = fitFeel(matter, base, shape, 30, { lag: 8, overshoot: 60, settle: 3 });
    expect(all.why).toMatch(/settle comes out at/);
  });
});

const sway = (t: number) => ({ place: [0.2 * Math.sin(4 * t), 0, 0] as const, turn: 0.6 * Math.sin(5 * t) });
const still = () => ({ place: [0, 0, 0] as const, turn: 0 });

describe('lag and overshoot on the shot itself', () => {
  const look = (c: ReturnType<typeof makeRow>, settings: Parameters<typeof rowShot>[1], fps = 60) => {
    const cache: TrackCache = {};
    const shot = rowShot(c, settings, { fps, preRoll: 60 });
    const frames = simulateAll(c, shot, cache);
    return { frames, shot: measureShot(shot, frames, cache.entry!.track, 0) };
  };
  it('lag is the phase by which the tip swings behind a swaying root', () => {
    const turn = (t: number) => ({ place: [0, 0, 0] as const, turn: 0.3 * Math.sin(2 * Math.PI * t) });
    const c = makeRow(links, 0.4, 4, turn, { direction: [1, 0, 0] });
    const lags = [5, 2].map((hold) => {
      const { frames, shot } = look(c, { hold, bend: hold, damping: 0.4, gravity: 0 });
      // Phase of the tip at 1 Hz over the last whole second, by least squares.
      let [si, co] = [0, 0];
      for (let f = frames.count - 61; f < frames.count - 1; f++) {
        const angle = Math.atan2(frames.tips[3 * f + 1]!, frames.tips[3 * f]!);
        si += angle * Math.sin((2 * Math.PI * f) / 60);
        co += angle * Math.cos((2 * Math.PI * f) / 60);
      }
      expect(shot.lag).toBeCloseTo((Math.atan2(-co, si) * 60) / (2 * Math.PI), 0);
      return shot.lag;
    });
    expect(lags[1]).toBeGreaterThan(2 * lags[0]!);
  });
  it('overshoot is that of the standard turn when the shot is that turn', () => {
    const turn = (t: number) => {
      const s = Math.min(1, Math.max(0, (t - 0.2) * 6));
      return { place: [0, 0, 0] as const, turn: (Math.PI / 6) * s ** 3 * (10 + s * (6 * s - 15)) };
    };
    const c = makeRow(links, 0.4, 4, turn, { direction: [1, 0, 0] });
    const settings = { hold: 1, bend: 1.5, damping: 0.25, gravity: 0 };
    const { shot } = look(c, settings);
    const feel = measureFeel(matter, { ...NO_FEEL, ...settings, gravity: [0, 0, 0] }, shape, 60);
    expect(Math.abs(shot.overshoot - feel.overshoot)).toBeLessThan(0.1 * feel.overshoot);
  });
  it('a source that does not turn has neither', () => {
    const c = makeRow(links, 0.4, 1, (t) => ({ place: [0.2 * Math.sin(9 * t), 0, 0], turn: 0 }));
    expect(look(c, {}).shot).toMatchObject({ lag: NaN, overshoot: NaN });
  });
});

describe('diagnoses', () => {
  /** Causes found, and whether pressing the remedy of the first of a cause cures it. */
  const look = (c: ReturnType<typeof makeRow>, shot: Shot) => {
    const cache: TrackCache = {};
    const frames = simulateAll(c, shot, cache);
    return diagnose(c, shot, frames, cache.entry!.track);
  };
  const causes = (c: ReturnType<typeof makeRow>, shot: Shot) => look(c, shot).map((d) => d.cause);
  const cured = (c: ReturnType<typeof makeRow>, shot: Shot, cause: string) => {
    const found = look(c, shot).find((d) => d.cause === cause)!;
    expect(found, cause).toBeDefined();
    expect(found.sentence).toContain('Row');
    const next = editShot(shot, 'cure-0001', found.remedy.says, (d) =>
      applyRemedy(d as Shot, found.partId, found.remedy),
    ).shot;
    expect(causes(c, next)).not.toContain(cause);
  };
  const swaying = makeRow(links, 0.4, 1.5, sway);

  it('a chain that swings well has none', () => {
    expect(causes(swaying, rowShot(swaying, { hold: 1.5, bend: 2 }, { preRoll: 10 }))).toEqual([]);
  });
  it('a rig whose size makes no sense, cured by the unit its file is likely to be in', () => {
    // Modelled in centimetres, taken for metres.
    const large = makeRow(links, 170, 1.5, (t) => ({ place: [0, 0, 0], turn: sway(t).turn }));
    cured(large, rowShot(large, { hold: 1.5 }), 'size in doubt');
    expect(look(large, rowShot(large, {}))[0]!.remedy.change).toEqual({ kind: 'unit', metres: 0.01 });
    // A whisker is short, and a figure of a usual size.
    expect(causes(swaying, rowShot(swaying, { hold: 1.5, bend: 2 }))).not.toContain('size in doubt');
  });
  it('a root that travels evenly and does not turn, cured by a small swing of its base', () => {
    const even = makeRow(links, 0.4, 1.5, (t) => ({ place: [0.8 * t, 0, 0], turn: 0 }));
    cured(even, rowShot(even, { hold: 1.5 }), 'nothing to follow');
    expect(look(even, rowShot(even, {})).find((d) => d.cause === 'nothing to follow')!.sentence).toMatch(
      /Travel response does little/,
    );
  });
  it('a root that travels but does not turn, cured by travel response', () => {
    const c = makeRow(links, 0.4, 1, (t) => ({ place: [t, 0, 0], turn: 0 }));
    cured(c, rowShot(c, {}), 'nothing to follow');
  });
  it('a root that does not move at all, cured by a light wind', () => {
    const c = makeRow(links, 0.4, 1, still);
    cured(c, rowShot(c, {}), 'nothing to follow');
  });
  it('keys on a setting are left alone: no remedy sets a value that is not used', () => {
    const shot = editShot(
      rowShot(swaying, { damping: 1.5, hold: 12, delayPerJoint: 6 }),
      'test-0001',
      'Key',
      (d) => {
        for (const key of ['damping', 'hold', 'delayPerJoint'] as const)
          asChain(d.parts.p).keys[key] = [
            { frame: 0, value: key === 'delayPerJoint' ? 0 : 1, kind: 'linear' },
          ];
      },
    ).shot;
    expect(causes(swaying, shot)).toEqual([]);
  });
  it('a start that is not settled', () => {
    const c = makeRow(links, 0.4, 1, still, { direction: [1, 0, 0] });
    cured(c, rowShot(c, { hold: 0.3, bend: 0.3, travel: 150 }), 'not settled');
  });
  it('gravity that a short chain cannot hold against, cured by less of it', () => {
    const mouse = makeRow(links, 0.02, 1.5, sway, { direction: [1, 0, 0] });
    cured(mouse, rowShot(mouse, {}), 'gravity outweighs it');
    const limp = { hold: 0, bend: 0, damping: 0.3 };
    expect(causes(mouse, rowShot(mouse, limp, { preRoll: 30 })), 'on purpose').toEqual([]);
    const hanging = makeRow(links, 0.02, 1.5, sway);
    expect(causes(hanging, rowShot(hanging, {}, { preRoll: 10 })), 'its source hangs').toEqual([]);
  });
  it('a new chain holds its shape, whatever its size', () => {
    for (const length of [0.005, 0.02, 0.4, 30]) {
      const c = makeRow(links, length, 1.5, still, { direction: [1, 0, 0] });
      const f = simulateAll(c, { ...rowShot(c, chainSettingsFor(length)), start: 'settled' });
      expect(Math.max(...f.tipOffSource) / length, `${length} m`).toBeLessThan(0.3);
    }
  });
  it('damping that hides the swing, a delay that is too long, a frequency no frame can show', () => {
    cured(swaying, rowShot(swaying, { damping: 1.5 }), 'damping hides the swing');
    cured(swaying, rowShot(swaying, { delayPerJoint: 6 }), 'delay too long');
    cured(swaying, rowShot(swaying, { hold: 12 }), 'frame rate too low');
  });
  it('keys on a part that is muted', () => {
    const shot = editShot(rowShot(swaying, {}), 'test-0001', 'Mute', (d) => {
      d.parts.p!.muted = true;
      asChain(d.parts.p).keys.hold = [{ frame: 0, value: 2, kind: 'linear' }];
    }).shot;
    cured(swaying, shot, 'keyed but muted');
  });
  it('a start inside a collider, cured by leaving it out', () => {
    const c = makeRow(links, 0.4, 1, sway);
    const shot = editShot(rowShot(c, { thickness: 0.01 }), 'test-0001', 'Add collider', (d) => {
      d.colliders.c = Collider.parse({
        id: 'c',
        name: 'C',
        t: [0.02, -0.3, 0],
        shape: { kind: 'sphere', radius: 0.1 },
      });
    }).shot;
    cured(c, shot, 'starts inside');
  });
  it('a chain whose root is driven into a collider, cured by leaving that one out', () => {
    const c = makeRow(links, 0.4, 1, (t) => ({ place: [0.5 * t, 0, 0], turn: 0.3 * Math.sin(6 * t) }));
    const shot = editShot(rowShot(c, { thickness: 0.01 }), 'test-0001', 'Add colliders', (d) => {
      for (const [id, x] of [
        ['far-one', 3],
        ['near-one', 0.45],
      ] as const)
        d.colliders[id] = Collider.parse({
          id,
          name: id,
          t: [x, -0.05, 0],
          shape: { kind: 'sphere', radius: 0.2 },
        });
    }).shot;
    cured(c, shot, 'passes through');
    const found = look(c, shot).find((d) => d.cause === 'passes through')!;
    expect(found.remedy.change).toEqual({ kind: 'leave out', colliders: ['near-one'] });
  });
});

describe('measures of motion', () => {
  it('a swing is smooth, the same swing with jitter on it is rough', () => {
    const run = (jitter: number) => {
      const c = makeRow(links, 0.4, 2, (t) => ({
        place: [0.2 * Math.sin(4 * t) + jitter * Math.sin(2 * Math.PI * 13 * t), 0, 0],
        turn: 0,
      }));
      return simulateAll(c, rowShot(c, { hold: 8, bend: 8 }));
    };
    expect(roughness(run(0), 0, 30, 8)).toBeLessThan(0.05);
    expect(roughness(run(0.01), 0, 30, 8)).toBeGreaterThan(0.5);
    expect(peakAcceleration(run(0.01), 0, 30)).toBeGreaterThan(2 * peakAcceleration(run(0), 0, 30));
  });
  it('a loop has no gap, the same shot without it has one', () => {
    const c = makeRow(links, 0.4, 1, (t) => ({ place: [0, 0, 0], turn: 0.7 * Math.sin(2 * Math.PI * t) }));
    const shot = rowShot(c, { hold: 0.8, bend: 1, damping: 0.02 });
    expect(loopGap(simulateAll(c, shot))).toBeGreaterThan(0.005);
    const loop = simulateAll(c, { ...shot, loop: true });
    expect(loop.start.loop).toMatchObject({ found: true });
    expect(loopGap(loop)).toBe(0);
  });
});
