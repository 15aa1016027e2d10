import { describe, expect, it } from 'vitest';
import {
  backOff,
  IDLE,
  MOST_EDITS,
  next,
  REST_MS,
  type SyncEffect,
  type SyncEvent,
  type SyncState,
} from './machine';

/** Where some events lead from a state, and what the last of them asks to be done. */
function after(
  from: SyncState,
  ...events: SyncEvent[]
): { state: SyncState; effects: readonly SyncEffect[] } {
  let state = from;
  let effects: readonly SyncEffect[] = [];
  for (const e of events) [state, effects] = next(state, e);
  return { state, effects };
}
const edited: SyncEvent = { is: 'edited' };
const due: SyncEvent = { is: 'due' };
const failed: SyncEvent = { is: 'failed' };
const stale: SyncEvent = { is: 'stale' };
const told: SyncEvent = { is: 'told' };
const online: SyncEvent = { is: 'online' };
const leaving: SyncEvent = { is: 'leaving' };
const acknowledged = (left = false): SyncEvent => ({ is: 'acknowledged', left });
const followed = (left = false): SyncEvent => ({ is: 'followed', left });
const refused = (alone: boolean): SyncEvent => ({ is: 'refused', alone });

const sending = after(IDLE, edited, due).state;
const SEND: SyncEffect = { do: 'send', most: MOST_EDITS };

describe('an edit', () => {
  it('is sent when the hand has rested, and the rest begins anew with each edit', () => {
    expect(after(IDLE, edited)).toMatchObject({
      state: { at: 'waiting' },
      effects: [{ do: 'wait', ms: REST_MS }],
    });
    expect(after(IDLE, edited, edited).effects).toEqual([{ do: 'wait', ms: REST_MS }]);
    expect(after(IDLE, edited, due)).toMatchObject({ state: { at: 'sending' }, effects: [SEND] });
  });
  it('made while a request is on its way waits for it, and goes at once after it', () => {
    expect(after(sending, edited)).toMatchObject({ state: { at: 'sending' }, effects: [] });
    expect(after(sending, edited, acknowledged(true)).effects).toEqual([{ do: 'wait', ms: 0 }]);
  });
  it('that is stored leaves nothing to do', () => {
    expect(after(sending, acknowledged())).toEqual({ state: IDLE, effects: [] });
  });
  it('is sent at once when the page is left, before the hand has rested', () => {
    expect(after(IDLE, edited, leaving)).toMatchObject({ state: { at: 'sending' }, effects: [SEND] });
    expect(after(IDLE, leaving)).toEqual({ state: IDLE, effects: [] });
    expect(after(sending, leaving).effects).toEqual([]);
  });
});

describe('a server that does not take it for now', () => {
  it('is asked again after 1, 2, 4, 8 s and so on, never more than a minute apart', () => {
    let state = sending;
    const waits: number[] = [];
    for (let k = 0; k < 9; k++) {
      const step = after(state, failed);
      waits.push((step.effects[0] as { ms: number }).ms);
      state = after(step.state, due).state;
    }
    expect(waits).toEqual([1, 2, 4, 8, 16, 32, 60, 60, 60].map((s) => 1000 * s));
    expect(backOff(1e6)).toBe(60_000);
  });
  it('is asked at once when the network is back, or when the page is left', () => {
    expect(after(sending, failed, online)).toMatchObject({ state: { at: 'sending' }, effects: [SEND] });
    expect(after(sending, failed, leaving)).toMatchObject({ state: { at: 'sending' }, effects: [SEND] });
    // What is asked on leaving may fail too: then it waits again, longer.
    expect(after(sending, failed, leaving, failed).effects).toEqual([{ do: 'wait', ms: 2000 }]);
  });
  it('is forgiven with the first edit it stores', () => {
    const recovered = after(sending, failed, due, failed, due, acknowledged(true)).state;
    expect(recovered).toMatchObject({ at: 'waiting', tries: 0 });
    expect(after(recovered, due, failed).effects).toEqual([{ do: 'wait', ms: 1000 }]);
  });
  it('does not make edits go twice: while it waits, edits only gather', () => {
    expect(after(sending, failed, edited, edited)).toMatchObject({
      state: { at: 'backing off' },
      effects: [],
    });
  });
});

