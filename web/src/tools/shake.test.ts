import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { makeChainPart } from '@oscillum/core/chain';
import { editShot, makeShot } from '@oscillum/core/shot';
import { shotSlice } from '../state/shot';
import { store } from '../state/store';
import { viewSlice } from '../state/view';
import type { Stage } from '../stage/stage';
import { ShakeTool } from './shake';

/** A stage of the test's own: every press is on joint 2, and the page is the plane itself. */
const stage = {
  jointAt: () => 2,
  planeThrough: () => (x: number, y: number) => [x / 100, y / 100, 0],
} as unknown as Stage;

let ticks: (() => void)[] = [];
beforeEach(() => {
  ticks = [];
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
    expect(shaken?.partId).toBe('tail');
    expect(shaken?.pull.first).toBe(Math.floor(frame));
    expect(shaken?.pull.path.length).toBe(5);
    expect(shaken?.pull.path.at(-1)![0]).toBeCloseTo(1.4, 6);
    tool.dispose();
  },
);
