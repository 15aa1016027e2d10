import { beforeAll, describe, expect, it } from 'vitest';
import { CORD, demoFiles, DRUM, HOIST_AXLES } from '../../../../demo/src/index';
import { makeFigure, nodeNamed } from '../../../test/figure';
import { placesOn } from '../../../test/parcel';
import type { Character } from '../../character/index';
import { readGltf } from '../../formats/gltf/index';
import { editShot, type Shot } from '../../shot/index';
import { makeWeightMap } from '../../model/index';
import { diagnose } from '../../measure/index';
import { simulateAll, type TrackCache } from '../../simulate/index';
import type { ClothPart } from './document';
import { makeClothPart, stringSettingsFor } from './shared';

let character: Character;
let shot: Shot;
beforeAll(async () => {
  const file = (await demoFiles()).find((f) => f.fileName === 'hoist.glb')!;
  character = readGltf(file.bytes, file.fileName);
  shot = file.shots[0]!;
});

/** Places of both cords on every frame, with other settings, without some colliders. */
function cords(settings: Partial<ClothPart['settings']> = {}, without: readonly string[] = []) {
  const other = editShot(shot, 'cords-0001', 'Set', (d) => {
    for (const part of Object.values(d.parts)) Object.assign(part.settings, settings);
    for (const id of without) d.colliders[id]!.muted = true;
  }).shot;
  const frames = simulateAll(character, other);
  return [0, 1].map((part) => Array.from({ length: frames.count }, (_, f) => placesOn(frames, f, part)));
}

function lengthOf(x: Float64Array): number {
  let sum = 0;
  for (let o = 0; o < x.length; o += 3) {
    const q = (o + 3) % x.length;
    sum += Math.hypot(x[o]! - x[q]!, x[o + 1]! - x[q + 1]!, x[o + 2]! - x[q + 2]!);
  }
  return sum;
}

/** How far the middle line of a cord is from the nearer axle at least, at its points and halfway between them, m. */
function nearest(x: Float64Array): number {
  let least = Infinity;
  for (let o = 0; o < x.length; o += 3)
    for (const half of [0, 0.5]) {
      const q = (o + 3) % x.length;
      const [px, py] = [0, 1].map((a) => x[o + a]! + half * (x[q + a]! - x[o + a]!));
      for (const axle of Object.values(HOIST_AXLES)) least = Math.min(least, Math.hypot(px!, py! - axle));
    }
  return least;
}

describe('two endless cords over the drums of a hoist', () => {
  it('go round with them for four turns: they keep their length and stay on the drums', () => {
    for (const cord of cords()) {
      const long = lengthOf(cord[0]!);
      for (const x of cord) {
        expect(Math.abs(lengthOf(x) - long)).toBeLessThan(0.01 * long);
        // They overlap the drums by at most a twentieth of their radius.
        expect(DRUM.radius + CORD - nearest(x)).toBeLessThan(0.05 * CORD);
      }
      // Four turns of the drum's skin carry a point so far.
      let way = 0;
      for (let f = 1; f < cord.length; f++)
        way += Math.hypot(...[0, 1, 2].map((a) => cord[f]![a]! - cord[f - 1]![a]!));
      const expected = 4 * 2 * Math.PI * DRUM.radius;
      expect(Math.abs(way - expected)).toBeLessThan(0.03 * expected);
    }
  });

  it('begin where they have settled, without a jump', () => {
    for (const [k, settled] of cords().entries()) {
      const dropped = cords({ settle: 0 })[k]!;
      const jump = (cord: Float64Array[]) => Math.max(...cord[0]!.map((x, o) => Math.abs(cord[1]![o]! - x)));
      // The skin of the drums goes 0.16 mm in the first frame.
      expect(jump(settled)).toBeLessThan(3.2e-4);
      if (k === 1) expect(jump(dropped)).toBeGreaterThan(1.5e-3);
    }
  });

  it('slide where there is no friction', () => {
    const [cord] = cords({ friction: 0 });
    expect(Math.abs(cord!.at(-1)![1]! - cord![0]![1]!)).toBeLessThan(0.02);
  });

  it('are flung less the more the air holds them', () => {
    // Below the upper drum they hang free; how far out of the way straight down one is thrown at most.
    const flung = (drag: number) => {
      const loose = cords({ drag, damping: 0 }, ['lower-drum'])[1]!;
      return (
        Math.max(...loose.flatMap((x) => Array.from(x.filter((_, o) => o % 3 === 0)))) - DRUM.radius - CORD
      );
    };
    const [vacuum, air, thick] = [flung(0), flung(2), flung(8)] as const;
    expect(air).toBeLessThan(vacuum / 2);
    expect(thick).toBeLessThan(air);
  });

  it('rest straight where they are stiff, and come to rest', () => {
    for (const cord of cords({ bend: 0.1 })) {
      const [a, b] = [cord.at(-2)!, cord.at(-1)!];
      expect(Math.max(...b.map((x, o) => Math.abs(x - a[o]!)))).toBeLessThan(2e-4);
    }
  });
});

it('a string tells how hard it pulls: it carries its own weight, and is flung with more', () => {
  const n = 20;
  const places = Array.from({ length: n + 1 }, (_, i) => [0, -i / n, 0]).flat();
  const lines = Array.from({ length: n }, (_, i) => [i, i + 1]).flat();
  const pulls = (way: (t: number) => readonly [number, number, number]) => {
    const figure = makeFigure({ rope: { places, triangles: [], lines } }, 4, 24, way);
    const rope = nodeNamed(figure.character, 'rope');
    const { shot: made } = editShot(figure.shot, 'rope-00001', 'Make string', (d) => {
      d.preRollSeconds = 0;
      const part = makeClothPart({
        ...{ id: 'rope', name: 'Rope', mesh: rope },
        settings: stringSettingsFor(1 / n),
      });
      // Its vertices are there for triangles and for lines.
      part.maps.leash = makeWeightMap(
        Float64Array.from({ length: 2 * n + 2 }, (_, i) => Number(i % (n + 1) > 0)),
      );
      Object.assign(part.settings, { damping: 0.1, drag: 0 });
      d.parts.rope = part;
    });
    const frames = simulateAll(figure.character, made);
    return Array.from({ length: frames.count }, (_, f) => frames.readouts[f]!);
  };
  // A line of a metre weighs as a strip of a 200th of that: 5 g; half a line of it hangs on nothing.
  const weight = 0.005 * 9.81 * (1 - 0.5 / n);
  expect(Math.abs(pulls(() => [0, 0, 0]).at(-1)! - weight)).toBeLessThan(0.02 * weight);
  expect(Math.max(...pulls((t) => [0.4 * Math.sin(4 * t), 0, 0]))).toBeGreaterThan(1.3 * weight);
});

it('says that the turns of a cord slip on smooth drums, and how much friction holds them', () => {
  const causes = (friction: number) => {
    const { shot: other } = editShot(shot, 'cords-0002', 'Set', (d) => {
      for (const part of Object.values(d.parts)) Object.assign(part.settings, { friction });
      d.range = { first: 0, last: 60 };
    });
    const cache: TrackCache = {};
    const frames = simulateAll(character, other, cache);
    return diagnose(character, other, frames, cache.entry!.track).filter((d) => d.cause === 'turns slip');
  };
  const [said] = causes(0);
  expect(said!.sentence).toMatch(/slip: they slide at .* a second/);
  expect(said!.remedy.change).toEqual({ kind: 'setting', key: 'friction', value: 0.4 });
  expect(causes(0.4)).toEqual([]);
});
