import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { applyEdit, makeShot, parseShot, type Edit, type Shot } from '@oscillum/core/shot';

/** What this browser keeps, in place of its database. */
const kept = new Map<string, unknown>();
vi.mock('idb-keyval', () => ({
  entries: async () => structuredClone([...kept]),
  set: async (key: string, value: unknown) => void kept.set(key, structuredClone(value)),
  delMany: async (keys: string[]) => keys.forEach((k) => kept.delete(k)),
}));

/** A server that keeps its word as the real one does, and can stumble. */
class FakeServer {
  shot: Shot = makeShot({ name: 'First', hash: 'a'.repeat(64), fileName: 'a.glb', clip: null });
  edits: Edit[] = [];
  copies: Shot[] = [];
  requests: string[] = [];
  keptAlive = 0;
  /** How the next requests go; afterwards all is well. `cut`: it does what it is asked, and its answer is lost. */
  goes: ('down' | 'fault' | 'cut')[] = [];
  refuses: (edit: Edit) => boolean = () => false;

  get revision(): number {
    return this.edits.length;
  }
  by(edit: Edit): void {
    this.shot = applyEdit(this.shot, edit);
    this.edits.push(edit);
  }
  /** The state after so many edits, as a backup has it. */
  goBack(revision: number): void {
    const edits = this.edits.slice(0, revision);
    this.shot = makeShot({ name: 'First', hash: 'a'.repeat(64), fileName: 'a.glb', clip: null });
    this.edits = [];
    for (const e of edits) this.by(e);
  }

  async call(name: string, o: { body?: unknown; query?: Record<string, string>; keepalive?: boolean }) {
    const { CallError } = await import('../../api/http');
    this.requests.push(name);
    if (o.keepalive) this.keptAlive++;
    const goes = this.goes.shift();
    const lost = () => new CallError('server.lost', 'The server does not answer.', '');
    if (goes === 'down') throw lost();
    if (goes === 'fault') throw new CallError('fault', 'Something went wrong.', '');
    const answer = this.answer(name, o, CallError);
    if (goes === 'cut') throw lost();
    return structuredClone(answer);
  }

  private answer(
    name: string,
    { body, query }: { body?: unknown; query?: Record<string, string> },
    CallError: new (code: string, message: string, remedy: string) => Error,
  ): unknown {
    if (name === 'getShot') return { id: 's', revision: this.revision, shot: parseShot(this.shot) };
    if (name === 'listEdits')
      return this.edits.slice(Number(query!.after)).map((edit, k) => ({ revision: k, edit }));
    if (name === 'createShot') return void this.copies.push(body as Shot);
    const { baseRevision, edits } = body as { baseRevision: number; edits: Edit[] };
    const has = new Set(this.edits.map((e) => e.id));
    const fresh = edits.filter((e) => !has.has(e.id));
    if (fresh.length > 0 && baseRevision + (edits.length - fresh.length) !== this.revision)
      throw new CallError('edit.stale', 'This shot has changed.', '');
    if (fresh.some(this.refuses))
      throw new CallError('edit.invalid', 'That cannot be.', 'Do something else.');
    for (const e of fresh) this.by(e);
    return { revision: this.revision };
  }
}

let server: FakeServer;
vi.mock('../../api/http', async (actual) => ({
  ...(await actual<typeof import('../../api/http')>()),
  call: (name: string, o: object = {}) => server.call(name, o),
}));

