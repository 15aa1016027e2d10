import { describe, expect, it } from 'vitest';
import { Collider, Refinement, SETTING_GROUPS } from '@oscillum/core/model';
import { asChain, makeChainPart, PRESETS } from '@oscillum/core/chain';
import { editShot, makeShot, type Shot } from '@oscillum/core/shot';
import { change, setScale, setSetting, toggleAnchor, toggleKey, undo } from './edits';
import { settingAt } from './settingAt';
import { shiftMarks } from './marks';
import {
  acceptBake,
  chooseKeys,
  layRefinement,
  muteLayer,
  muteRefinement,
  removeRefinements,
} from './refine';
import { keepTake, returnToTake } from './takes';
import { otherSide } from './otherSide';
import { mirrorParts, putPreset } from './parts/chain/carry';
import { reshapeChain } from './parts/chain/joints';
import { linkChains, setSprings } from './parts/chain/springs';
import { shotSlice } from './shot';
import { store, type Thunk } from './store';
import { viewSlice } from './view';

const joint = (name: string, node: number) => ({ node, name });
const base: Shot = editShot(
  makeShot({ name: 'Test', hash: '0'.repeat(64), fileName: 't.glb', clip: null }),
  'test-0001',
  'Make chains',
  (d) => {
    d.parts.a = makeChainPart({
      id: 'a',
      name: 'Ear left',
      joints: [joint('ear left 1', 1), joint('ear left 2', 2)],
    });
    d.parts.b = makeChainPart({ id: 'b', name: 'Tail', joints: [joint('tail 1', 5)], settings: { hold: 3 } });
  },
).shot;
const nodes = ['root', 'ear left 1', 'ear left 2', 'ear right 1', 'ear right 2', 'tail 1'].map((name) => ({
  name,
}));

function desk() {
  store.dispatch(shotSlice.actions.opened({ id: 's', shot: base, revision: 0, pending: [], save: 'saved' }));
  const run = <R>(thunk: Thunk<R>): R => thunk(store.dispatch, store.getState);
  return { run, shot: () => store.getState().shot.shot! };
}

it('mirrored, a chain takes along whose swing it is handed, and no pose that a hand gave this side', () => {
  const { run, shot } = desk();
  run(
    change('Fill', (d) => {
      const a = asChain(d.parts.a);
      a.overlapFrom = 'first';
      a.anchors.push({ frame: 3, easeIn: 1, easeOut: 1, hold: 0, turns: { '1': [0, 0, 0, 1] } });
      a.anchors.push({ frame: 9, easeIn: 2, easeOut: 2, hold: 0, turns: null });
    }),
  );
  run(mirrorParts(['a'], nodes));
  const other = Object.values(shot().parts).find((p) => p.name === 'Ear right');
  expect(asChain(other).overlapFrom).toBe('first');
  expect(asChain(other).anchors.map((a) => a.frame)).toEqual([9]);
});

describe('the joints of a chain', () => {
  it('come and go at either end; settings stay, pulls and poses stay on their joints', () => {
    const { run, shot } = desk();
    const part = () => asChain(shot().parts.a);
    run(
      change('Fill', (d) => {
        const a = asChain(d.parts.a);
        a.settings.hold = 4;
        a.pulls.push({ id: 'x', link: 0, along: 1, first: 0, path: [[0, 0, 0]], strength: 6, slip: 1 });
        a.anchors.push({ frame: 3, easeIn: 1, easeOut: 1, hold: 0, turns: { '1': [0, 0, 0, 1] } });
      }),
    );
    run(reshapeChain('a', 'root', { node: 0, name: 'root' }));
    expect(part().joints.map((j) => j.node)).toEqual([0, 1, 2]);
    expect(part()).toMatchObject({ settings: { hold: 4 }, pulls: [{ link: 1 }] });
    expect(Object.keys(part().anchors[0]!.turns!)).toEqual(['2']);
    run(reshapeChain('a', 'tip', null));
    expect(part().joints.map((j) => j.node)).toEqual([0, 1]);
    // What was on a joint that is gone goes with it.
    expect(part().anchors[0]!.turns).toEqual({});
    expect(() => run(reshapeChain('a', 'tip', { node: 5, name: 'tail 1' }))).toThrow(/already moved by/);
  });
  it('are linked in the order given, each pair once, and unlinked from either side', () => {
    const { run, shot } = desk();
    const springs = (id: string) => asChain(shot().parts[id]).springs.map((x) => x.to);
    run(linkChains(['b', 'a'], false));
    run(linkChains(['a', 'b'], false));
    expect([springs('a'), springs('b')]).toEqual([[], ['a']]);
    run(setSprings('a', 'b', { stiffness: 20 }));
    expect(asChain(shot().parts.b).springs[0]).toMatchObject({ stiffness: 20, damping: 0.7 });
    run(setSprings('a', 'b', null));
    expect(springs('b')).toEqual([]);
  });
});

