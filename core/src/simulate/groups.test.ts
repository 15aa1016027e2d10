import { asChain } from '../parts/chain/shared';
import { describe, expect, it } from 'vitest';
import { benchScene } from '../../bench/scene';
import type { Character } from '../character/index';
import { Collider, Force } from '../model/index';
import { editShot, type Shot } from '../shot/index';
import { groupsOf } from './groups';
import { COLUMN_NAMES, emptyFrames, joinStarts, packRows, unpackRows, type Frames } from '../frames/index';
import { shareColumns, simulate, simulateAll, trackOf, type TrackCache } from './index';
import { brindle } from '../../test/bakes';
import { readGltf } from '../formats/gltf/index';
import type { RegionPart } from '../parts/soft/shared';

const { character: swaying, shot: bare } = benchScene(6, 5, 48, { thickness: 0.02, drag: 1 }, 4, 2);
/** Its clip once to and fro in the range, so that it closes. */
const character: Character = {
  ...swaying,
  clips: swaying.clips.map((clip) => ({
    ...clip,
    channels: clip.channels.map((c) => ({
      ...c,
      values: c.values.map((_, i) => {
        const size = c.path === 'rotation' ? 4 : 3;
        const angle = 0.3 * Math.sin((2 * Math.PI * Math.floor(i / size)) / 47);
        return size === 4 ? [0, Math.sin(angle), 0, Math.cos(angle)][i % 4]! : 0.5 * angle;
      }),
    })),
  })),
};
const change = (shot: Shot, recipe: (d: Shot) => void): Shot =>
  editShot(shot, 'test-0001', 'Change', (d) => recipe(d as Shot)).shot;

/** Six rows: 0 and 1 touch, 2 and 3 are struck by a free ball, 4 and 5 are by themselves; wind on 5. */
const shot = change(bare, (d) => {
  d.range.last = 47;
  asChain(d.parts.c1).collidesWith.parts = [d.parts.c0!.id];
  d.colliders.ball = Collider.parse({
    id: 'ball',
    name: 'Ball',
    shape: { kind: 'sphere', radius: 0.1 },
    t: [-0.1, 0.4, 0.2],
    free: { mass: 0.05, velocity: [0, 0, 0] },
  });
  for (const id of ['c0', 'c1', 'c4', 'c5'])
    asChain(d.parts[id]).collidesWith.colliders = [d.colliders.k0!.id];
  d.forces.wind = Force.parse({ id: 'wind', name: 'Wind', kind: 'wind', speed: 4, parts: ['c5'] });
});

const differences = (a: Frames, b: Frames): string[] =>
  COLUMN_NAMES.filter((k) => a[k].some((x, i) => !Object.is(x, b[k][i])));

/** Simulates in shares, as workers do, and puts the rows together. */
function inShares(of: number, next: Shot, caches: TrackCache[]): Frames {
  const shares = Array.from({ length: of }, (_, index) => {
    const cache = (caches[index] ??= {});
    const frames = simulateAll(character, next, cache, { index, of });
    return {
      frames,
      rows: packRows(frames, shareColumns(character, next, cache, { index, of }), 0, frames.count),
    };
  });
  const whole = emptyFrames(shares[0]!.frames);
  for (const { rows } of shares) unpackRows(whole, rows);
  whole.start = joinStarts(shares.map((s) => s.frames.start));
  return whole;
}

