import { withKey, type ValueKeys } from '@oscillum/core/model';

const tidy = (v: number) => Number(v.toFixed(3));

/** The keys in order of their frames. */
export const inOrder = (keys: ValueKeys): ValueKeys => [...keys].sort((a, b) => a.frame - b.frame);

/** The keys, in order, with one moved; it stays on a whole frame between its neighbours. */
export function withKeyMoved(keys: ValueKeys, i: number, frame: number, value: number): ValueKeys {
  const low = i > 0 ? keys[i - 1]!.frame + 1 : -Infinity;
  const high = i + 1 < keys.length ? keys[i + 1]!.frame - 1 : Infinity;
  return keys.with(i, {
    ...keys[i]!,
    frame: Math.min(high, Math.max(low, Math.round(frame))),
    value: tidy(value),
  });
}

/** The keys with one more where there is none; near a key, that one takes the value. */
export function withKeyAt(keys: ValueKeys, frame: number, value: number, near: number): ValueKeys {
  const old = keys.find((k) => Math.abs(k.frame - frame) <= near);
  return withKey(keys, old?.frame ?? Math.round(frame), tidy(value));
}
