import { describe, expect, it } from 'vitest';
import { asChain, makeChainPart, type ChainPart } from '@oscillum/core/chain';
import { editShot, makeShot } from '@oscillum/core/shot';
import { groupName, listLanes, marksOf } from './lanes';
import { copyMarks, pasteMarks, removeMarks, shiftMarks } from './marks';
import { shotSlice } from './shot';
import { store as theStore, type Thunk } from './store';

const key = (frame: number, value: number) => ({ frame, value, kind: 'smooth' as const });
const part = (id: string, name: string, more: Partial<ChainPart> = {}): ChainPart =>
  makeChainPart({ id, name, joints: [{ node: 1, name: 'a' }], ...more });
const tail = part('tail-one', 'Tail', {
  joints: [{ node: 2, name: 'b' }],
  anchors: [{ frame: 4, easeIn: 2, easeOut: 2, hold: 0, turns: null }],
  keys: { hold: [key(4, 1), key(9, 3)], bend: [key(9, 5)] },
});
const ear = part('ear-left', 'Ear');

function makeStoreWith(parts: ChainPart[]) {
  const shot = editShot(
    makeShot({ name: 'Test', hash: '0'.repeat(64), fileName: 't.glb', clip: null }),
    'test-0001',
    'Make chains',
    (d) => parts.forEach((p) => void (d.parts[p.id] = p)),
  ).shot;
  theStore.dispatch(shotSlice.actions.opened({ id: 's', shot, revision: 0, pending: [], save: 'saved' }));
  return { dispatch: (thunk: Thunk) => thunk(theStore.dispatch, theStore.getState) };
}
const partOf = (_: unknown, id: string): ChainPart => asChain(theStore.getState().shot.shot!.parts[id]);

describe('marks in the lanes', () => {
  it('are the frames with an anchor pose or a key', () => {
    expect(marksOf(tail).map((m) => m.frame)).toEqual([4, 9]);
  });
  it('move together, over what is there', () => {
    const store = makeStoreWith([tail, ear]);
    store.dispatch(shiftMarks([{ part: tail.id, frame: 4 }], 5, true));
    const moved = partOf(store, tail.id);
    expect(moved.anchors[0]!.frame).toBe(9);
    expect(moved.keys.hold).toEqual([key(9, 1)]);
    expect(moved.keys.bend).toEqual([key(9, 5)]);
  });
  it('are taken off; the last key of a setting leaves its value', () => {
    const store = makeStoreWith([tail, ear]);
    store.dispatch(removeMarks([{ part: tail.id, frame: 9 }]));
    const left = partOf(store, tail.id);
    expect(left.keys).toEqual({ hold: [key(4, 1)] });
    expect(left.settings.bend).toBe(5);
    expect(left.anchors).toHaveLength(1);
  });
  it('are copied to another frame, and from one part to others', () => {
    const store = makeStoreWith([tail, ear]);
    const copied = copyMarks({ [tail.id]: tail }, marksOf(tail));
    store.dispatch(pasteMarks(copied, 20, [ear.id]));
    const got = partOf(store, ear.id);
    expect(got.anchors).toEqual([{ frame: 20, easeIn: 2, easeOut: 2, hold: 0, turns: null }]);
    expect(got.keys).toEqual({ hold: [key(20, 1), key(25, 3)], bend: [key(25, 5)] });
    store.dispatch(pasteMarks(copied, 5, []));
    expect(partOf(store, tail.id).keys.hold).toEqual([key(4, 1), key(5, 1), key(9, 3), key(10, 3)]);
  });
});

describe('the list of lanes', () => {
  const parts = ['Fringe 1', 'Fringe 2', 'Crest, left', 'Crest, right', 'Bell'].map((name, i) =>
    part(`part-${i}`, name),
  );
  const worst = {
    'part-1': { troubles: 2, offSource: 5 },
    'part-4': { troubles: 0, offSource: 50 },
  };
  const names = (listing: Parameters<typeof listLanes>[1]) =>
    listLanes(parts, listing, worst).map((g) => `${g.name} ${g.parts.length}`);
  it('is filtered, sorted by trouble or by straying, and grouped by like names', () => {
    expect(names({ filter: 'cr LEFT', sort: 'order', grouped: false })).toEqual(['Crest, left 1']);
    expect(names({ filter: '', sort: 'trouble', grouped: false }).slice(0, 2)).toEqual([
      'Fringe 2 1',
      'Bell 1',
    ]);
    expect(names({ filter: '', sort: 'off source', grouped: true })).toEqual([
      'Bell 1',
      'Fringe 2',
      'Crest 2',
    ]);
    expect(groupName('lappet_L_02')).toBe('lappet');
    expect(groupName('12')).toBe('12');
  });
});
