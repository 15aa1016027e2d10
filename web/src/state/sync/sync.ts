import type { Edit, Shot } from '@oscillum/core/shot';
import { call, CallError } from '../../api/http';
import { shotSlice } from '../shot';
import type { Dispatch, State } from '../store';
import { forget, forgetOthers, keep, type Found } from './kept';
import { IDLE, next, type SyncEffect, type SyncEvent, type SyncState } from './machine';
import { namesOf, replay, unsent } from './merge';

const { acknowledged, rebased, saveChanged, setAside } = shotSlice.actions;

interface Store {
  dispatch: Dispatch;
  getState: () => State;
  subscribe: (f: () => void) => () => void;
}

/** A request that goes on when the page is left can be so large, bytes. */
const MOST_KEPT_ALIVE = 60_000;
/** Retries of many windows are spread by this share to either side. */
const JITTER = 0.25;

/** What windows that are gone have left of the open shot: forgotten when all of it is stored. */
let others: { id: string; found: readonly Found[] } = { id: '', found: [] };
export const takenOver = (id: string, found: readonly Found[]): void => void (others = { id, found });

/** Sends edits as the machine says, one request at a time. */
class Sync {
  private state: SyncState = IDLE;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private readonly windows = new BroadcastChannel('oscillum.shots');
  /** What was last seen of the store. */
  private seen: Pick<State['shot'], 'id' | 'pending' | 'aside'> = { id: null, pending: [], aside: [] };

  constructor(private readonly store: Store) {
    // Another window on the same shot tells what it has saved, and this one follows.
    this.windows.onmessage = ({ data }: MessageEvent<{ id: string; revision: number }>) => {
      const { id, revision } = store.getState().shot;
      if (id === data.id && data.revision > revision) this.tell({ is: 'told' });
    };
  }

  close(): void {
    clearTimeout(this.timer);
    this.windows.close();
  }

  tell(event: SyncEvent): void {
    const [state, effects] = next(this.state, event);
    this.state = state;
    for (const effect of effects) this.act(effect);
  }

  private act(effect: SyncEffect): void {
    clearTimeout(this.timer);
    if (effect.do === 'wait') {
      const ms =
        this.state.at === 'backing off' ? effect.ms * (1 + JITTER * (2 * Math.random() - 1)) : effect.ms;
      this.timer = setTimeout(() => this.tell({ is: 'due' }), ms);
    } else if (effect.do === 'follow') void this.follow();
    else void this.send(effect.most);
  }

  /** The store has changed: edits are kept in this browser at once. */
  look(): void {
    const { id, shot, revision, pending, aside } = this.store.getState().shot;
    const before = this.seen;
    if (pending === before.pending && aside === before.aside && id === before.id) return;
    this.seen = { id, pending, aside };
    if (before.id !== id) {
      this.state = IDLE;
      clearTimeout(this.timer);
    }
    if (!id || !shot) return;
    if (pending.length + aside.length === 0) void forget(id, this.takenOverKeys(id, new Set()));
    else {
      void keep(id, { shot, revision, pending, aside }, Date.now());
      void forgetOthers(
        this.takenOverKeys(id, new Set([...pending, ...aside.map((a) => a.edit)].map((e) => e.id))),
      );
    }
    if (pending.length > 0 && pending !== before.pending) this.tell({ is: 'edited' });
  }

  /** Keys of other windows of which nothing is open any more. */
  private takenOverKeys(id: string, open: ReadonlySet<string>): string[] {
    if (others.id !== id) return [];
    const isOpen = (f: Found) => [...f.pending, ...f.aside.map((a) => a.edit)].some((e) => open.has(e.id));
    const done = others.found.filter((f) => !isOpen(f));
    others = { id, found: others.found.filter(isOpen) };
    return done.map((f) => f.key);
  }

