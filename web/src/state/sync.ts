import { del, get, set } from 'idb-keyval';
import { OscillumError } from '@oscillum/core/model';
import { applyEdit, Edit, parseShot, type Shot } from '@oscillum/core/shot';
import { z } from 'zod';
import { call, CallError } from '../api/http';
import { shotSlice } from './shot';
import type { Dispatch, State, Thunk } from './store';

const { opened, acknowledged, rebased, saveChanged } = shotSlice.actions;

/** What this browser keeps of a shot until the server has acknowledged it. */
const Kept = z.object({ shot: z.unknown(), revision: z.int(), pending: z.array(Edit) });
const keptKey = (id: string) => `shot:${id}`;

async function readKept(id: string): Promise<{ shot: Shot; revision: number; pending: Edit[] } | null> {
  try {
    const parsed = Kept.safeParse(await get(keptKey(id)));
    return parsed.success ? { ...parsed.data, shot: parseShot(parsed.data.shot) } : null;
  } catch {
    return null;
  }
}

/** Ours on top of theirs; edits that no longer fit are named. */
function replay(shot: Shot, pending: readonly Edit[]): { shot: Shot; kept: Edit[]; dropped: string[] } {
  const kept: Edit[] = [];
  const dropped: string[] = [];
  for (const edit of pending) {
    try {
      shot = applyEdit(shot, edit);
      kept.push(edit);
    } catch (e) {
      if (!(e instanceof OscillumError)) throw e;
      dropped.push(edit.name);
    }
  }
  return { shot, kept, dropped };
}

const droppedNotice = (dropped: readonly string[]) =>
  dropped.length
    ? `This shot was also changed elsewhere. ${dropped.length === 1 ? 'One change of yours does' : `${dropped.length} changes of yours do`} not fit any more and was left out: ${dropped.join(', ')}.`
    : null;

/** Opens a shot: the server's state with what this browser still has to send; alone when the server is away. */
export function openShot(id: string): Thunk<Promise<void>> {
  return async (dispatch) => {
    const kept = await readKept(id);
    try {
      const theirs = await call('getShot', { params: { id } });
      const { shot, kept: pending, dropped } = replay(theirs.shot, kept?.pending ?? []);
      dispatch(
        opened({ id, shot, revision: theirs.revision, pending, save: pending.length ? 'saving' : 'saved' }),
      );
      if (dropped.length)
        dispatch(saveChanged({ save: pending.length ? 'saving' : 'saved', notice: droppedNotice(dropped) }));
    } catch (e) {
      if (!(e instanceof CallError) || !e.passing || !kept) throw e;
      dispatch(
        opened({ id, shot: kept.shot, revision: kept.revision, pending: kept.pending, save: 'offline' }),
      );
    }
  };
}

const DELAY_MS = 350;
const RETRY_MS = 3000;

interface Store {
  dispatch: Dispatch;
  getState: () => State;
  subscribe: (f: () => void) => () => void;
}

/** Sends what is pending to the server, and takes what others have saved there. */
function makeSender(store: Store, windows: BroadcastChannel) {
  let timer: ReturnType<typeof setTimeout> | null = null;
  let sending = false;

  const plan = (ms: number) => {
    if (timer) clearTimeout(timer);
    timer = setTimeout(() => void send(), ms);
  };

  async function send(): Promise<void> {
    const { id, pending, revision, save } = store.getState().shot;
    if (sending || !id || pending.length === 0 || save === 'refused') return;
    sending = true;
    const batch = pending.slice(0, 100);
    try {
      const answer = await call('postEdits', {
        params: { id },
        body: { baseRevision: revision, edits: batch },
      });
      if (store.getState().shot.id === id)
        store.dispatch(acknowledged({ revision: answer.revision, ids: batch.map((e) => e.id) }));
      windows.postMessage({ id, revision: answer.revision });
      if (store.getState().shot.pending.length) plan(0);
    } catch (e) {
      if (!(e instanceof CallError)) throw e;
      if (store.getState().shot.id !== id) return;
      if (e.code === 'edit.stale') {
        await follow(id);
        plan(0);
      } else if (e.passing) {
        store.dispatch(saveChanged({ save: 'offline' }));
        plan(RETRY_MS);
      } else {
        store.dispatch(saveChanged({ save: 'refused', notice: `${e.message} ${e.remedy}` }));
      }
    } finally {
      sending = false;
    }
  }

  /** Takes what the server has, with what is still to be sent on top. */
  async function follow(id: string): Promise<void> {
    const theirs = await call('getShot', { params: { id } }).catch(() => null);
    const now = store.getState().shot;
    if (!theirs || now.id !== id || theirs.revision <= now.revision) return;
    const { shot, kept, dropped } = replay(theirs.shot, now.pending);
    store.dispatch(
      rebased({ shot, revision: theirs.revision, pending: kept, notice: droppedNotice(dropped) }),
    );
  }

  return {
    plan,
    follow,
    busy: () => sending,
    close: () => void (timer && clearTimeout(timer)),
  };
}

/**
 * Keeps every edit in the browser at once and sends it soon after; the state it shows is what is true: saved means
 * acknowledged after commit. Returns a function that ends it.
 */
export function startSync(store: Store): () => void {
  let seen: Edit[] | null = null;
  const windows = new BroadcastChannel('oscillum.shots');
  const sender = makeSender(store, windows);

  // Another window on the same shot tells what it has saved, and this one follows.
  windows.onmessage = ({ data }: MessageEvent<{ id: string; revision: number }>) => {
    const { id, revision } = store.getState().shot;
    if (id === data.id && data.revision > revision && !sender.busy()) {
      void sender.follow(data.id).then(() => {
        if (store.getState().shot.pending.length) sender.plan(0);
      });
    }
  };

  const stop = store.subscribe(() => {
    const { id, shot, revision, pending } = store.getState().shot;
    if (pending === seen) return;
    seen = pending;
    if (!id || !shot) return;
    if (pending.length === 0) void del(keptKey(id));
    else {
      void set(keptKey(id), { shot, revision, pending });
      sender.plan(DELAY_MS);
    }
  });
  const online = () => sender.plan(0);
  window.addEventListener('online', online);
  return () => {
    stop();
    window.removeEventListener('online', online);
    windows.close();
    sender.close();
  };
}
