import { makeValueCurve, type PartBase } from '@oscillum/core/model';

/** What a setting of a part is at a frame: its keys' curve where it has keys. */
export function settingAt(part: PartBase, key: string, frame: number): number {
  const keys = part.keys[key];
  return keys?.length ? makeValueCurve(keys)(frame) : part.settings[key]!;
}
