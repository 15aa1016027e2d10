/** How far two documents, or two lists in them, give the same curves: what a checkpoint may be taken up by. */

interface Key {
  readonly frame: number;
}

/** The last frame up to which two lists of keys give the same curve; −∞ when the curves differ from the start. */
export function sameUntil(a: readonly Key[], b: readonly Key[]): number {
  const sort = (keys: readonly Key[]) => [...keys].sort((p, q) => p.frame - q.frame);
  const [s, t] = [sort(a), sort(b)];
  const text = (k: Key | undefined) => JSON.stringify(k);
  let i = 0;
  while (i < Math.max(s.length, t.length) && text(s[i]) === text(t[i])) i++;
  if (i === Math.max(s.length, t.length)) return Infinity;
  // A smooth span depends on the keys before and after it.
  return i === 0 ? -Infinity : s[Math.max(0, i - 2)]!.frame;
}

/** The same of all settings that have keys in either of two parts. */
export const keysUntil = (
  a: Readonly<Partial<Record<string, readonly Key[]>>>,
  b: Readonly<Partial<Record<string, readonly Key[]>>>,
): number =>
  Math.min(
    Infinity,
    ...[...new Set([...Object.keys(a), ...Object.keys(b)])].map((k) => sameUntil(a[k] ?? [], b[k] ?? [])),
  );

/** Earliest frame of things that are in one list only or differ. */
export function firstOf<T>(a: readonly T[], b: readonly T[], begins: (x: T) => number): number {
  const all = new Map<string, { x: T; n: number }>();
  for (const [list, n] of [
    [a, 1],
    [b, -1],
  ] as const)
    for (const x of list) {
      const key = JSON.stringify(x);
      all.set(key, { x, n: (all.get(key)?.n ?? 0) + n });
    }
  return Math.min(Infinity, ...[...all.values()].filter((v) => v.n !== 0).map((v) => begins(v.x)));
}

/** Infinity when two things are the same but for some of their fields, else −Infinity. */
export const same = <T extends object>(a: T, b: T, but: Partial<Record<keyof T | string, 0>>): number =>
  JSON.stringify({ ...a, ...but }) === JSON.stringify({ ...b, ...but }) ? Infinity : -Infinity;
