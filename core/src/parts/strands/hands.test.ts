import { describe, expect, it } from 'vitest';
import { far, hairFrames, hangingHair, LONG, tips } from '../../../test/hangingHair';
import { editShot, type Shot } from '../../shot/index';
import { simulateAll, type TrackCache } from '../../simulate/index';
import { fitPose } from './fitPose';
import { layOutStrands } from './layout';
import { makeGroom, readGroom, type StrandPull, type StrandsPart } from './shared';

type Own = Partial<Pick<StrandsPart, 'pulls' | 'poses' | 'keepsGroom'>>;
const LOOSE = { hold: 1, bend: 1, damping: 0.7 };

/** Hair with pulls or poses of its own, as it goes. */
function framesOf(own: Own, settings: Partial<StrandsPart['settings']> = LOOSE, more: Partial<Shot> = {}) {
  const { character, shot } = hangingHair(settings, more);
  const hair = { ...(shot.parts.hair as StrandsPart), ...own };
  return simulateAll(character, { ...shot, parts: { hair } });
}
const hairOf = (settings: Partial<StrandsPart['settings']> = LOOSE) =>
  hangingHair(settings).shot.parts.hair as StrandsPart;

/** A hand that takes the tip of the first guide 6 cm to the side in half a second, from frame 6 on. */
function pull(more: Partial<StrandPull> = {}): StrandPull {
  const tip = tips(hairFrames({ amount: 0 }), 0)[0]!;
  const path = Array.from({ length: 24 }, (_, k): [number, number, number] => [
    tip[0]! + 0.06 * Math.min(1, k / 12),
    tip[1]!,
    tip[2]!,
  ]);
  return { id: 'pull', guide: 0, along: 1, reach: 0.01, first: 6, path, strength: 6, slip: 1e5, ...more };
}

describe('a hand', () => {
  it('draws the hair it holds along and lets it swing back, and leaves what is out of its reach', () => {
    const [held, free] = [framesOf({ pulls: [pull({ reach: 0.03 })] }), framesOf({})];
    const at = (f: number, k: number) => far(tips(held, f)[k]!, tips(free, f)[k]!);
    expect(at(5, 0)).toBe(0);
    expect(at(28, 0)).toBeGreaterThan(0.03);
    expect(at(36, 0)).toBeLessThan(0.7 * at(28, 0));
    const rest = tips(free, 0);
    const away = rest.map((t, k) => [far(t, rest[0]!), k] as const);
    for (const [d, k] of away) if (d > 0.04) expect(at(28, k)).toBeLessThan(1e-9);
    expect(away.some(([d, k]) => k > 0 && d < 0.03 && at(28, k) > 0.005)).toBe(true);
  });

  it('slips off when it is farther away than it holds', () => {
    const [slips, holds] = [
      framesOf({ pulls: [pull({ slip: 0.01, strength: 1 })] }),
      framesOf({ pulls: [pull({ strength: 1 })] }),
    ];
    const off = (frames: typeof slips) => far(tips(frames, 28)[0]!, tips(framesOf({}), 28)[0]!);
    expect(off(slips)).toBeLessThan(0.5 * off(holds));
  });

  it('changes no frame before it takes hold, and goes on from kept ones to the same bits', () => {
    const { character, shot } = hangingHair(LOOSE);
    const withPull = (first: number) =>
      editShot(shot, 'pull-0001', 'Pull', (d) => {
        (d.parts.hair as StrandsPart).pulls = [pull({ first })];
      }).shot;
    const cache: TrackCache = { reuse: true };
    simulateAll(character, withPull(20), cache);
    const again = simulateAll(character, withPull(24), cache);
    expect(again.points).toEqual(simulateAll(character, withPull(24)).points);
  });
});

describe('a pose by hand', () => {
  const hair = hairOf();
  /** All guides level, to the side. */
  const level = makeGroom(
    readGroom(hair.groom).map((g) =>
      g.map((_, o) => (o % 3 === 0 ? g[0]! + (LONG * Math.floor(o / 3)) / (g.length / 3 - 1) : g[o % 3]!)),
    ),
  );
  const pose = { frame: 20, hold: 2, easeIn: 6, easeOut: 8, groom: level };

  it('is shown as it is combed on its frame and while it stays, and comes and goes in its frames', () => {
    const [posed, free] = [framesOf({ poses: [pose] }), framesOf({})];
    const wanted = readGroom(level).map((g) => g.slice(-3));
    const off = (f: number) => Math.max(...tips(posed, f).map((t, k) => far(t, wanted[k]!)));
    for (const f of [20, 21, 22]) expect(off(f)).toBeLessThan(1e-6);
    for (const f of [14, 30]) expect(tips(posed, f)).toEqual(tips(free, f));
    expect(off(17)).toBeGreaterThan(0.01);
    expect(off(17)).toBeLessThan(0.09);
  });

  it('does nothing that was combed with other guides', () => {
    const other = { ...pose, groom: makeGroom(readGroom(level).slice(1)) };
    expect(framesOf({ poses: [other] }).points).toEqual(framesOf({}).points);
  });
});

describe('a combed example', () => {
  it('is met by the hold and bend that are fitted to it', () => {
    const { character, shot } = hangingHair({ hold: 1.1, bend: 1.7, root: 1, damping: 1, gravity: 1 });
    const sideways: Shot = { ...shot, gravity: [9.81, 0, 0] };
    const own = { ...(shot.parts.hair as StrandsPart), keepsGroom: false };
    const long = { ...sideways, range: { first: 0, last: 47 }, parts: { hair: own } };
    const track: TrackCache = {};
    const frames = simulateAll(character, long, track);
    // As it has come to hang.
    let at = 0;
    const hung = readGroom(own.groom).map((g) => {
      const from = 3 * (47 * (frames.points.length / 3 / frames.count) + at);
      at += g.length / 3;
      return Float64Array.from(frames.points.subarray(from, from + g.length));
    });
    const layout = layOutStrands(character, own, 1);
    const asked = { ...own, settings: { ...own.settings, hold: 4, bend: 0.3 } };
    const needs = {
      posed: track.entry!.track.poseAt(0),
      gravity: [9.81, 0, 0],
      upAxis: 'Y',
      frame: 0,
    } as const;
    const fitted = fitPose(character, asked, layout, needs, makeGroom(hung))!;
    expect(fitted.before).toBeGreaterThan(5);
    expect(fitted.after).toBeLessThan(0.5);
    expect(fitted.hold).toBeGreaterThan(0.9);
    expect(fitted.hold).toBeLessThan(1.3);
    expect(fitPose(character, asked, layout, needs, makeGroom(hung.slice(1)))).toBeNull();
  });
});

describe('a bead', () => {
  it('slows the guides that it hangs on', () => {
    const swing = (weight: number) => {
      const band = { at: 1, bundles: 60, firmness: 6, drawn: 0, weight };
      const way = (t: number): [number, number, number] => [t < 0.05 ? 0 : 0.02, 0, 0];
      const frames = hairFrames(
        { hold: 2, bend: 0, damping: 0, root: 1, gravity: 0 },
        { range: { first: 0, last: 40 } },
        way,
        { bands: [{ ...band, bundles: 20 }] },
      );
      const x = Array.from({ length: 41 }, (_, f) => tips(frames, f)[0]![0]!);
      return x.findIndex((v) => v > x[0]! + 0.01);
    };
    // A guide weighs 0.4 g, and three share a bead.
    expect(swing(0)).toBeGreaterThan(0);
    expect(swing(1)).toBeGreaterThan(swing(0));
  });
});
