import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import * as THREE from 'three';
import { makeChainPart } from '@oscillum/core/chain';
import { editShot, makeShot } from '@oscillum/core/shot';
import { keepShake } from '../state/shake';
import { shotSlice } from '../state/shot';
import { store } from '../state/store';
import { viewSlice } from '../state/view';
import type { Stage } from '../stage/stage';
import { ShakeTool } from './shake';

/** A stage of the test's own: every press is on one joint, and the page is the plane itself. */
let pressed = 2;
const stage = {
  jointAt: () => pressed,
  character: () => ({ joints: [0], nodes: [{ name: 'root' }, { name: 'hips' }] }),
  axesAt: () => ({ turn: new THREE.Quaternion(), right: new THREE.Vector3(1, 0, 0) }),
  planeThrough: () => (x: number, y: number) => [x / 100, y / 100, 0],
} as unknown as Stage;

let ticks: (() => void)[] = [];
beforeEach(() => {
  ticks = [];
  pressed = 2;
  vi.stubGlobal('requestAnimationFrame', (f: () => void) => ticks.push(f));
  vi.stubGlobal('cancelAnimationFrame', () => (ticks = []));
  const base = makeShot({ name: 'T', hash: '0'.repeat(64), fileName: 't.glb', clip: null });
  const shot = editShot({ ...base, range: { first: 0, last: 60 } }, 'test-0001', 'Make', (d) => {
    const joints = [1, 2, 3].map((node) => ({ node, name: `tail ${node}` }));
    d.parts['tail' as never] = makeChainPart({ id: 'tail', name: 'Tail', joints });
  }).shot;
  store.dispatch(shotSlice.actions.opened({ id: 's', shot, revision: 0, pending: [], save: 'saved' }));
  store.dispatch(viewSlice.actions.shaken(null));
  store.dispatch(viewSlice.actions.shakingSet(true));
});
afterEach(() => {
  store.dispatch(viewSlice.actions.shakingSet(false));
  vi.unstubAllGlobals();
});

/** The host of the tool, with what it listens for. */
function makeHost() {
  const on = new Map<string, (e: object) => void>();
  const host = {
    addEventListener: (name: string, f: (e: object) => void) => on.set(name, f),
    removeEventListener: () => undefined,
    setPointerCapture: () => undefined,
  };
  const send = (name: string, clientX: number, clientY: number) =>
    on.get(name)!({ clientX, clientY, button: 0, pointerId: 1, stopImmediatePropagation: () => undefined });
  return { host: host as unknown as HTMLElement, send };
}
const tick = () => ticks.splice(0).forEach((f) => f());

it.each([0, 10, 10.2, 10.5, 10.9])(
  'grabbing while it plays at frame %d holds on and records the hand',
  (frame) => {
    const { host, send } = makeHost();
    const tool = new ShakeTool(host, stage, store);
    store.dispatch(viewSlice.actions.playingSet(true));
    store.dispatch(viewSlice.actions.frameSet(frame));
    send('pointerdown', 100, 100);
    for (let k = 1; k <= 4; k++) {
      send('pointermove', 100 + 10 * k, 100);
      store.dispatch(viewSlice.actions.frameSet(frame + k));
      tick();
    }
    send('pointerup', 140, 100);
    const { shake: shaken } = store.getState().view;
    if (shaken?.kind !== 'pull') throw new Error('no pull');
    expect(shaken.partId).toBe('tail');
    expect(shaken.pull.first).toBe(Math.floor(frame));
    expect(shaken.pull.path.length).toBe(5);
    expect(shaken.pull.path.at(-1)![0]).toBeCloseTo(1.4, 6);
    tool.dispose();
  },
);

/** Takes hold at frame 10, drags to the right over four frames, and lets go. */
function drag() {
  const { host, send } = makeHost();
  const tool = new ShakeTool(host, stage, store);
  store.dispatch(viewSlice.actions.playingSet(true));
  store.dispatch(viewSlice.actions.frameSet(10));
  send('pointerdown', 100, 100);
  for (let k = 1; k <= 4; k++) {
    send('pointermove', 100 + 10 * k, 100);
    store.dispatch(viewSlice.actions.frameSet(10 + k));
    tick();
  }
  send('pointerup', 140, 100);
  tool.dispose();
  return store.getState();
}

it('a joint that is in no chain moves with the hand, and is kept as keys that come back to the clip', () => {
  pressed = 1;
  const { view } = drag();
  expect(view.shake).toMatchObject({ kind: 'body', joint: 1, name: 'hips' });
  store.dispatch(keepShake(view.shake!));
  const [motion, ...others] = Object.values(store.getState().shot.shot!.addedMotions);
  expect(others).toEqual([]);
  expect(motion).toMatchObject({ path: 'translation', kind: 'keys', axis: [1, 0, 0], cycles: false });
  expect(motion!.keys.map((k) => k.frame)).toEqual([10, 11, 12, 13, 14, 22]);
  expect(motion!.keys[0]!.value).toBe(0);
  expect(motion!.keys[4]!.value).toBeCloseTo(0.4, 6);
  expect(motion!.keys[5]!.value).toBe(0);
});

it('the whole figure is turned by its first joint, on a still pose', () => {
  store.dispatch(viewSlice.actions.shakeSet({ takes: 'figure', by: 'turn', still: true }));
  const { view, shot } = drag();
  expect(view.shake).toMatchObject({ kind: 'body', joint: 0, name: 'root' });
  // The clip stands while the hand is at it, and plays again once it is kept.
  expect(shot.preview!.stillAt).toBe(10);
  store.dispatch(keepShake(view.shake!));
  const kept = store.getState().shot.shot!;
  expect(kept.stillAt).toBeNull();
  const [motion] = Object.values(kept.addedMotions);
  expect(motion).toMatchObject({ path: 'rotation', axis: [0, 1, 0] });
  expect(motion!.keys.at(-2)!.value).toBeCloseTo(40 * 0.35, 6);
  store.dispatch(viewSlice.actions.shakeSet({ takes: 'joint', by: 'move', still: false }));
});

it('the grip of a pull is as it was set', () => {
  store.dispatch(viewSlice.actions.shakeSet({ strength: 12, slip: 0.3 }));
  expect(drag().view.shake).toMatchObject({ kind: 'pull', pull: { strength: 12, slip: 0.3 } });
  store.dispatch(viewSlice.actions.shakeSet({ strength: 6, slip: 1e5 }));
});