describe('the size of a unit', () => {
  it('colliders and thickness grow with the figure, as one edit', () => {
    const { run, shot } = desk();
    run(
      change('Add colliders', (d) => {
        asChain(d.parts.a).settings.thickness = 0.02;
        d.colliders.c1 = Collider.parse({
          id: 'c1',
          name: 'Rod',
          shape: { kind: 'capsule', radius: 0.1, length: 0.4 },
          t: [0, 1, 0],
        });
        d.colliders.c2 = Collider.parse({ id: 'c2', name: 'Box', shape: { kind: 'box', size: [1, 2, 3] } });
      }),
    );
    run(setScale(0.01));
    expect(shot().character.metresPerUnit).toBe(0.01);
    expect(shot().colliders.c1).toMatchObject({ t: [0, 0.01, 0], shape: { kind: 'capsule' } });
    const { shape } = shot().colliders.c1 as { shape: { radius: number; length: number } };
    expect([shape.radius, shape.length]).toEqual([expect.closeTo(0.001, 9), expect.closeTo(0.004, 9)]);
    expect(asChain(shot().parts.a).settings.thickness).toBeCloseTo(0.0002, 9);
    run(undo);
    expect(shot().colliders.c1!.t).toEqual([0, 1, 0]);
    expect(asChain(shot().parts.a).settings.thickness).toBe(0.02);
  });
});

describe('settings', () => {
  it('several at once keep their differences or become equal', () => {
    const { run, shot } = desk();
    const at = { ids: ['a', 'b'], key: 'hold' as const, frame: 0 };
    const before = [asChain(shot().parts.a).settings.hold, 3] as const;
    const mean = (before[0] + before[1]) / 2;
    run(setSetting(at, mean + 0.5, true, true));
    expect(asChain(shot().parts.a).settings.hold).toBeCloseTo(before[0] + 0.5, 6);
    expect(asChain(shot().parts.b).settings.hold).toBeCloseTo(3.5, 6);
    run(setSetting(at, 2, true));
    expect([asChain(shot().parts.a).settings.hold, asChain(shot().parts.b).settings.hold]).toEqual([2, 2]);
  });
  it('a keyed setting takes a key on the frame; the last key that goes leaves its value', () => {
    const { run, shot } = desk();
    const at = (frame: number) => ({ ids: ['b'], key: 'hold' as const, frame });
    run(toggleKey(at(10)));
    run(setSetting(at(20), 5, true));
    expect(asChain(shot().parts.b).keys.hold!.map((k) => [k.frame, k.value])).toEqual([
      [10, 3],
      [20, 5],
    ]);
    expect(settingAt(shot().parts.b!, 'hold', 30)).toBe(5);
    run(toggleKey(at(10)));
    run(toggleKey(at(20)));
    expect(asChain(shot().parts.b).keys.hold).toBeUndefined();
    expect(asChain(shot().parts.b).settings.hold).toBe(5);
  });
  it('marks are moved along the lane, anchor poses and keys alike', () => {
    const { run, shot } = desk();
    run(toggleAnchor(['b'], 12));
    run(toggleKey({ ids: ['b'], key: 'amount', frame: 12 }));
    run(shiftMarks([{ part: 'b', frame: 12 }], 8, true));
    expect(shot().parts.b!.anchors.map((a) => a.frame)).toEqual([20]);
    expect(shot().parts.b!.keys.amount!.map((k) => k.frame)).toEqual([20]);
    run(toggleAnchor(['b'], 20));
    expect(shot().parts.b!.anchors).toEqual([]);
  });
});

