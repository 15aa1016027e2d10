import { describe, expect, it } from 'vitest';
import { makeFigure, nodeNamed } from '../../../test/figure';
import { pointSpans, sizesOf } from '../../frames/index';
import { diagnose } from '../../measure/index';
import { editShot, parseShot, type Shot } from '../../shot/index';
import { simulateAll, type TrackCache } from '../../simulate/index';
import { makeClothPart } from '../cloth/shared';
import { makeGroom, makeStrandsPart, readGroom, type StrandsPart } from './shared';

const LINKS = 12;
const LONG = 0.12;
const GUIDES = 20;
const [WIDE, DEEP, N] = [0.3, 0.2, 15] as const;

/** A plane of n × n squares: the corner, and its two sides. */
function plane(at: readonly number[], u: readonly number[], v: readonly number[], n: number) {
  const places: number[] = [];
  const triangles: number[] = [];
  for (let j = 0; j <= n; j++)
    for (let i = 0; i <= n; i++) places.push(...at.map((x, a) => x + (u[a]! * i) / n + (v[a]! * j) / n));
  for (let j = 0; j < n; j++)
    for (let i = 0; i < n; i++) {
      const q = j * (n + 1) + i;
      triangles.push(q, q + n + 2, q + 1, q, q + n + 1, q + n + 2);
    }
  return { places, triangles };
}

interface How {
  readonly touches?: boolean;
  /** Height of the roots over the cloth, m; g/m; and gravity, m/s² along y. */
  readonly above?: number;
  readonly weight?: number;
  /** kg/m² */
  readonly felt?: number;
  readonly g?: number;
  readonly more?: Partial<Shot>;
}

/** Limp guides that grow out of a wall, level, near a cloth that lies level and is held to its place by springs. */
function bed({
  touches = true,
  above = 0.015,
  weight = 5,
  felt: kgm2 = 0.3,
  g = -9.81,
  more = {},
}: How = {}) {
  const { character, shot } = makeFigure(
    {
      wall: plane([-0.02, above - 0.05, -DEEP / 2], [0, 0, DEEP], [0, 0.1, 0], 4),
      felt: plane([-0.03, 0, -DEEP / 2], [WIDE, 0, 0], [0, 0, DEEP], N),
    },
    2,
    30,
    () => [0, 0, 0],
  );
  const guides = Array.from({ length: GUIDES }, (_, k) =>
    Float64Array.from({ length: 3 * (LINKS + 1) }, (_, o) => {
      const i = Math.floor(o / 3);
      return [-0.02 + (LONG * i) / LINKS, above, DEEP * ((k + 0.5) / GUIDES - 0.5) * 0.8][o % 3]!;
    }),
  );
  const hair = makeStrandsPart({
    ...{ id: 'hair', name: 'Hair', mesh: nodeNamed(character, 'wall'), groom: makeGroom(guides) },
    ...{ keepsGroom: false, collidesWith: { colliders: [], parts: touches ? ['felt'] : [] } },
    settings: { hold: 0, bend: 0.3, damping: 1, root: 1, weight, drag: 0, thickness: 0.003 },
  });
  const felt = makeClothPart({
    ...{ id: 'felt', name: 'Felt', order: 1, mesh: nodeNamed(character, 'felt'), holds: [] },
    settings: { hold: 6, weight: kgm2, damping: 0.7, drag: 0, lift: 0, gravity: 0, thickness: 0.004 },
  });
  const made = parseShot({
    ...{ ...shot, parts: { hair, felt }, colliders: {}, range: { first: 0, last: 59 } },
    ...{ gravity: [0, g, 0], substeps: 4, preRollSeconds: 0, loop: false, ...more },
  });
  return { character, shot: made };
}

function run(how: How = {}) {
  const { character, shot } = bed(how);
  const frames = simulateAll(character, shot);
  const placesAt = (id: string, f: number) => {
    const part = frames.parts.findIndex((p) => p.partId === id);
    const [span] = pointSpans(frames, part);
    const at = 3 * (f * sizesOf(frames).points + span!.from);
    return frames.points.slice(at, at + 3 * (span!.to - span!.from));
  };
  return { frames, placesAt };
}
const heights = (x: ArrayLike<number>) => Array.from(x).filter((_, o) => o % 3 === 1);
/** Over the felt, away from its rim. */
const overFelt = (x: ArrayLike<number>) =>
  heights(x).filter((_, i) => x[3 * i]! > 0 && x[3 * i]! < WIDE - 0.05);

