import { expect, it } from 'vitest';
import { boxMesh, placesOn, softBodies } from '../../../test/parcel';
import { Collider } from '../../model/index';
import { editShot } from '../../shot/index';
import { simulateAll } from '../../simulate/index';
import { makeSurface } from '../../solver/index';
import type { BodyPart } from './document';

const [SIDE, WIDE, HIGH, THICK] = [0.14, 0.36, 0.4, 0.05];
const SPOTS: readonly (readonly [number, number, number])[] = [
  [-0.08, 0.075, 0],
  [0.08, 0.075, 0],
  [0, 0.225, 0.01],
];
const wall = (id: string, size: readonly number[], t: readonly number[]) =>
  Collider.parse({ id, name: id, shape: { kind: 'box', size }, t });

/** Parcels in a crate, and one outside, that swell to 1.6 times their volume in a second, each eight frames later. */
function mail() {
  const spots = [...SPOTS, [1, 0.075, 0] as const];
  const meshes = Object.fromEntries(spots.map((c, k) => [`p${k}`, boxMesh([SIDE, SIDE, SIDE], 2, c)]));
  const parts = Object.fromEntries(
    spots.map((_, k) => [
      `p${k}`,
      {
        cells: 3,
        settings: { hold: 0, droop: 4, volume: 96, thickness: 0.003, density: 0.4, damping: 0.3 },
        keys: {
          swell: [
            { frame: 8 * k, value: 1, kind: 'smooth' },
            { frame: 8 * k + 24, value: 1.6, kind: 'smooth' },
          ],
        } as BodyPart['keys'],
        // The last touches no other.
        collidesWith: {
          colliders: 'all',
          parts: k < SPOTS.length ? SPOTS.map((__, j) => `p${j}`) : [],
        } as const,
      },
    ]),
  );
  return softBodies(
    meshes,
    () => [0, 0, 0],
    parts as never,
    (d) => {
      const far = WIDE / 2 + THICK / 2;
      const sides = [
        wall('floor', [4, THICK, 4], [0, -THICK / 2, 0]),
        wall('left', [THICK, HIGH, WIDE], [-far, HIGH / 2, 0]),
        wall('right', [THICK, HIGH, WIDE], [far, HIGH / 2, 0]),
        wall('back', [WIDE, HIGH, THICK], [0, HIGH / 2, -0.11]),
        wall('front', [WIDE, HIGH, THICK], [0, HIGH / 2, 0.13]),
      ];
      for (const s of sides) d.colliders[s.id] = s;
    },
    { seconds: 2.5 },
  );
}

it('parcels swell one after the other in a crate, push each other, and keep out of each other and of its walls', () => {
  const { character, shot } = mail();
  const frames = simulateAll(character, shot);
  const parts = frames.parts.map((p, k) => ({ k, from: p.readouts.from }));
  for (const { k, from } of parts)
    for (let f = 0; f < frames.count; f++) {
      const at = f * frames.readoutNames.length + from;
      // Where it is pressed on it is a little smaller.
      expect(Math.abs(frames.readouts[at]! - 1)).toBeLessThan(0.02);
      expect(frames.readouts[at + 1]).toBeGreaterThan(0.8);
      const places = placesOn(frames, f, k);
      const low = places.reduce((m, x, o) => (o % 3 === 1 ? Math.min(m, x) : m), Infinity);
      expect(low).toBeGreaterThan(-1e-3);
      if (k < SPOTS.length)
        places.forEach((x, o) => o % 3 === 0 && expect(Math.abs(x)).toBeLessThan(WIDE / 2 + 1e-3));
    }
  // As they are drawn.
  const mesh = boxMesh([1, 1, 1], 2);
  const near = new Float64Array(4);
  for (const f of [20, 40, 59])
    for (const a of [0, 1, 2]) {
      const surface = makeSurface(placesOn(frames, f, a), Uint32Array.from(mesh.triangles));
      for (const b of [0, 1, 2]) {
        if (b <= a) continue;
        const places = placesOn(frames, f, b);
        for (let o = 0; o < places.length; o += 3) {
          surface.nearest(near, places[o]!, places[o + 1]!, places[o + 2]!);
          expect(near[0]).toBeGreaterThan(-1e-3);
        }
      }
    }
  // The upper one is carried by those below.
  expect(
    placesOn(frames, 59, 2).reduce((m, x, o) => (o % 3 === 1 ? Math.min(m, x) : m), Infinity),
  ).toBeGreaterThan(0.1);
});

it('an edit of one parcel leaves those it does not touch as they were, to the bit', () => {
  const { character, shot } = mail();
  const later = editShot(shot, 'edit-00001', 'Swell later', (d) => {
    const keys = (d.parts.p1 as BodyPart).keys;
    keys.swell = keys.swell!.map((k) => ({ ...k, frame: k.frame + 6 }));
  }).shot;
  const [a, b] = [simulateAll(character, shot), simulateAll(character, later)];
  const all = (frames: typeof a, part: number) => [20, 40, 59].map((f) => [...placesOn(frames, f, part)]);
  expect(all(b, 3)).toEqual(all(a, 3));
  expect(all(b, 1)).not.toEqual(all(a, 1));
});
