import { beforeAll, beforeEach, describe, expect, it, vi } from 'vitest';
import { demoFiles } from '@oscillum/demo';
import { defaultBake } from '@oscillum/core/bake';
import type { HandOffPlan } from '@oscillum/core/handoff';
import { PRESETS } from '@oscillum/core/chain';
import type { Shot } from '@oscillum/core/shot';
import type { FromWorker, ToWorker } from './messages';

/** The worker's own end of the talk, in this thread: what it posts is kept, what it is told is passed on. */
const said: FromWorker[] = [];
let waiting: (() => void)[] = [];
const scope = {
  postMessage: (m: FromWorker) => {
    said.push(m);
    waiting.forEach((wake) => wake());
  },
  onmessage: null as ((e: { data: ToWorker }) => void) | null,
};
const tell = (m: ToWorker) => scope.onmessage!({ data: m });
/** The first answer to a job that is one of these kinds. */
async function answer(job: number, kinds: readonly FromWorker['kind'][]): Promise<FromWorker> {
  for (;;) {
    const found = said.find((m) => m.job === job && kinds.includes(m.kind));
    if (found) return found;
    await new Promise<void>((wake) => waiting.push(wake));
    waiting = [];
  }
}

const [brindle] = await demoFiles();
const lookout = brindle!.shots[1]! as Shot;
const short: Shot = { ...lookout, range: { first: 0, last: 12 }, preRollSeconds: 2 };
const plan = (shot: Shot): HandOffPlan => ({
  ...{ clips: null, formats: ['glb'], stem: 'b', unit: null, up: 'Y', pack: 'none' },
  bake: { ...defaultBake(shot), name: 'Baked' },
});
const ids = Object.keys(lookout.parts);
const part = ids[0]!;
let job = 0;
const next = () => ++job;
const glb = () => brindle!.bytes.slice().buffer;

beforeAll(async () => {
  vi.stubGlobal('self', scope);
  await import('./simulation.worker');
});
beforeEach(() => {
  said.length = 0;
});

/** Everything that may be asked, beside opening, with the kind of its answer. */
const asks: readonly [FromWorker['kind'], (job: number) => ToWorker][] = [
  ['fitted colliders', (n) => ({ kind: 'fit colliders', job: n, shot: short })],
  ['fitted feel', (n) => ({ kind: 'fit feel', job: n, shot: short, parts: [part], asked: { lag: 5 } })],
  [
    'tried presets',
    (n) => ({ kind: 'try presets', job: n, shot: short, part, presets: PRESETS.slice(0, 2) }),
  ],
  ['simulated apart', (n) => ({ kind: 'simulate apart', job: n, shot: short })],
  ['baked curves', (n) => ({ kind: 'bake curves', job: n, shot: short })],
  [
    'found strands',
    (n) => ({ kind: 'find strands', job: n, mesh: 0, parent: 1, rows: 3, metresPerUnit: 1, upAxis: 'Y' }),
  ],
  ['handed off', (n) => ({ kind: 'hand off', job: n, shot: short, plan: plan(short) })],
];

describe('the simulation worker', () => {
  it.each(asks)('before a character is open says so, and hangs nothing: %s', async (_, ask) => {
    const n = next();
    tell(ask(n));
    const m = await answer(n, ['failed']);
    expect(m.kind === 'failed' && m.trouble.sentence).toMatch(/No character is open/);
  });
  it('opens a character, and says what is wrong with a file that is none', async () => {
    const bad = next();
    tell({ kind: 'open', job: bad, fileName: 'x.glb', bytes: new Uint8Array([1, 2, 3]).buffer });
    expect((await answer(bad, ['failed'])).kind).toBe('failed');
    const good = next();
    tell({ kind: 'open', job: good, fileName: 'brindle.glb', bytes: glb() });
    const m = await answer(good, ['opened']);
    expect(m.kind === 'opened' && m.character.joints.length).toBeGreaterThan(60);
  });
  it.each(asks)('answers every asking: %s', async (kind, ask) => {
    const n = next();
    tell(ask(n));
    const m = await answer(n, [kind, 'failed']);
    expect(m.kind).toBe(kind);
  });
  it('sends the layout, rows that reach the end, and advice; an older run is dropped for a newer', async () => {
    const [old, fresh] = [next(), next()];
    const run = (n: number, shot: Shot): ToWorker => ({
      ...{ kind: 'simulate', job: n, shot, share: { index: 0, of: 1 }, look: 0, rough: false },
    });
    tell(run(old, short));
    tell(run(fresh, { ...short, gravity: [0, -5, 0] }));
    await answer(fresh, ['advice']);
    expect(said.some((m) => m.job === old && m.kind === 'rows' && m.finished)).toBe(false);
    const rows = said.filter((m) => m.job === fresh && m.kind === 'rows');
    expect(rows.at(-1)).toMatchObject({ finished: true });
    const advice = said.find((m) => m.job === fresh && m.kind === 'advice');
    expect(advice?.kind === 'advice' && Object.keys(advice.advice.feels).sort()).toEqual([...ids].sort());
  });
  it('a bake that is cancelled ends as cancelled, and so do curves that nobody waits for', async () => {
    const long: Shot = { ...lookout, preRollSeconds: 600 };
    for (const ask of [
      (n: number): ToWorker => ({ kind: 'hand off', job: n, shot: long, plan: plan(long) }),
      (n: number): ToWorker => ({ kind: 'bake curves', job: n, shot: long }),
    ]) {
      const n = next();
      tell(ask(n));
      tell({ kind: 'cancel', job: n });
      const m = await answer(n, ['failed', 'handed off', 'baked curves']);
      expect(m.kind === 'failed' && m.trouble.code).toBe('bake.cancelled');
    }
  });
  it('a part whose joints are not there fails with its sentence', async () => {
    const wrong = structuredClone(short) as Shot;
    const chain = wrong.parts[part as never]! as { joints?: { node: number; name: string }[] };
    chain.joints![0]!.name = 'nobody';
    const n = next();
    tell({ kind: 'simulate', job: n, shot: wrong, share: { index: 0, of: 1 }, look: 0, rough: false });
    const m = await answer(n, ['failed']);
    expect(m.kind === 'failed' && m.trouble.sentence).toMatch(/nobody/);
  });
  it('a plan that writes no file is refused', async () => {
    const n = next();
    tell({ kind: 'hand off', job: n, shot: short, plan: { ...plan(short), formats: [] } });
    const m = await answer(n, ['failed']);
    expect(m.kind === 'failed' && m.trouble.sentence).toMatch(/Choose at least one/);
  });
});