  private async send(most: number): Promise<void> {
    const { store } = this;
    const { id, pending, revision } = store.getState().shot;
    if (!id || pending.length === 0) return this.tell({ is: 'acknowledged', left: false });
    const edits = pending.slice(0, most);
    const body = { baseRevision: revision, edits };
    const keepalive = JSON.stringify(body).length < MOST_KEPT_ALIVE;
    try {
      const answer = await call('postEdits', { params: { id }, body, keepalive });
      if (store.getState().shot.id !== id) return;
      store.dispatch(acknowledged({ revision: answer.revision, ids: edits.map((e) => e.id) }));
      this.windows.postMessage({ id, revision: answer.revision });
      this.tell({ is: 'acknowledged', left: store.getState().shot.pending.length > 0 });
    } catch (e) {
      if (store.getState().shot.id === id) this.failed(e, edits);
    }
  }

  private failed(e: unknown, edits: readonly Edit[]): void {
    if (e instanceof CallError && e.code === 'edit.stale') return this.tell({ is: 'stale' });
    if (!(e instanceof CallError) || e.passing) {
      this.store.dispatch(saveChanged({ save: 'offline' }));
      return this.tell({ is: 'failed' });
    }
    const alone = edits.length === 1;
    if (alone) this.store.dispatch(setAside({ edit: edits[0]!, why: `${e.message} ${e.remedy}` }));
    this.tell({ is: 'refused', alone });
  }

  /** Takes what the server has, with what is still to be sent on top. */
  private async follow(): Promise<void> {
    const { store } = this;
    const { id, revision } = store.getState().shot;
    if (!id) return this.tell({ is: 'followed', left: false });
    try {
      const theirs = await call('getShot', { params: { id } });
      const back = theirs.revision < revision;
      const records = back
        ? []
        : await call('listEdits', { params: { id }, query: { after: String(revision) } });
      const now = store.getState().shot;
      if (now.id !== id) return;
      const notice = back ? await keepCopy(now.shot!, revision, theirs.revision) : undefined;
      if (store.getState().shot.id !== id) return;
      const known = new Set(records.map((r) => r.edit.id));
      const ours = replay(theirs.shot, unsent(store.getState().shot.pending, known));
      store.dispatch(
        rebased({ ...ours, revision: theirs.revision, notice: notice ?? droppedNotice(ours.aside) }),
      );
      this.tell({ is: 'followed', left: store.getState().shot.pending.length > 0 });
    } catch (e) {
      if (store.getState().shot.id !== id) return;
      if (!(e instanceof CallError && !e.passing)) store.dispatch(saveChanged({ save: 'offline' }));
      this.tell({ is: 'failed' });
    }
  }
}

/** The server has gone back, as after a restored backup: the shot as it is here is kept as one of its own. */
async function keepCopy(shot: Shot, here: number, there: number): Promise<string> {
  const name = `${shot.name} (kept here)`.slice(0, 200);
  await call('createShot', { body: { ...shot, name } });
  return [
    `The server has an older state of this shot (${there}, here it was ${here}), as after a restored backup.`,
    `The shot as it was here is kept in the Library as “${name}”.`,
  ].join(' ');
}

const droppedNotice = (aside: readonly { edit: Edit }[]): string | undefined =>
  aside.length > 0
    ? `This shot was also changed elsewhere. What does not fit any more is set aside: ${namesOf(aside.map((a) => a.edit))}.`
    : undefined;

/**
 * Keeps every edit in the browser at once and sends it soon after; the state it shows is what is true: saved means
 * acknowledged after commit. Returns a function that ends it.
 */
export function startSync(store: Store): () => void {
  const sync = new Sync(store);
  const stop = store.subscribe(() => sync.look());
  const online = () => sync.tell({ is: 'online' });
  const leaving = () => document.visibilityState === 'hidden' && sync.tell({ is: 'leaving' });
  window.addEventListener('online', online);
  window.addEventListener('pagehide', leaving);
  document.addEventListener('visibilitychange', leaving);
  return () => {
    stop();
    window.removeEventListener('online', online);
    window.removeEventListener('pagehide', leaving);
    document.removeEventListener('visibilitychange', leaving);
    sync.close();
  };
}
