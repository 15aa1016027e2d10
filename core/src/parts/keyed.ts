import { makeValueCurve, type ValueKeys } from '../model/index';

/** What of a part has keys in time. */
interface Keyed<K extends string> {
  readonly settings: Readonly<Record<K, number>>;
  readonly keys: { readonly [key in K]?: ValueKeys | undefined };
}

/** The settings of a part at any frame: their keys, or their values where they have none. */
export function keyedValues<K extends string>(
  names: readonly K[],
  { settings, keys }: Keyed<K>,
): (key: K, frame: number) => number {
  const curves = new Map(
    names.flatMap((k) => {
      const own = keys[k];
      return own?.length ? [[k, makeValueCurve(own)] as const] : [];
    }),
  );
  return (key, frame) => curves.get(key)?.(frame) ?? settings[key];
}
