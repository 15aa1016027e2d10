import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { emptyFrames, packRows, TURNS, type FramesLayout } from '@oscillum/core/frames';
import type { Shot } from '@oscillum/core/shot';
import type { FromWorker, ToWorker } from './messages';
import { framesAt } from './picture';
import { Simulation } from './simulation';

/** Two chains of one joint over four frames: a share has one of them. */
const layout: FramesLayout = {
  first: 0,
  count: 4,
  joints: Int32Array.of(0, 1),
  scaled: new Int32Array(0),
  morphs: [],
  pointed: [],
  readoutNames: [],
  parts: [0, 1].map((from) => {
    const none = { from: 0, length: 0 };
    const paths = Uint8Array.of(TURNS);
    return {
      partId: `p${from}`,
      joints: { from, length: 1 },
      scaled: none,
      morphs: none,
      points: none,
      readouts: none,
      paths,
    };
  }),
  colliders: [],
};

/** A worker that answers when it is told to. */
class Answering {
  static all: Answering[] = [];
  onmessage: (e: { data: FromWorker }) => void = () => undefined;
  job = 0;
  constructor() {
    Answering.all.push(this);
  }
  postMessage(m: ToWorker): void {
    this.job = m.job;
  }
  terminate(): void {}
  roughly(chain: number, value: number): void {
    const frames = emptyFrames(layout);
    frames.offSource.fill(value);
    this.onmessage({ data: { kind: 'layout', job: this.job, layout } });
    const rows = packRows(frames, { parts: [chain], colliders: [] }, 0, layout.count);
    this.onmessage({ data: { kind: 'rough', job: this.job, rows } });
  }
  answer(chain: number, to: number, early: boolean, value = 0): void {
    const frames = emptyFrames(layout);
    frames.offSource.fill(value);
    const rows = packRows(frames, { parts: [chain], colliders: [] }, 0, to);
    const start = { settled: null, loop: null };
    this.onmessage({ data: { kind: 'layout', job: this.job, layout } });
    const told = { finished: to === layout.count, early, start, began: 0, sent: 1 };
    this.onmessage({ data: { kind: 'rows', job: this.job, rows, ...told } });
  }
}

beforeEach(() => {
  Answering.all = [];
  vi.stubGlobal('Worker', Answering);
  vi.stubGlobal('requestAnimationFrame', () => 1);
  vi.stubGlobal('cancelAnimationFrame', () => undefined);
});
afterEach(() => vi.unstubAllGlobals());

it('shows first rows to the stage alone, whichever share is done before, and all rows to all', () => {
  const simulation = new Simulation(2);
  const [a, b] = Answering.all as [Answering, Answering];
  const told: string[] = [];
  simulation.subscribe(() => told.push(`all ${simulation.picture.frames!.done}`));
  simulation.watch(() => told.push(`stage ${simulation.newest.frames!.done}`));
  const run = () => simulation.simulate({ parts: {} } as Shot);
  run();
  a.answer(0, 2, true);
  // The other share has nothing yet, so there is nothing to show.
  expect(told).toEqual([]);
  b.answer(1, 4, false);
  expect(told).toEqual(['stage 2']);
  expect(simulation.picture.frames).toBeNull();
  a.answer(0, 4, false);
  expect(told).toEqual(['stage 2', 'all 4']);
  expect(simulation.picture.running).toBe(false);
  // What comes of a run that is not the newest any more is not shown.
  run();
  const old = a.job;
  run();
  a.job = old;
  a.answer(0, 2, true);
  expect(told).toHaveLength(2);
  simulation.close();
});

it('a coarse answer stands beyond what is true already, and no longer than until all is', () => {
  const simulation = new Simulation(2);
  const [a, b] = Answering.all as [Answering, Answering];
  simulation.simulate({ parts: {} } as Shot);
  a.roughly(0, 7);
  // The other share has nothing yet.
  expect(simulation['latest'].stale).toBeNull();
  b.answer(1, 4, false, 2);
  const { frames, stale, rough } = simulation['latest'];
  expect([frames!.done, stale!.done, rough]).toEqual([0, 4, true]);
  expect([...stale!.offSource]).toEqual([7, 2, 7, 2, 7, 2, 7, 2]);
  a.answer(0, 2, false, 3);
  expect(simulation['latest']).toMatchObject({ rough: true, running: true, stale });
  expect([...framesAt(simulation['latest'], 1)!.offSource].slice(2, 4)).toEqual([3, 2]);
  expect(framesAt(simulation['latest'], 2)).toBe(stale);
  a.answer(0, 4, false, 3);
  expect(simulation['latest']).toMatchObject({ rough: false, running: false, stale: null });
  simulation.close();
});

it('writes a run over frames that are not shown any more, never over those that are', () => {
  const simulation = new Simulation(1);
  const [worker] = Answering.all as [Answering];
  const arrays = new Set<Float32Array>();
  for (let k = 1; k <= 12; k++) {
    simulation.simulate({ parts: {} } as Shot);
    const shown = simulation.picture.frames;
    // Every third run is given up half way, so the frames before it stay beside its first rows.
    const whole = k % 3 > 0;
    worker.answer(0, 2, true, k);
    expect(simulation.picture.frames).toBe(shown);
    if (shown) expect(shown.offSource[0]).not.toBe(k);
    if (!whole) continue;
    worker.answer(0, 4, false, k);
    expect(simulation.picture.frames!.offSource[0]).toBe(k);
    arrays.add(simulation.picture.frames!.offSource);
  }
  expect(arrays.size).toBeLessThanOrEqual(4);
  simulation.close();
});

it('a worker that stops ends what was asked of it with a sentence, and says so of the shot', async () => {
  const simulation = new Simulation(2);
  const [first] = Answering.all as [Answering & { onerror?: (e: { message: string }) => void }];
  const asked = simulation.fitColliders({ parts: {} } as Shot);
  first.onerror!({ message: 'out of memory' });
  await expect(asked).rejects.toThrow(/has stopped \(out of memory\)\. Reload the page/);
  simulation.simulate({ parts: {} } as Shot);
  first.onerror!({ message: '' });
  expect(simulation['latest'].trouble?.code).toBe('worker.lost');
  expect(simulation['latest'].running).toBe(false);
  simulation.close();
});
