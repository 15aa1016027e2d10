import { beforeEach, describe, expect, it, vi } from 'vitest';
import { makeShot } from '@oscillum/core/shot';
import { shotSlice } from './shot';
import { SWITCHES, viewSlice, type ViewSlice } from './view';

const { reducer, actions } = viewSlice;
const shot = makeShot({ name: 'Shot', hash: '0'.repeat(64), fileName: 'a.glb', clip: null });
const begin = reducer(undefined, { type: 'begin' });
/** The view after some actions, one after another. */
const after = (...list: Parameters<typeof reducer>[1][]): ViewSlice => list.reduce(reducer, begin);

describe('choosing', () => {
  it('a joint or part takes the place of those before, and with Shift joins or leaves them', () => {
    const { jointsSelected, partsSelected } = actions;
    expect(after(jointsSelected({ joints: [1] }), jointsSelected({ joints: [2] })).joints).toEqual([2]);
    const both = after(jointsSelected({ joints: [1] }), jointsSelected({ joints: [2, 3], add: true }));
    expect(both.joints).toEqual([1, 2, 3]);
    expect(reducer(both, jointsSelected({ joints: [1, 4], add: true })).joints).toEqual([2, 3, 4]);
    const parts = after(partsSelected({ parts: ['a'] }), partsSelected({ parts: ['b'], add: true }));
    expect(parts.parts).toEqual(['a', 'b']);
    expect(reducer(parts, partsSelected({ parts: ['a'], add: true })).parts).toEqual(['b']);
  });
  it('a lane alone is pressed twice to be one of all again', () => {
    expect(after(actions.soloed('a'), actions.soloed('b')).solo).toEqual(['a', 'b']);
    expect(after(actions.soloed('a'), actions.soloed('a')).solo).toEqual([]);
    expect(after(actions.groupFolded('Fringe'), actions.groupFolded('Fringe')).folded).toEqual([]);
  });
});

describe('time', () => {
  it('stops on a whole frame, and forgets how fast it was', () => {
    const playing = after(actions.playingSet(true), actions.frameSet(7.4), actions.rateMeasured(22));
    expect(playing).toMatchObject({ playing: true, frame: 7.4, rate: 22 });
    expect(reducer(playing, actions.playingSet(false))).toMatchObject({
      playing: false,
      frame: 7,
      rate: null,
    });
  });
  it('plays all frames when there are none between the ends of a bracket', () => {
    expect(after(actions.bracketSet({ from: 3, to: 9 })).bracket).toEqual({ from: 3, to: 9 });
    expect(after(actions.bracketSet({ from: 9, to: 9 })).bracket).toBeNull();
    expect(after(actions.bracketSet({ from: 3, to: 9 }), actions.bracketSet(null)).bracket).toBeNull();
  });
});

describe('takes', () => {
  it('go back and forth between the one that is looked at and what was before', () => {
    const looked = after(actions.takeShown('t1'));
    expect(looked).toMatchObject({ take: 't1', takeBefore: null });
    expect(reducer(looked, actions.takeShown('t2'))).toMatchObject({ take: 't2', takeBefore: 't1' });
    // Asked for the same one again it remembers what was before, not itself.
    expect(reducer(looked, actions.takeShown('t1'))).toMatchObject({ take: 't1', takeBefore: null });
  });
  it('give way to the present settings as soon as a hand changes those', () => {
    const looked = after(
      actions.takeShown('t1'),
      actions.shaken({ kind: 'pull', partId: 'a', pull: {} as never }),
    );
    const slid = reducer(looked, shotSlice.actions.previewed({ shot } as never));
    expect(slid).toMatchObject({ take: null, shake: { partId: 'a' } });
    // An edit shows the shot without what a hand has drawn and not kept.
    expect(reducer(looked, shotSlice.actions.edited({ shot } as never))).toMatchObject({
      take: null,
      shake: null,
    });
  });
});

describe('opening a shot', () => {
  it('forgets what was chosen, sought, listed and looked at in the one before, and keeps what is shown', () => {
    const busy = after(
      ...[actions.jointsSelected({ joints: [4] }), actions.soloed('a'), actions.searched('tail')],
      ...[
        actions.windowSet({ from: 1, to: 9 }),
        actions.bracketSet({ from: 2, to: 5 }),
        actions.playingSet(true),
      ],
      ...[
        actions.thingChosen({ kind: 'force', id: 'f' }),
        actions.takeShown('t1'),
        actions.takeOverlaid('t2'),
      ],
      ...[actions.listed({ filter: 'ear', grouped: true }), actions.marksChosen([{ part: 'a', frame: 3 }])],
      actions.shakingSet(true),
    );
    const opened = reducer(busy, actions.entered({ frame: 12, parts: ['p'], joints: [] }));
    expect(opened).toEqual({ ...begin, frame: 12, parts: ['p'], joints: [] });
  });
});

describe('what is shown or not', () => {
  const saved = new Map<string, string>();
  beforeEach(() => {
    saved.clear();
    vi.stubGlobal('localStorage', {
      getItem: (k: string) => saved.get(k) ?? null,
      setItem: (k: string, v: string) => void saved.set(k, v),
    });
    vi.resetModules();
  });
  const fresh = async () => {
    const slice = (await import('./view')).viewSlice;
    return { slice, state: slice.reducer(undefined, { type: 'begin' }) };
  };

  it('is remembered in this browser, every switch of it', async () => {
    const { slice, state } = await fresh();
    const next = slice.reducer(state, slice.actions.toggled('onion'));
    expect(next.onion).toBe(true);
    expect(Object.keys(JSON.parse(saved.get('oscillum.view')!) as object)).toEqual([...SWITCHES]);
    vi.resetModules();
    expect((await fresh()).state.onion).toBe(true);
  });

  it('is as from the start where what is remembered cannot be read, is no switch or no yes or no', async () => {
    saved.set('oscillum.view', '{"onion": "yes", "frame": 9, "trails": false');
    expect((await fresh()).state).toMatchObject({ onion: false, trails: true, frame: 0 });
    vi.resetModules();
    saved.set('oscillum.view', '{"onion": "yes", "frame": 9, "trails": false}');
    expect((await fresh()).state).toMatchObject({ onion: false, trails: false, frame: 0 });
  });
});
