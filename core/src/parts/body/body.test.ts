import { describe, expect, it } from 'vitest';
import { boxMesh, ground, middleOf, placesOn, softBodies } from '../../../test/parcel';
import type { Diagnosis } from '../diagnosis';
import type { Frames } from '../../frames/index';
import { diagnose } from '../../measure/index';
import { Collider, makeWeightMap } from '../../model/index';
import { editShot, type Shot } from '../../shot/index';
import type { BodyPart } from './document';
import { simulateAll, trackOf, type TrackCache } from '../../simulate/index';
import type { Character } from '../../character/index';

const low = (places: Float64Array) =>
  places.reduce((m, x, k) => (k % 3 === 1 ? Math.min(m, x) : m), Infinity);
const rows = (frames: Frames) => Array.from({ length: frames.count }, (_, f) => f);
const volumes = (frames: Frames, part = 0) => {
  const { from } = frames.parts[part]!.readouts;
  return rows(frames).map((f) => frames.readouts[f * frames.readoutNames.length + from]!);
};
const advised = (character: Character, shot: Shot): Diagnosis[] => {
  const cache: TrackCache = {};
  const frames = simulateAll(character, shot, cache);
  return diagnose(character, shot, frames, trackOf(character, shot, cache));
};
const edited = (shot: Shot, recipe: (d: Shot) => void) =>
  editShot(shot, 'edit-00001', 'Change', recipe as never).shot;
/** Bounces half a metre high, once a second, and begins three centimetres in the ground. */
const bounce = (t: number) => [0, 0.17 + 0.5 * Math.abs(Math.sin(Math.PI * t)), 0] as const;

describe('a parcel of eight corners that is keyed to bounce and begins sunk in the ground', () => {
  const jelly = { droop: 6, volume: 100, damping: 0.1 };
  const { character, shot } = softBodies(
    { parcel: boxMesh([0.4, 0.4, 0.4]) },
    bounce,
    { parcel: { cells: 6, settings: jelly } },
    (d) => void (d.colliders.ground = ground()),
  );

  it('is told to begin higher, which lifts its beginning alone', () => {
    const found = advised(character, shot).find((d) => d.cause === 'starts inside')!;
    expect(found.sentence).toContain('3.0 cm deep');
    const { change } = found.remedy;
    if (change.kind !== 'part') throw new Error('another cure');
    const cured = edited(shot, (d) => void Object.assign(d.parts.parcel!, change.set));
    expect(advised(character, cured).map((d) => d.cause)).not.toContain('starts inside');
    const [before, after] = [simulateAll(character, shot), simulateAll(character, cured)];
    expect(low(placesOn(after, 0))).toBeGreaterThan(0);
    // Its animation is what it was: it comes to the same way.
    const [a, b] = [placesOn(before, 40), placesOn(after, 40)];
    a.forEach((x, k) => expect(Math.abs(x - b[k]!)).toBeLessThan(0.01));
    for (const f of rows(after)) {
      expect(low(placesOn(after, f))).toBeGreaterThan(-1e-3);
      expect(Math.abs(volumes(after)[f]! - 1)).toBeLessThan(0.02);
    }
  });

  it('equals its animation at full hold until it touches, and what is drawn stands on the ground', () => {
    const lifted = edited(
      shot,
      (d) => void Object.assign(d.parts.parcel!, { settings: { ...d.parts.parcel!.settings, hold: 30 } }),
    );
    const frames = simulateAll(character, lifted);
    for (const f of [6, 12, 18, 30]) {
      const y = bounce(f / 24)[1];
      placesOn(frames, f).forEach((x, k) => expect(Math.abs(x - (k % 3 === 1 ? y : 0))).toBeCloseTo(0.2, 6));
    }
    expect(low(placesOn(frames, 24))).toBeGreaterThan(-1e-6);
  });

  it('goes the same way with cells of half the size, within 5 % of it', () => {
    const finer = edited(shot, (d) => void Object.assign(d.parts.parcel!, { cells: 12 }));
    const [a, b] = [simulateAll(character, shot), simulateAll(character, finer)];
    for (const f of rows(a)) {
      const [p, q] = [middleOf(placesOn(a, f)), middleOf(placesOn(b, f))];
      for (let k = 0; k < 3; k++) expect(Math.abs(p[k]! - q[k]!)).toBeLessThan(0.05 * 0.4);
    }
  });
});

