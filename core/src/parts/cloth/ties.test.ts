import { describe, expect, it } from 'vitest';
import { character, MESH, ponchoShot } from '../../../test/poncho';
import { restWorld } from '../../character/index';
import type { Frames } from '../../frames/index';
import { coarseShot, simulateAll, trackOf, type TrackCache } from '../../simulate/index';
import { diagnose } from '../../measure/index';
import { heldPoints, sheetOf } from '../../sheets/index';
import { parseShot, type Part, type Shot } from '../../shot/index';
import { makeChainPart } from '../chain/shared';
import type { ClothPart, Tie } from './document';
import { makeClothPart } from './shared';

const RANGE = { first: 20, last: 55 };
const nodeOf = (name: string) => character.nodes.findIndex((n) => n.name === name);
const ref = (name: string) => ({ node: nodeOf(name), name });
const LAPPETS = nodeOf('lappets mesh');
const hem: Tie['what'] = { by: 'rim', rim: 1 };
const tipOf = (from = 0.5): Tie['what'] => ({ by: 'joint', joint: ref('lappet left 4'), from });

/** The lappets as a cloth, held by what the head weighs of them. */
const lappets = (ties: Tie[]): ClothPart =>
  makeClothPart({
    ...{ id: 'lappets', name: 'Lappets', mesh: ref('lappets mesh'), ties, collidesWith: { colliders: [] } },
    holds: [{ by: 'joint', joint: ref('lappet left 1'), from: 0.3 }],
  });
const shotOf = (parts: Record<string, Part>): Shot => ({
  ...ponchoShot(undefined, { range: RANGE, start: 'wait', preRollSeconds: 0 }),
  parts,
});
const poncho = (ties: Tie[] = []): Part => ({ ...(ponchoShot().parts.poncho as ClothPart), ties });

/** Places of some points of a cloth's mesh on a frame, m, 3 numbers each. */
function placesOf(frames: Frames, node: number, points: readonly number[], f: number): number[] {
  const { pointOf } = sheetOf(character, node);
  const before = frames.pointed.slice(
    0,
    frames.pointed.findIndex((p) => p.node === node),
  );
  const wide = frames.pointed.reduce((n, p) => n + p.vertices, 0);
  const from = f * wide + before.reduce((n, p) => n + p.vertices, 0);
  return points.flatMap((p) => {
    const at = 3 * (from + pointOf.indexOf(p));
    return [...frames.points.subarray(at, at + 3)];
  });
}
const pointsOf = (node: number, what: Tie['what']): number[] => {
  const held = heldPoints(character, node, [what], sheetOf(character, node));
  return [...held.keys()].filter((p) => held[p]);
};
const apart = (a: readonly number[], b: readonly number[]) =>
  a.reduce((m, x, k) => Math.max(m, Math.abs(x - b[k]!)), 0);

