import { describe, expect, it } from 'vitest';
import { thigh } from '../../../test/thigh';
import { nodeNamed } from '../../../test/figure';
import { offsetsOf } from '../../../truth/softRig';
import { pointSpans, type Frames } from '../../frames/index';
import { diagnose, fitPartFeel, partFeel } from '../../measure/index';
import { makeWeightMap } from '../../model/index';
import { editShot, mendShot, type Shot } from '../../shot/index';
import { simulateAll, trackOf, type TrackCache } from '../../simulate/index';
import type { SkinPart } from './shared';

const place = (frames: Frames, id: string) => frames.parts.findIndex((p) => p.partId === id);
const offs = (frames: Frames, row: number) => offsetsOf(frames, row, place(frames, 'skin'));
const strays = (frames: Frames, id: string) =>
  Array.from(
    { length: frames.count },
    (_, f) => frames.tipOffSource[f * frames.parts.length + place(frames, id)]!,
  );

describe('a skin over a soft body', () => {
  it('lags behind a quick turn with what is below it, swings past, and settles', () => {
    const { character, shot } = thigh(6);
    expect(nodeNamed(character, 'skin').node).toBe(2);
    const frames = simulateAll(character, shot);
    const [skin, muscle] = [strays(frames, 'skin'), strays(frames, 'muscle')];
    const most = Math.max(...skin);
    expect(most).toBeGreaterThan(0.02);
    // It goes no farther than the muscle, and comes to rest with it.
    expect(most).toBeLessThan(1.1 * Math.max(...muscle));
    expect(most).toBeGreaterThan(0.6 * Math.max(...muscle));
    expect(skin.at(-1)!).toBeLessThan(0.02 * most);
    // While the leg turns toward −z its middle is left behind, and after the stop it goes past.
    const sideways = (f: number) => {
      const u = offs(frames, f);
      return u.reduce((s, x, k) => s + (k % 3 === 2 ? x : 0), 0) / (u.length / 3);
    };
    const along = Array.from({ length: 40 }, (_, f) => sideways(f));
    expect(Math.max(...along)).toBeGreaterThan(0.005);
    expect(Math.min(...along)).toBeLessThan(-0.005);
  });

  it('goes exactly with a body that is only shifted, wherever all of it is near', () => {
    // A steady pull leaves a body behind by the same way everywhere, but for its own strain.
    const { character, shot } = thigh(
      6,
      (p, d) => {
        p.reach = 1;
        Object.assign(d.parts.muscle!.settings, { holdDamping: 1, droop: 0.02 });
      },
      (t) => [0.4 * t * t, 0, 0, 0] as never,
    );
    const frames = simulateAll(character, shot);
    const u = offs(frames, 60);
    const far = 0.8 / (8 * Math.PI) ** 2;
    for (let o = 0; o < u.length; o += 3) {
      expect(-u[o]! / far).toBeCloseTo(1, 1);
      expect(Math.abs(u[o + 1]!) / far).toBeLessThan(0.05);
    }
  });

  it('leaves what is out of reach or not painted as it is animated, to the bit', () => {
    const { character, shot } = thigh(6, (p) => {
      const vertices = 6 * 7 * 7;
      p.maps.share = makeWeightMap(
        Float64Array.from({ length: vertices }, (_, v) => (v < vertices / 2 ? 1 : 0)),
      );
      p.settings.smoothing = 10;
    });
    const frames = simulateAll(character, shot);
    const [span] = pointSpans(frames, place(frames, 'skin'));
    expect(span!.picked!.length).toBeLessThan(6 * 7 * 7);
    expect(Math.max(...strays(frames, 'skin'))).toBeGreaterThan(0.01);
    const none = thigh(6, (p) => void (p.settings.amount = 0));
    expect(Math.max(...strays(simulateAll(none.character, none.shot), 'skin'))).toBe(0);
  });

  it('spreads less of a dent the more it is smoothed, and half a pass is between', () => {
    const rough = (smoothing: number) => {
      const { character, shot } = thigh(10, (p) => void (p.settings.smoothing = smoothing));
      const u = offs(simulateAll(character, shot), 8);
      return Math.max(...u.map(Math.abs));
    };
    const [none, half, one, many] = [0, 0.5, 1, 20].map(rough) as [number, number, number, number];
    expect(half).toBeLessThan(none);
    expect(one).toBeLessThan(half);
    expect(many).toBeLessThan(one);
  });

  it('says when nothing is below it or within reach, and one press cures it', () => {
    const cause = (change: (p: SkinPart, d: Shot) => void) => {
      const { character, shot } = thigh(4, change);
      const cache: TrackCache = {};
      const frames = simulateAll(character, shot, cache);
      return diagnose(character, shot, frames, cache.entry!.track).find((d) => d.partId === 'skin');
    };
    expect(cause(() => undefined)).toBeUndefined();
    expect(cause((p) => void (p.reach = 0.01))).toMatchObject({
      cause: 'out of reach',
      remedy: { says: 'Reach 2.0 cm' },
    });
    expect(cause((p) => void (p.below = []))?.cause).toBe('nothing below');
  });

  it('shows the feel of the body that it lies over, and says that the body is what to tune', () => {
    const { character, shot } = thigh(4);
    const track = trackOf(character, shot, {});
    const [muscle, skin] = [0, 1].map((index) => partFeel(shot, track, index));
    expect(Number.isFinite(muscle!.lag)).toBe(true);
    expect(skin).toEqual(muscle);
    expect(fitPartFeel(shot, track, 1, { lag: 2 }).why).toMatch(/tune those/);
    const bare = editShot(
      shot,
      'bare-0001',
      'Let go',
      (d) => void ((d.parts.skin as SkinPart).below = []),
    ).shot;
    expect(partFeel(bare, trackOf(character, bare, {}), 1).lag).toBeNaN();
  });

  it('lets go of a body that is removed, and stays as it is animated while the body is muted', () => {
    const { character, shot } = thigh(4);
    const parts = { skin: shot.parts.skin! };
    const [mended] = mendShot({ ...shot, parts });
    expect((mended.parts.skin as SkinPart).below).toEqual([]);
    expect(Math.max(...strays(simulateAll(character, mended), 'skin'))).toBe(0);
    const muted = editShot(shot, 'mute-0001', 'Mute', (d) => void (d.parts.muscle!.muted = true)).shot;
    expect(Math.max(...strays(simulateAll(character, muted), 'skin'))).toBe(0);
  });
});