describe('what a soft body touches', () => {
  const momentum = (speeds: readonly number[], mass: number) => speeds.map((v) => v * mass);
  const free = { settings: { hold: 0, density: 0.5, droop: 4, friction: 0 } } as const;
  const still = () => [0, 1, 0] as const;

  it('gets back what it gives: a ball that flies into it, without gravity', () => {
    const { character, shot } = softBodies(
      { a: boxMesh([0.3, 0.3, 0.3], 2) },
      still,
      { a: { cells: 4, ...free } },
      (d) => {
        d.gravity = [0, 0, 0];
        d.colliders.ball = Collider.parse({
          ...{ id: 'ball', name: 'Ball', shape: { kind: 'sphere', radius: 0.1 }, t: [-0.6, 1, 0] },
          free: { mass: 2, velocity: [2, 0, 0] },
        });
      },
    );
    const quiet = edited(shot, (d) => void (d.airDensity = 0));
    const frames = simulateAll(character, quiet);
    const speedOf = (at: (f: number) => number) => 24 * (at(frames.count - 1) - at(frames.count - 2));
    const ball = speedOf((f) => frames.placements[7 * f]!);
    const body = speedOf((f) => middleOf(placesOn(frames, f))[0]);
    expect(ball).toBeLessThan(1.5);
    const [was, now] = [momentum([2], 2)[0]!, momentum([ball], 2)[0]! + momentum([body], 500 * 0.027)[0]!];
    expect(now / was).toBeCloseTo(1, 1.7);
  });

  it('is another soft body, and both feel it', () => {
    const meshes = { a: boxMesh([0.3, 0.3, 0.3], 2), b: boxMesh([0.2, 0.2, 0.2], 2, [0, 0.6, 0]) };
    const { character, shot } = softBodies(
      meshes,
      still,
      { a: { cells: 4, ...free }, b: { cells: 4, ...free, collidesWith: { colliders: [], parts: ['a'] } } },
      (d) => void (d.gravity = [0, -2, 0]),
    );
    // Without gravity on the lower one, what falls on it takes it along.
    const one = edited(shot, (d) => void ((d.parts.a as BodyPart).settings.gravity = 0));
    const frames = simulateAll(character, one);
    const at = (part: number, f: number) => middleOf(placesOn(frames, f, part))[1];
    const last = frames.count - 1;
    expect(at(1, last)).toBeGreaterThan(at(0, last) + 0.2);
    const [up, down] = [24 * (at(0, last) - at(0, last - 1)), 24 * (at(1, last) - at(1, last - 1))];
    const [heavy, light] = [500 * 0.027, 500 * 0.008];
    // What gravity gave the upper one in two seconds is in both.
    expect((heavy * up + light * down) / (-2 * light * (last / 24))).toBeCloseTo(1, 1.3);
    expect(up).toBeLessThan(-0.1);
  });

  it('holds it by friction on a slope, or lets it slide', () => {
    const tilt = Math.PI / 9;
    const slope = (friction: number) =>
      softBodies(
        { a: boxMesh([0.2, 0.1, 0.2], 2, [0, -0.84, 0]) },
        still,
        { a: { cells: 4, settings: { hold: 0, friction } } },
        (d) => {
          d.colliders.slope = Collider.parse({
            ...{ id: 'slope', name: 'Slope', shape: { kind: 'box', size: [4, 0.1, 4] }, friction },
            r: [0, 0, Math.sin(tilt / 2), Math.cos(tilt / 2)],
          });
        },
      );
    const wayOf = (friction: number) => {
      const { character, shot } = slope(friction);
      const frames = simulateAll(character, shot);
      const x = (f: number) => middleOf(placesOn(frames, f))[0];
      return [x(frames.count - 1) - x(24), x(frames.count - 1) - x(frames.count - 7)] as const;
    };
    const [, creeps] = wayOf(0.8);
    expect(Math.abs(creeps)).toBeLessThan(2e-4);
    const [slides] = wayOf(0.05);
    // g (sin − μ cos) down the slope, along x.
    const g = 9.81 * (Math.sin(tilt) - 0.05 * Math.cos(tilt)) * Math.cos(tilt);
    expect(slides / (-g * (0.5 * (2 * 2 - 1)))).toBeGreaterThan(0.75);
    expect(slides / (-g * (0.5 * (2 * 2 - 1)))).toBeLessThan(1.1);
  });
});