describe('a cloth that is tied', () => {
  it('to a joint goes where it takes it from its place at rest, once the gap of half a second is closed', () => {
    const cache: TrackCache = {};
    const shot = shotOf({
      poncho: poncho([{ what: hem, to: { by: 'joint', joint: ref('head') }, pulls: false }]),
    });
    const frames = simulateAll(character, shot, cache);
    const { track } = cache.entry!;
    const points = pointsOf(MESH, hem);
    const rest = restWorld(character);
    const { rest: x } = sheetOf(character, MESH);
    const head = 16 * nodeOf('head');
    for (const f of [20, 35]) {
      const { world } = track.poseAt(f);
      const meant = points.flatMap((p) => {
        // All turns of her rig at rest are none, so the space of the head at rest is the world moved.
        const local = [0, 1, 2].map((a) => x[3 * p + a]! - rest[head + 12 + a]!);
        return [0, 1, 2].map(
          (r) =>
            world[head + 12 + r]! + [0, 1, 2].reduce((s, c) => s + world[head + 4 * c + r]! * local[c]!, 0),
        );
      });
      expect(apart(placesOf(frames, MESH, points, f), meant)).toBeLessThan(1e-5);
    }
    // Nothing else holds it, and it does not fall: no advice says so.
    const alone = { ...(shot.parts.poncho as ClothPart), holds: [] };
    const said = (part: ClothPart) => {
      const own = { ...shot, parts: { poncho: part } };
      const made: TrackCache = {};
      const simulated = simulateAll(character, own, made);
      return diagnose(character, own, simulated, made.entry!.track).map((d) => d.cause);
    };
    expect(said({ ...alone, ties: [] })).toContain('nothing holds it');
    expect(said(alone)).not.toContain('nothing holds it');
    // It begins where its skin is: nothing jumps.
    const loose = simulateAll(character, shotOf({ poncho: poncho() }));
    expect(apart(placesOf(frames, MESH, points, 0), placesOf(loose, MESH, points, 0))).toBeLessThan(1e-5);
    expect(apart(placesOf(frames, MESH, points, 35), placesOf(loose, MESH, points, 35))).toBeGreaterThan(
      0.05,
    );
  });

  it('to the last joint of a chain goes along with its tip, and pulls it where that is asked', () => {
    const joints = [1, 2, 3, 4].map((k) => ref(`lappet left ${k}`));
    const chain = makeChainPart({ id: 'lappet', name: 'Lappet', joints, collidesWith: { colliders: [] } });
    Object.assign(chain.settings, { hold: 1 });
    const run = (pulls: boolean, ties = true) =>
      simulateAll(
        character,
        shotOf({
          lappet: chain,
          poncho: poncho(
            ties ? [{ what: { by: 'rim', rim: 1 }, to: { by: 'joint', joint: joints[3]! }, pulls }] : [],
          ),
        }),
      );
    const swing = (f: Frames) => f.tipOffSource.filter((_, k) => k % f.parts.length === 0);
    const [off, oneWay, bothWays] = [run(false, false), run(false), run(true)];
    expect([...swing(oneWay)]).toEqual([...swing(off)]);
    expect(apart([...swing(bothWays)], [...swing(off)])).toBeGreaterThan(0.01);
    expect([...bothWays.points].every(Number.isFinite)).toBe(true);
  });

  it('to another cloth meets its nearest points; with a pull both give way, and the gap stays small', () => {
    const tie = (pulls: boolean): Tie => ({
      what: tipOf(),
      to: { by: 'cloth', part: 'poncho' as never },
      pulls,
    });
    const points = pointsOf(LAPPETS, tipOf());
    expect(points.length).toBeGreaterThan(3);
    const run = (pulls: boolean) =>
      simulateAll(character, shotOf({ lappets: lappets([tie(pulls)]), poncho: poncho() }));
    const gaps = (frames: Frames, f: number) => {
      const all = placesOf(frames, MESH, [...Array(sheetOf(character, MESH).points).keys()], f);
      const own = placesOf(frames, LAPPETS, points, f);
      return points.map((_, k) => {
        let least = Infinity;
        for (let o = 0; o < all.length; o += 3)
          least = Math.min(least, Math.hypot(...[0, 1, 2].map((a) => all[o + a]! - own[3 * k + a]!)));
        return least;
      });
    };
    const [oneWay, bothWays] = [run(false), run(true)];
    // It follows within the shot's step: float32 of the frames is all that is between them.
    expect(Math.max(...gaps(oneWay, 35))).toBeLessThan(1e-5);
    // A tube that is sewn flat on a sheet keeps a part of its own roundness.
    const mean = (list: number[]) => list.reduce((sum, d) => sum + d, 0) / list.length;
    expect(mean(gaps(bothWays, 35))).toBeLessThan(0.02);
    expect(mean(gaps(bothWays, 35))).toBeLessThan(0.3 * mean(gaps(bothWays, 0)));
    const all = [...Array(60).keys()].map((k) => 10 * k);
    expect(apart(placesOf(oneWay, MESH, all, 35), placesOf(bothWays, MESH, all, 35))).toBeGreaterThan(1e-3);
  });

  it('draws two cloths that nothing else holds together, and what one gains the other loses', () => {
    const tie: Tie = { what: tipOf(0.9), to: { by: 'cloth', part: 'poncho' as never }, pulls: true };
    const free = (part: ClothPart): ClothPart => ({
      ...part,
      holds: [],
      // Damping is against the skin, which would take some of it.
      settings: { ...part.settings, damping: 0 },
    });
    const parts = { lappets: free(lappets([tie])), poncho: free(poncho() as ClothPart) };
    const shot = { ...shotOf(parts), gravity: [0, 0, 0] as const, airDensity: 0, preRollSeconds: 0.1 };
    const frames = simulateAll(character, shot as unknown as Shot);
    /** Mass times the way of its middle from the first frame to one, kg m. */
    const gained = (node: number, part: ClothPart, f: number) => {
      const { points, area } = sheetOf(character, node);
      const all = [...Array(points).keys()];
      const [from, to] = [placesOf(frames, node, all, 0), placesOf(frames, node, all, f)];
      return [0, 1, 2].map((a) =>
        all.reduce((s, p) => s + part.settings.weight * area[p]! * (to[3 * p + a]! - from[3 * p + a]!), 0),
      );
    };
    const [one, other] = [gained(LAPPETS, parts.lappets, 6), gained(MESH, parts.poncho, 6)];
    const size = Math.hypot(...one);
    expect(size).toBeGreaterThan(1e-4);
    expect(Math.hypot(...one.map((x, a) => x + other[a]!))).toBeLessThan(0.15 * size);
  });

  it('is tied in the coarse answer too, keeps its bits on a second run, and a ring of ties is refused', () => {
    const tie: Tie = { what: hem, to: { by: 'joint', joint: ref('head') }, pulls: false };
    const shot = shotOf({ poncho: poncho([tie]) });
    const rough = simulateAll(character, coarseShot(character, shot), { coarse: true });
    const whole = simulateAll(character, shot);
    expect([...simulateAll(character, shot).points]).toEqual([...whole.points]);
    const mean = (f: Frames) => {
      const last = f.points.subarray((f.points.length / f.count) * (f.count - 1));
      return last.reduce((s, v) => s + v, 0) / last.length;
    };
    expect(Math.abs(mean(rough) - mean(whole))).toBeLessThan(0.02);
    const ring = shotOf({
      lappets: lappets([{ what: tipOf(), to: { by: 'cloth', part: 'poncho' as never }, pulls: false }]),
      poncho: poncho([{ what: hem, to: { by: 'cloth', part: 'lappets' as never }, pulls: false }]),
    });
    expect(() => trackOf(character, parseShot(ring), {})).toThrow(/tied to what is tied to it/);
  });
});