describe('hair and a cloth that moves', () => {
  it('falls through a cloth that it does not mind, and lies on one that it does, from either side', () => {
    const through = run({ touches: false });
    expect(Math.min(...heights(through.placesAt('hair', 59)))).toBeLessThan(-0.08);
    for (const side of [1, -1]) {
      const { placesAt, frames } = run({ above: 0.015 * side, g: -9.81 * side });
      for (let f = 0; f < frames.count; f++) {
        const felt = side * Math.min(...heights(placesAt('felt', f)).map((y) => side * y));
        for (const y of overFelt(placesAt('hair', f))) expect(side * (y - felt)).toBeGreaterThan(0);
      }
      expect(frames.contacts[59 * frames.parts.length + 1]! + frames.contacts[59 * 2]!).toBeGreaterThan(80);
    }
  });

  /** N: what springs of 6 Hz hold a felt of so many kg/m² up with, on the mean of the last frames. */
  function borne(weight: number, felt: number): number {
    const { placesAt } = run({ weight, felt });
    const rest = heights(placesAt('felt', 0));
    // Points of its rim weigh half, those of its corners a quarter.
    const rims = (i: number) => [i % (N + 1), Math.floor(i / (N + 1))].filter((k) => k % N === 0).length;
    const each = (felt * WIDE * DEEP) / N ** 2;
    let sum = 0;
    for (let f = 50; f < 60; f++)
      heights(placesAt('felt', f)).forEach((y, i) => (sum += each * 0.5 ** rims(i) * (rest[i]! - y)));
    return ((2 * Math.PI * 6) ** 2 * sum) / 10;
  }

  it('weighs a cloth down as far as it lies on it, and what is much heavier does not throw it', () => {
    const weighs = (GUIDES * LONG * 1 * 9.81) / 1000;
    const firm = borne(1, 10);
    // The rest is borne by the roots.
    expect(firm).toBeGreaterThan(0.65 * weighs);
    expect(firm).toBeLessThan(0.85 * weighs);
    expect(borne(1, 0.3)).toBeGreaterThan(0.9 * firm);
    expect(borne(1, 0.3)).toBeLessThan(1.05 * firm);
    const { placesAt } = run({ weight: 100 });
    for (let f = 0; f < 60; f++)
      for (const y of heights(placesAt('felt', f))) expect(Math.abs(y)).toBeLessThan(0.06);
  });

  it('leaves guides alone that begin on both sides of it, and says how many', () => {
    const { character, shot } = bed({ above: -0.01, g: -9.81 });
    const hair = shot.parts.hair as StrandsPart;
    // Every other guide goes up through the felt.
    const groom = makeGroom(
      readGroom(hair.groom).map((g, k) =>
        k % 2 === 0 ? g : g.map((x, o) => (o % 3 === 1 ? x + 0.02 * (Math.floor(o / 3) / LINKS) : x)),
      ),
    );
    const cache: TrackCache = {};
    const pierced = { ...shot, parts: { ...shot.parts, hair: { ...hair, groom, keepsGroom: true } } };
    const frames = simulateAll(character, pierced, cache);
    const said = diagnose(character, pierced, frames, cache.entry!.track);
    expect(said.find((d) => d.cause === 'pierces a cloth')!.sentence).toMatch(/^10 of 20 guides of Hair/);
    // They rest in their groom.
    expect(Math.max(...frames.tipOffSource)).toBeLessThan(0.03);
  });

  it('comes to rest', () => {
    const { placesAt } = run({ weight: 1 });
    const [a, b] = [placesAt('hair', 58), placesAt('hair', 59)];
    expect(Math.max(...a.map((x, k) => Math.abs(x - b[k]!)))).toBeLessThan(2e-4);
  });

  it('goes on from a frame that is kept to the same bits', () => {
    const { character, shot } = bed();
    const withKeys = (last: number) =>
      editShot(shot, 'keys-0001', 'Set keys', (d) => {
        const key = (frame: number, value: number) => ({ frame, value, kind: 'smooth' as const });
        (d.parts.hair as StrandsPart).keys.amount = [key(0, 100), key(30, 100), key(34, last)];
      }).shot;
    const cache: TrackCache = { reuse: true };
    simulateAll(character, withKeys(80), cache);
    const again = simulateAll(character, withKeys(120), cache);
    expect(again.points).toEqual(simulateAll(character, withKeys(120)).points);
  });
});