const listeners = new Map<string, () => void>();
beforeEach(() => {
  vi.useFakeTimers();
  kept.clear();
  listeners.clear();
  server = new FakeServer();
  const target = {
    addEventListener: (k: string, f: () => void) => listeners.set(k, f),
    removeEventListener: () => 0,
  };
  vi.stubGlobal('window', target);
  vi.stubGlobal('document', { ...target, visibilityState: 'hidden' });
  vi.stubGlobal(
    'BroadcastChannel',
    class {
      onmessage = null;
      postMessage(): void {}
      close(): void {}
    },
  );
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

/** A window of the browser with the shot open; closing it loses what is only in its memory. */
async function openWindow() {
  vi.resetModules();
  const { store } = await import('../store');
  const sync = await import('./index');
  const { change } = await import('../edits');
  const close = sync.startSync(store);
  await store.dispatch(sync.openShot('s'));
  const state = () => store.getState().shot;
  return {
    ...{ state, close, sync, dispatch: store.dispatch },
    /** An edit by hand. */
    edit: (name: string, recipe: (d: Shot) => void) => store.dispatch(change(name, (d) => recipe(d as Shot))),
    rename: (name: string) => store.dispatch(change(`Rename to ${name}`, (d) => void (d.name = name))),
  };
}
const rest = (ms = 400) => vi.advanceTimersByTimeAsync(ms);
const preRollSeconds = (frames: number) => (d: Shot) => void (d.preRollSeconds = frames);

describe('saving', () => {
  it('sends what a hand has done once it rests, and keeps nothing here that is stored there', async () => {
    const w = await openWindow();
    w.rename('A');
    w.edit('Set pre-roll', preRollSeconds(7));
    expect(kept.size).toBe(1);
    await rest();
    expect(w.state()).toMatchObject({ save: 'saved', revision: 2, pending: [] });
    expect(server.requests).toEqual(['getShot', 'postEdits']);
    expect(kept.size).toBe(0);
  });

  it('goes on by itself after a fault of the server, without a reload', async () => {
    const w = await openWindow();
    server.goes = ['fault'];
    w.rename('A');
    await rest();
    expect(w.state().save).toBe('offline');
    await rest(1500);
    expect(w.state()).toMatchObject({ save: 'saved', revision: 1 });
    expect(server.shot.name).toBe('A');
  });

  it('adds once what was stored when the answer was cut, also when another came between', async () => {
    const w = await openWindow();
    const add = (d: Shot) =>
      void d.refine.steps.push({ ...STEP, id: `r${d.refine.steps.length}000000` } as never);
    server.goes = ['cut'];
    w.edit('Lay it on', add);
    await rest();
    expect(server.shot.refine.steps.length).toBe(1);
    const { editShot } = await import('@oscillum/core/shot');
    server.by(editShot(server.shot, 'other-0001', 'Rename', (d) => void (d.name = 'Theirs')).edit);
    w.edit('Set pre-roll', preRollSeconds(9));
    await rest(4000);
    expect(w.state()).toMatchObject({ save: 'saved', revision: 3, aside: [] });
    expect(server.shot).toMatchObject({ name: 'Theirs', preRollSeconds: 9 });
    expect(server.shot.refine.steps.length).toBe(1);
    expect(w.state().shot).toEqual(server.shot);
  });

  it('asks ever less often while the server is away, and loses nothing', async () => {
    const w = await openWindow();
    server.goes = Array.from({ length: 1000 }, () => 'down' as const);
    w.rename('A');
    await rest(10 * 60_000);
    expect(server.requests.length).toBeLessThan(25);
    server.goes = [];
    w.edit('Set pre-roll', preRollSeconds(3));
    listeners.get('online')!();
    await rest();
    expect(server.shot).toMatchObject({ name: 'A', preRollSeconds: 3 });
    expect(w.state().save).toBe('saved');
  });

  it('sends at once when the page is left, in a request that goes on without it', async () => {
    const w = await openWindow();
    w.rename('A');
    await rest(50);
    listeners.get('visibilitychange')!();
    await rest(0);
    expect(server.shot.name).toBe('A');
    expect(server.keptAlive).toBe(1);
  });
});

describe('an edit that the server refuses', () => {
  it('is set aside by its name and reason, and its neighbours are stored', async () => {
    const w = await openWindow();
    server.refuses = (e) => e.name === 'Set pre-roll';
    w.rename('A');
    w.edit('Set pre-roll', preRollSeconds(7));
    w.edit('Set substeps', (d) => void (d.substeps = 6));
    await rest(3000);
    expect(server.shot).toMatchObject({ name: 'A', substeps: 6, preRollSeconds: server.shot.preRollSeconds });
    expect(w.state()).toMatchObject({ save: 'saved', pending: [] });
    expect(w.state().aside.map((a) => [a.edit.name, a.why])).toEqual([
      ['Set pre-roll', 'That cannot be. Do something else.'],
    ]);
    expect(w.state().shot).toEqual(server.shot);
    // It is kept here, too, until it is tried again or let go.
    expect(kept.size).toBe(1);
  });

  it('counts again when it is tried again and taken; else it can be let go', async () => {
    const w = await openWindow();
    server.refuses = () => true;
    w.edit('Set pre-roll', preRollSeconds(7));
    await rest(3000);
    server.refuses = () => false;
    expect(w.dispatch(w.sync.tryAside())).toEqual([]);
    await rest(3000);
    expect(server.shot.preRollSeconds).toBe(7);
    expect(w.state().aside).toEqual([]);
    server.refuses = () => true;
    w.edit('Set pre-roll', preRollSeconds(8));
    await rest(3000);
    w.dispatch(w.sync.letAsideGo());
    await rest();
    expect(w.state().aside).toEqual([]);
    expect(kept.size).toBe(0);
  });
});

describe('windows', () => {
  it('that are edited while the server is away, and both closed, lose nothing of either', async () => {
    const [a, b] = [await openWindow(), await openWindow()];
    server.goes = Array.from({ length: 50 }, () => 'down' as const);
    a.rename('A');
    b.edit('Set pre-roll', preRollSeconds(7));
    await rest();
    expect(kept.size).toBe(2);
    a.close();
    b.close();
    server.goes = [];
    const c = await openWindow();
    expect(c.state().shot).toMatchObject({ name: 'A', preRollSeconds: 7 });
    await rest(2000);
    expect(server.shot).toMatchObject({ name: 'A', preRollSeconds: 7 });
    expect(server.revision).toBe(2);
    expect(c.state().save).toBe('saved');
    expect(kept.size).toBe(0);
  });

  it('opened without the server show what all of them had, and send it when it is back', async () => {
    const [a, b] = [await openWindow(), await openWindow()];
    server.goes = Array.from({ length: 50 }, () => 'down' as const);
    a.rename('A');
    b.edit('Set pre-roll', preRollSeconds(7));
    await rest();
    a.close();
    b.close();
    const c = await openWindow();
    expect(c.state()).toMatchObject({ save: 'offline', shot: { name: 'A', preRollSeconds: 7 } });
    server.goes = [];
    listeners.get('online')!();
    await rest(70_000);
    expect(server.shot).toMatchObject({ name: 'A', preRollSeconds: 7 });
    expect(server.revision).toBe(2);
  });

  it('take over what another still has open without sending it twice', async () => {
    const a = await openWindow();
    server.goes = ['down'];
    a.rename('A');
    await rest();
    const b = await openWindow();
    expect(b.state().shot!.name).toBe('A');
    await rest(5000);
    expect(server.revision).toBe(1);
    expect([a.state().save, b.state().save]).toEqual(['saved', 'saved']);
    expect(kept.size).toBe(0);
  });
});

describe('a server that has gone back, as after a restored backup', () => {
  it('is followed in a few requests; the shot as it was here is kept as one of its own', async () => {
    const w = await openWindow();
    for (const name of ['A', 'B', 'C']) {
      w.rename(name);
      await rest();
    }
    server.goBack(1);
    server.requests = [];
    w.edit('Set pre-roll', preRollSeconds(7));
    await rest(60_000);
    expect(server.requests.length).toBeLessThan(8);
    expect(server.copies.map((c) => [c.name, c.preRollSeconds])).toEqual([['C (kept here)', 7]]);
    expect(w.state()).toMatchObject({ save: 'saved', revision: 2, shot: { name: 'A', preRollSeconds: 7 } });
    expect(w.state().notice).toContain('“C (kept here)”');
  });
});

const STEP = {
  ...{ name: 'Soften', muted: false, first: 0, last: 9, ease: 0 },
  channels: [{ joint: { node: 1, name: 'tail 1' }, path: 'rotation' }],
  does: { tool: 'remove jitter', amount: 1 },
};