describe('groups', () => {
  it('hold the chains that touch, hang from another, or mind what moves freely', () => {
    const groups = groupsOf(shot, trackOf(character, shot, {}));
    expect(groups.map((g) => [g.free, ...g.parts])).toEqual([
      [false, 0, 1],
      [true, 2, 3],
      [false, 4],
      [false, 5],
    ]);
    expect(groups.map((g) => Object.keys(g.shot.forces).length)).toEqual([0, 0, 0, 1]);
    expect(groups.map((g) => Object.keys(g.shot.colliders).length)).toEqual([1, 3, 1, 1]);
  });

  it.each([
    ['on its own', (_: Shot) => undefined],
    ['with a settled start', (d: Shot) => void (d.start = 'settled')],
    ['as a loop', (d: Shot) => void ((d.loop = true), delete d.colliders.ball)],
    [
      'as a loop that one group does not find, for its ball bounces without end',
      (d: Shot) => void ((d.loop = true), (d.colliders.ball!.bounce = 1)),
    ],
  ])('give the same bits in one, two or three shares: %s', (_, recipe) => {
    const next = change(shot, recipe);
    const whole = simulateAll(character, next);
    for (const of of [2, 3, 8]) {
      const joined = inShares(of, next, []);
      expect(differences(joined, whole)).toEqual([]);
      expect(joined.start).toEqual(whole.start);
    }
    if (next.start === 'settled') expect(whole.start.settled?.still).toBe(true);
    if (next.loop)
      expect(whole.start.loop).toMatchObject({
        found: !next.colliders.ball,
        why: next.colliders.ball ? 'motion' : '',
      });
  });

  it('that an edit does not concern keep their frames and are not stepped again', () => {
    const cache: TrackCache = {};
    simulateAll(character, shot, cache);
    const { arena } = cache.entry!.track;
    const real = arena.step;
    let steps = 0;
    arena.step = (header) => (steps++, real(header));
    const stepsOf = (next: Shot) => {
      steps = 0;
      const frames = simulateAll(character, next, cache);
      const taken = steps;
      arena.step = real;
      expect(differences(frames, simulateAll(character, next))).toEqual([]);
      arena.step = (header) => (steps++, real(header));
      return taken;
    };
    const all = stepsOf(change(shot, (d) => void (d.gravity = [0, -4, 0])));
    expect(stepsOf(shot)).toBeGreaterThan(0.8 * all);
    const one = stepsOf(change(shot, (d) => void (asChain(d.parts.c4).settings.hold = 3)));
    expect(one).toBeGreaterThan(0);
    expect(one).toBeLessThan(0.25 * all);
    // Only what changed since the last run: back to what it was, once more for one.
    expect(stepsOf(shot)).toBe(one);
    expect(stepsOf(change(shot, (d) => void (d.parts.c4!.name = 'Tail')))).toBe(0);
    // A collider that goes moves the numbers of those after it, which others stand in.
    const inside = change(shot, (d) => {
      asChain(d.parts.c4).collidesWith.colliders = [d.colliders.k1!.id];
      d.colliders.k1!.shape = { kind: 'sphere', radius: 0.5 };
    });
    stepsOf(inside);
    expect(Math.max(...cache.last!.frames.deepIn.filter((_, k) => k % 6 === 4))).toBe(3);
    expect(stepsOf(change(inside, (d) => void (d.colliders.k0!.muted = true)))).toBeLessThan(all);
    stepsOf(shot);
    expect(stepsOf(change(shot, (d) => void (d.forces.wind!.name = 'Breeze')))).toBe(0);
    expect(stepsOf(change(shot, (d) => void ((d.forces.wind as { speed: number }).speed = 9)))).toBeLessThan(
      0.25 * all,
    );
  });
});

/** Brindle's belly, middle plume and crest on some frames of her walk. */
function fedOnStride(): { character: Character; shot: Shot } {
  const bird = readGltf(brindle!.bytes, 'brindle.glb');
  const [away] = brindle!.shots as [Shot];
  const { belly } = brindle!.shots.find((s) => s.name === 'Brindle, Leap, well fed')!.parts;
  const [plume, , , crest] = Object.values(away.parts);
  const named = (p: Shot['parts'][string], id: string) => ({ ...p, id }) as Shot['parts'][string];
  const parts = { plume: named(plume!, 'plume'), crest: named(crest!, 'crest'), belly: belly! };
  return { character: bird, shot: { ...away, parts, range: { first: 0, last: 20 } } as Shot };
}

it('that follow the same source keep their frames when what another part is sampled by changes', () => {
  const { character: bird, shot: away } = fedOnStride();
  const cache: TrackCache = {};
  simulateAll(bird, away, cache);
  /** By group: whether it is there before anything is stepped. */
  const keptOn = (next: Shot): Record<string, boolean> => {
    const run = simulate(bird, next, cache);
    let step = run.next();
    const groups = cache.last!.groups.map((g) => [Object.keys(g.shot.parts).join(), g.done > 0] as const);
    while (!step.done) step = run.next();
    expect(differences(step.value, simulateAll(bird, next))).toEqual([]);
    return Object.fromEntries(groups);
  };
  const reach = (s: Shot, outer: number) =>
    change(s, (d) => void Object.assign((d.parts.belly as RegionPart).where, { outer }));
  const wider = reach(away, 0.3);
  expect(keptOn(wider)).toEqual({ plume: true, crest: true, belly: false });
  // A part that comes or goes leaves the others where they were.
  const { plume, crest } = wider.parts;
  const without = { ...wider, parts: { plume, crest } } as Shot;
  expect(keptOn(without)).toEqual({ plume: true, crest: true });
  expect(keptOn(wider)).toEqual({ plume: true, crest: true, belly: false });
  // Another clip is another source, and a chain of other joints is another row.
  expect(Object.values(keptOn({ ...wider, range: { first: 0, last: 9 } }))).toEqual([false, false, false]);
  keptOn(wider);
  const shorter = change(wider, (d) => void asChain(d.parts.crest).joints.pop());
  expect(keptOn(shorter)).toEqual({ plume: true, crest: false, belly: true });
});
