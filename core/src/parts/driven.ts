import type { SettingTable } from '../model/settingTable';
import type { Driver } from './kind';

/** Settings of a part at any frame (which may be a part of one). */
type Values<K extends string> = (key: K, frame: number) => number;

/** The settings of a part with what drivers add to them, within their limits; as they were where nothing does. */
export function drivenBy<K extends string>(
  value: Values<K>,
  id: string,
  table: SettingTable<K>,
  drivers: ReadonlyMap<string, Driver>,
): Values<K> {
  const added = new Map<K, ((frame: number) => number)[]>();
  for (const driver of drivers.values())
    for (const { part, setting, at } of driver.settings)
      if (part === id) added.set(setting as K, [...(added.get(setting as K) ?? []), at]);
  if (added.size === 0) return value;
  return (key, frame) => {
    const all = added.get(key);
    if (!all) return value(key, frame);
    const sum = all.reduce((s, at) => s + at(frame), value(key, frame));
    return Math.min(table[key].max, Math.max(table[key].min, sum));
  };
}

/** Whether drivers add to any setting of a part. */
export const isDriven = (id: string, drivers: ReadonlyMap<string, Driver>): boolean =>
  [...drivers.values()].some((d) => d.settings.some((s) => s.part === id));
