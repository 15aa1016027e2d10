/**
 * When edits are sent, as a machine: what happens leads from one state to the next and says what is to be done. It
 * knows no clock, no network and no shot.
 */

export interface SyncState {
  readonly at: 'idle' | 'waiting' | 'sending' | 'following' | 'backing off';
  /** Failures in a row, and times in a row that others were faster. */
  readonly tries: number;
  readonly stales: number;
  /** What is due once the wait is over: the server's state may have to be taken first. */
  readonly due: 'send' | 'follow';
  /** Edits go one by one since one of several was refused, to find which. */
  readonly single: boolean;
  /** Another window has saved while a request, or the server's state, was on its way. */
  readonly told: boolean;
}

export type SyncEvent =
  /** An edit was made here. */
  | { readonly is: 'edited' }
  /** The wait is over. */
  | { readonly is: 'due' }
  /** The server has stored what was sent; `left`: more waits. */
  | { readonly is: 'acknowledged'; readonly left: boolean }
  /** The server has a newer state than the edits were made on. */
  | { readonly is: 'stale' }
  /** Nothing can be said against the edits: no answer, a cut answer, a fault, a full disk. */
  | { readonly is: 'failed' }
  /** The server will never take what was sent; `alone`: it was one edit, which is set aside. */
  | { readonly is: 'refused'; readonly alone: boolean }
  /** The server's state was taken, with what is still to be sent on top. */
  | { readonly is: 'followed'; readonly left: boolean }
  /** Another window of this browser has saved. */
  | { readonly is: 'told' }
  /** The network is back. */
  | { readonly is: 'online' }
  /** The page is being left. */
  | { readonly is: 'leaving' };

export type SyncEffect =
  | { readonly do: 'wait'; readonly ms: number }
  | { readonly do: 'send'; readonly most: number }
  | { readonly do: 'follow' };

export const IDLE: SyncState = {
  ...{ at: 'idle', tries: 0, stales: 0, due: 'send', single: false, told: false },
};

/** A hand that goes on within this time sends one request, ms. */
export const REST_MS = 350;
const FIRST_RETRY_MS = 1000;
const LONGEST_RETRY_MS = 60_000;
/** Edits of one request at most. */
export const MOST_EDITS = 100;
/** So often in a row others may be faster before it waits. */
const MOST_STALES = 5;

/** How long to wait after so many failures in a row, ms. */
export const backOff = (tries: number): number =>
  Math.min(LONGEST_RETRY_MS, FIRST_RETRY_MS * 2 ** Math.min(tries - 1, 10));

type Next = readonly [SyncState, readonly SyncEffect[]];

const stay = (s: SyncState): Next => [s, []];
const wait = (s: SyncState, ms: number): Next => [{ ...s, at: 'waiting', due: 'send' }, [{ do: 'wait', ms }]];
const send = (s: SyncState): Next => [
  { ...s, at: 'sending' },
  [{ do: 'send', most: s.single ? 1 : MOST_EDITS }],
];
const follow = (s: SyncState): Next => [{ ...s, at: 'following', told: false }, [{ do: 'follow' }]];
const retry = (s: SyncState, due: SyncState['due']): Next => {
  const tries = s.tries + 1;
  return [{ ...s, at: 'backing off', tries, stales: 0, due }, [{ do: 'wait', ms: backOff(tries) }]];
};

export function next(s: SyncState, e: SyncEvent): Next {
  switch (s.at) {
    case 'idle':
      return e.is === 'edited' ? wait(s, REST_MS) : e.is === 'told' ? follow(s) : stay(s);
    case 'waiting':
      if (e.is === 'edited') return wait(s, REST_MS);
      if (e.is === 'due' || e.is === 'online' || e.is === 'leaving') return send(s);
      return e.is === 'told' ? follow(s) : stay(s);
    case 'sending':
      return whileSending(s, e);
    case 'following':
      if (e.is === 'followed' && s.told) return follow({ ...s, tries: 0 });
      if (e.is === 'followed') return e.left ? send({ ...s, tries: 0 }) : [{ ...IDLE }, []];
      if (e.is === 'told') return stay({ ...s, told: true });
      return e.is === 'failed' ? retry(s, 'follow') : stay(s);
    case 'backing off':
      if (e.is === 'due' || e.is === 'online') return s.due === 'follow' ? follow(s) : send(s);
      if (e.is === 'leaving') return send(s);
      return e.is === 'told' ? follow(s) : stay(s);
  }
}

function whileSending(s: SyncState, e: SyncEvent): Next {
  switch (e.is) {
    case 'acknowledged':
      if (s.told) return follow({ ...s, tries: 0, stales: 0 });
      return e.left ? wait({ ...s, tries: 0, stales: 0 }, 0) : [{ ...IDLE }, []];
    case 'stale':
      return s.stales + 1 >= MOST_STALES ? retry(s, 'follow') : follow({ ...s, stales: s.stales + 1 });
    case 'failed':
      return retry(s, 'send');
    case 'refused':
      // The one that is refused is set aside; the state without it is found anew.
      return e.alone ? follow({ ...s, single: false }) : send({ ...s, single: true });
    case 'told':
      return stay({ ...s, told: true });
    default:
      return stay(s);
  }
}
