import { OscillumError } from '@oscillum/core/model';

/** How long to work before looking whether a newer edit has come. */
export const SLICE_MS = 12;

// Newer edits are seen meanwhile: a task of least urgency comes after the messages that are waiting, and so does a
// message to ourselves where there are no such tasks, at more cost.
const { scheduler } = globalThis as {
  scheduler?: { postTask(task: () => void, how: { priority: 'background' }): Promise<void> };
};
const channel = new MessageChannel();
const waiting: (() => void)[] = [];
channel.port1.onmessage = () => waiting.shift()?.();

/** Lets messages that wait be taken up. */
export const breathe = (): Promise<void> =>
  scheduler
    ? scheduler.postTask(() => undefined, { priority: 'background' })
    : new Promise<void>((resolve) => (waiting.push(resolve), channel.port2.postMessage(0)));

/**
 * Runs a generator to its end, letting messages in between its slices; `goes` says after each whether to go on, and
 * null comes of one that does not.
 */
export async function inSlices<Y, T>(run: Generator<Y, T>, goes: (y: Y) => boolean): Promise<T | null> {
  for (let slice = performance.now(); ;) {
    const step = run.next();
    if (step.done) return step.value;
    if (performance.now() - slice < SLICE_MS) continue;
    await breathe();
    if (!goes(step.value)) return null;
    slice = performance.now();
  }
}

/** A clock that all workers share, ms. */
export const clock = (): number => performance.timeOrigin + performance.now();

export const notOpen = (): OscillumError =>
  new OscillumError(
    'shot.invalid',
    'No character is open yet',
    '',
    'Wait until it is shown, then try again.',
  );