describe('takes', () => {
  it('one is kept, others tried, and returned to in one edit that undo takes back', () => {
    const { run, shot } = desk();
    run(keepTake({}));
    run(putPreset(['a', 'b'], PRESETS[0]!, SETTING_GROUPS));
    const tried = shot().parts;
    const [take] = Object.values(shot().takes);
    store.dispatch(viewSlice.actions.takeShown(take!.id));
    run(returnToTake(take!.id));
    expect(shot().parts).toEqual(base.parts);
    expect(store.getState().view.take).toBeNull();
    run(undo);
    expect(shot().parts).toEqual(tried);
    expect(Object.keys(shot().takes)).toHaveLength(1);
  });
});

describe('mirroring', () => {
  it('names the other side by whole words', () => {
    expect(otherSide('ear left 1')).toBe('ear right 1');
    expect(otherSide('Ear_R_02')).toBe('Ear_L_02');
    expect(otherSide('RIGHT wing')).toBe('LEFT wing');
    expect(otherSide('tail leftover')).toBeNull();
  });
  it('makes the chain of the other side, or gives it the settings when it is there; says what has none', () => {
    const { run, shot } = desk();
    expect(run(mirrorParts(['a', 'b'], nodes))).toEqual(['Tail']);
    const made = asChain(Object.values(shot().parts).find((p) => p.name === 'Ear right'));
    expect(made.joints.map((j) => j.node)).toEqual([3, 4]);
    run(setSetting({ ids: ['a'], key: 'bend', frame: 0 }, 7, true));
    run(mirrorParts(['a'], nodes));
    expect(Object.keys(shot().parts)).toHaveLength(3);
    expect(asChain(shot().parts[made.id]).settings.bend).toBe(7);
  });
});

describe('refinements', () => {
  const step = (id: string) =>
    Refinement.parse({
      ...{ id, name: `Soften tail ${id}`, first: 0, last: 20 },
      channels: [{ joint: joint('tail 1', 5), path: 'rotation' }],
      does: { tool: 'smooth', amount: 1, width: 2 },
    });
  const seen = (x: number) => ({ '5/rotation': { first: 0, every: 1, values: [0, 0, x, 1] } });

  it('are laid in their order, each an edit by its name; what was first seen under them is kept', () => {
    const { run, shot } = desk();
    run(layRefinement(step('a'), seen(0.1)));
    run(layRefinement(step('b'), seen(0.2)));
    expect(shot().refine.steps.map((s) => s.id)).toEqual(['a', 'b']);
    expect(shot().refine.seen).toEqual(seen(0.1));
    expect(store.getState().shot.undo.map((e) => e.name)).toEqual(['Soften tail a', 'Soften tail b']);
    run(undo);
    expect(shot().refine.steps.map((s) => s.id)).toEqual(['a']);
    run(acceptBake(seen(0.3)));
    expect(shot().refine.seen).toEqual(seen(0.3));
  });

  it('are muted one by one or all; another one laid makes them count again', () => {
    const { run, shot } = desk();
    run(layRefinement(step('a'), seen(0.1)));
    run(muteRefinement('a'));
    expect(shot().refine.steps[0]!.muted).toBe(true);
    run(muteLayer(true));
    run(layRefinement(step('b'), {}));
    expect(shot().refine).toMatchObject({ muted: false, steps: [{ muted: true }, { muted: false }] });
    run(removeRefinements(['a', 'b'], 'Remove both'));
    expect(shot().refine).toEqual({ muted: false, steps: [], seen: {} });
  });

  it('a choice of keys that cannot be is refused and changes nothing', () => {
    const { run, shot } = desk();
    run(chooseKeys({ step: 2, thin: null }));
    expect(() => run(chooseKeys({ step: 1, thin: { kind: 'cubic', degrees: 0, millimetres: 5 } }))).toThrow(
      /above 0/,
    );
    expect(shot().keys).toEqual({ step: 2, thin: null });
  });
});