describe('a soft body', () => {
  const box = boxMesh([0.3, 0.3, 0.3], 3);
  const sway = (t: number) => [0.1 * Math.sin(9 * t), 1, 0] as const;

  it('shows its animation alone at an amount of 0, and beside what is painted free follows it exactly', () => {
    const { character, shot } = softBodies({ a: box }, sway, {
      a: { cells: 4, settings: { amount: 0, hold: 2 } },
    });
    const frames = simulateAll(character, shot);
    const places = placesOn(frames, 20);
    places.forEach((x, k) =>
      expect(x).toBeCloseTo(box.places[k]! + (k % 3 === 0 ? sway(20 / 24)[0] : k % 3 === 1 ? 1 : 0), 6),
    );
    const held = Float64Array.from({ length: box.places.length / 3 }, (_, v) =>
      Number(box.places[3 * v + 1]! > 0),
    );
    const half = edited(shot, (d) => {
      Object.assign(d.parts.a!.settings, { amount: 100, hold: 30 });
      Object.assign(d.parts.a!, { maps: { hold: makeWeightMap(held) } });
    });
    const now = placesOn(simulateAll(character, half), 20);
    const off = Array.from(held.keys()).map((v) =>
      Math.hypot(...[0, 1, 2].map((a) => now[3 * v + a]! - places[3 * v + a]!)),
    );
    const top = off.filter((_, v) => box.places[3 * v + 1]! > 0.14);
    const bottom = off.filter((_, v) => box.places[3 * v + 1]! < -0.14);
    expect(Math.max(...top)).toBe(0);
    expect(Math.min(...bottom)).toBeGreaterThan(1e-3);
  });

  it('fills the volume that is keyed, and comes to the same bits again', () => {
    const { character, shot } = softBodies({ a: box }, () => [0, 1, 0], {
      a: {
        cells: 4,
        settings: { hold: 2 },
        keys: {
          swell: [
            { frame: 0, value: 1 },
            { frame: 30, value: 4 },
          ] as never,
        },
      },
    });
    const [a, b] = [simulateAll(character, shot), simulateAll(character, shot)];
    volumes(a).forEach((v) => expect(Math.abs(v - 1)).toBeLessThan(0.02));
    const wide = (f: number) => placesOn(a, f).reduce((m, x, k) => (k % 3 === 0 ? Math.max(m, x) : m), 0);
    expect(wide(46) / wide(0)).toBeCloseTo(Math.cbrt(4), 1.5);
    expect(b.points).toEqual(a.points);
  });

  it('is refused in a sentence where its mesh encloses nothing, and works where it is open or there twice', () => {
    const of = (mesh: { places: ArrayLike<number>; triangles: ArrayLike<number> }) => {
      const { character, shot } = softBodies({ a: mesh }, sway, { a: { cells: 4 } });
      return simulateAll(character, shot);
    };
    const square = { places: [0, 0, 0, 1, 0, 0, 0, 0, 1, 1, 0, 1], triangles: [0, 2, 1, 1, 2, 3] };
    expect(() => of(square)).toThrow(/a: a encloses nothing/);
    const whole = (f: Frames) => placesOn(f, f.count - 1).every((x) => Math.abs(x) < 10);
    expect(whole(of({ ...box, triangles: Array.from(box.triangles).slice(6) }))).toBe(true);
    const twice = [...Array.from(box.triangles), ...Array.from(box.triangles)];
    expect(whole(of({ ...box, triangles: twice }))).toBe(true);
    const apart = boxMesh([0.3, 0.3, 0.3], 1, [0.8, 0, 0]);
    const both = {
      places: [...Array.from(box.places), ...Array.from(apart.places)],
      triangles: [
        ...Array.from(box.triangles),
        ...Array.from(apart.triangles, (t) => t + box.places.length / 3),
      ],
    };
    expect(whole(of(both))).toBe(true);
  });
});
