import { describe, expect, it } from 'vitest';
import { boxMesh, middleOf, placesOn, softBodies } from '../../../test/parcel';
import { applyEdit, editShot, invertEdit, parseShot, type Shot } from '../../shot/index';
import { simulateAll } from '../../simulate/index';
import type { BodyPart } from './document';
import { startingAt } from './linked';

const LATER = 8;
const grows = (late: number): BodyPart['keys'] => ({
  swell: [
    { frame: late, value: 1, kind: 'smooth' },
    { frame: late + 10, value: 1.5, kind: 'smooth' },
  ],
});

/** Three parcels of one set-up that move to and fro and grow, each eight frames after the one before. */
function linked() {
  const names = ['a', 'b', 'c'];
  const own = { cells: 2, settings: { hold: 30, gravity: 0 }, link: 'parcels' };
  return softBodies(
    Object.fromEntries(names.map((n, k) => [n, boxMesh([0.1, 0.1, 0.1], 2, [k, 0, 0])])),
    (t) => [0, 0.3 * t * t, 0],
    Object.fromEntries(
      names.map((n, k) => [n, { ...own, order: k, start: LATER * k, keys: grows(LATER * k) }]),
    ) as never,
  );
}
const bodies = (shot: Shot) => ['a', 'b', 'c'].map((id) => shot.parts[id] as BodyPart);
const edit = (shot: Shot, recipe: (d: Shot) => void) => editShot(shot, 'linked-001', 'Edit', recipe as never);
const first = (p: BodyPart) => p.keys.swell![0]!.frame;

describe('linked soft bodies', () => {
  it('take what is set on any of them, their keys as much later as they start', () => {
    const { shot } = linked();
    const { shot: set, edit: made } = edit(shot, (d) => {
      const b = d.parts.b as BodyPart;
      b.settings.droop = 9;
      b.keys.swell = [{ frame: 20, value: 2, kind: 'linear' }];
    });
    expect(bodies(set).map((p) => p.settings.droop)).toEqual([9, 9, 9]);
    expect(bodies(set).map(first)).toEqual([12, 20, 28]);
    expect(bodies(set).map((p) => p.mesh.name)).toEqual(['a', 'b', 'c']);
    // The edit says all of it, and undoing it takes all of it back.
    expect(applyEdit(shot, made)).toEqual(set);
    expect(applyEdit(set, invertEdit(made, 'linked-002', 'Undo'))).toEqual(shot);
    expect(parseShot(structuredClone(set))).toEqual(set);
  });

  it('start together later when the first does, and alone when another does', () => {
    const { shot } = linked();
    const start = (id: string, at: number) =>
      edit(shot, (d) => void Object.assign(d.parts[id]!, startingAt(d.parts[id] as BodyPart, at))).shot;
    const all = bodies(start('a', 5));
    expect(all.map((p) => p.start)).toEqual([5, 13, 21]);
    expect(all.map(first)).toEqual([5, 13, 21]);
    const one = bodies(start('b', 30));
    expect(one.map((p) => p.start)).toEqual([0, 30, 16]);
    expect(one.map(first)).toEqual([0, 30, 16]);
  });

  it('are free of each other once unlinked', () => {
    const { shot } = linked();
    const apart = edit(shot, (d) => void ((d.parts.b as BodyPart).link = null)).shot;
    const set = edit(apart, (d) => void ((d.parts.a as BodyPart).settings.droop = 9)).shot;
    expect(bodies(set).map((p) => p.settings.droop)).toEqual([9, 4, 9]);
  });

  it('go their way and grow as the first does, so many frames later', () => {
    const { character, shot } = linked();
    const frames = simulateAll(character, shot);
    for (const f of [4, 9, 20]) {
      const places = [0, 1, 2].map((k) => placesOn(frames, f + LATER * k, k));
      const sizes = places.map((p) => Math.max(...p) - Math.min(...p.filter((_, o) => o % 3 === 0)));
      for (const k of [1, 2]) {
        middleOf(places[k]!).forEach((x, a) =>
          expect(x - (a === 0 ? k : 0)).toBeCloseTo(middleOf(places[0]!)[a]!, 5),
        );
        expect(sizes[k]).toBeCloseTo(sizes[0]! + 0 * k, 0);
      }
    }
  });
});
