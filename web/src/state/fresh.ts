import { randomId } from '../api/ids';

/** An id no other thing of the shot has. */
export const freshId = (letter: string) => `${letter}${randomId(8)}`;
/** Comes after all others in lists. */
export const lastOrder = (things: Record<string, { order: number }>) =>
  Object.values(things).reduce((n, t) => Math.max(n, t.order), -1) + 1;