describe('edits from elsewhere', () => {
  it('are taken first, and ours go on top of them', () => {
    expect(after(sending, stale).effects).toEqual([{ do: 'follow' }]);
    expect(after(sending, stale, followed(true))).toMatchObject({
      state: { at: 'sending' },
      effects: [SEND],
    });
    expect(after(sending, stale, followed()).state).toEqual(IDLE);
  });
  it('that are always faster make it wait instead of asking without end', () => {
    let state = sending;
    let asked = 0;
    for (; asked < 100 && state.at === 'sending'; asked++) state = after(state, stale, followed(true)).state;
    expect(asked).toBe(5);
    expect(state).toMatchObject({ at: 'backing off', due: 'follow' });
    expect(after(state, due).effects).toEqual([{ do: 'follow' }]);
  });
  it('that cannot be fetched are tried again before ours are sent', () => {
    const waiting = after(sending, stale, failed);
    expect(waiting).toMatchObject({ state: { at: 'backing off', due: 'follow' } });
    expect(after(waiting.state, due).effects).toEqual([{ do: 'follow' }]);
  });
  it('told of by another window are taken at once, or after the request that is on its way', () => {
    expect(after(IDLE, told).effects).toEqual([{ do: 'follow' }]);
    expect(after(IDLE, edited, told).effects).toEqual([{ do: 'follow' }]);
    expect(after(sending, failed, told).effects).toEqual([{ do: 'follow' }]);
    expect(after(sending, told).effects).toEqual([]);
    expect(after(sending, told, acknowledged()).effects).toEqual([{ do: 'follow' }]);
    expect(after(sending, told, acknowledged(), followed()).state).toEqual(IDLE);
    // What is being fetched may be from before.
    expect(after(IDLE, told, told).effects).toEqual([]);
    expect(after(IDLE, told, told, followed(true)).effects).toEqual([{ do: 'follow' }]);
    expect(after(IDLE, told, told, followed(), followed(true)).effects).toEqual([SEND]);
  });
});

describe('an edit that is refused', () => {
  it('among others is looked for by sending them one by one', () => {
    expect(after(sending, refused(false)).effects).toEqual([{ do: 'send', most: 1 }]);
    // Those before it are stored, one by one.
    expect(after(sending, refused(false), acknowledged(true), due).effects).toEqual([
      { do: 'send', most: 1 },
    ]);
  });
  it('alone is set aside, the shot is found anew without it, and the others go together again', () => {
    const found = after(sending, refused(false), refused(true));
    expect(found.effects).toEqual([{ do: 'follow' }]);
    expect(after(found.state, followed(true)).effects).toEqual([SEND]);
  });
});

it('never has nothing under way while something is due, whatever happens in whatever order', () => {
  const events: SyncEvent[] = [
    ...[edited, due, failed, stale, told, online, leaving, refused(true), refused(false)],
    ...[acknowledged(true), acknowledged(), followed(true), followed()],
  ];
  // Answers come only while they are waited for; each wait, request or fetch asked for is then under way.
  const fits: Record<SyncState['at'], (e: SyncEvent) => boolean> = {
    idle: (e) => ['edited', 'told', 'online', 'leaving'].includes(e.is),
    waiting: (e) => ['edited', 'told', 'online', 'leaving', 'due'].includes(e.is),
    sending: (e) => !['due', 'followed'].includes(e.is),
    following: (e) => ['edited', 'told', 'online', 'leaving', 'failed', 'followed'].includes(e.is),
    'backing off': (e) => ['edited', 'told', 'online', 'leaving', 'due'].includes(e.is),
  };
  let seed = 7;
  const random = () => (seed = (seed * 48271) % 2147483647) / 2147483647;
  let state = IDLE;
  for (let k = 0; k < 20_000; k++) {
    const possible = events.filter(fits[state.at]);
    const event = possible[Math.floor(random() * possible.length)]!;
    const [then, effects] = next(state, event);
    const moved = then.at !== state.at || ['due', 'refused', 'followed', 'acknowledged'].includes(event.is);
    if (then.at !== 'idle' && moved) expect(effects.length, `${state.at}, ${event.is}`).toBe(1);
    if (then.at === 'idle') expect(effects).toEqual([]);
    state = then;
  }
});
