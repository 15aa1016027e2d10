import type { Character } from '@oscillum/core/character';
import type { Frames } from '@oscillum/core/frames';
import type { PartBase } from '@oscillum/core/model';
import type { Shot } from '@oscillum/core/shot';
import { carryTo } from '@oscillum/core/simulate';
import { NOTHING, type Picture } from '../../../sim/picture';
import { infoOf } from '../../../state/edits';

/** A shot that is looked at beside others. */
export interface Variant {
  readonly id: string;
  readonly name: string;
  readonly shot: Shot;
}

/** One of them simulated. */
export interface VariantRun extends Variant {
  readonly picture: Picture;
  /** The frame on which the chosen parts are farthest from their source, and how far, m. */
  readonly worst: number;
  readonly far: number;
}

/** A shot on each clip of its character that stands by itself; its own is as it is. */
export function shotsOnClips(character: Character, shot: Shot): Variant[] {
  return character.clips.flatMap(({ name, over }, clip) => {
    if (over) return [];
    const on = clip === shot.clip?.index ? shot : carryTo(shot, character, shot.character, clip).shot;
    return [{ id: String(clip), name, shot: on }];
  });
}

/** A shot with a setting of some parts at half, as it is and doubled, as far as its limits go. */
export function shotsWithSetting(shot: Shot, ids: readonly string[], key: string): Variant[] {
  const sizes = [
    ['half', 0.5],
    ['now', 1],
    ['double', 2],
  ] as const;
  return sizes.map(([name, by]) => {
    if (by === 1) return { id: name, name, shot };
    const parts = Object.entries(shot.parts).map(([k, p]) => {
      if (!ids.includes(k)) return [k, p];
      const { min, max } = infoOf(p, key);
      const scaled = (x: number) => Math.min(max, Math.max(min, x * by));
      const part = structuredClone(p) as PartBase;
      part.settings[key] = scaled(part.settings[key]!);
      for (const one of part.keys[key] ?? []) one.value = scaled(one.value);
      return [k, part];
    });
    return { id: name, name, shot: { ...shot, parts: Object.fromEntries(parts) as Shot['parts'] } };
  });
}

/** What came of one: the worst frame of some parts, or of all where none are chosen. */
export function runOf(variant: Variant, frames: Frames, chosen: readonly string[]): VariantRun {
  const all = frames.parts.map((p) => p.partId);
  const columns = [...all.keys()].filter((c) => chosen.length === 0 || chosen.includes(all[c]!));
  let [worst, far] = [0, 0];
  for (let f = 0; f < frames.done; f++)
    for (const c of columns) {
      const off = frames.tipOffSource[f * all.length + c]!;
      if (off > far) [worst, far] = [f, off];
    }
  return { ...variant, picture: { ...NOTHING, frames }, worst: frames.first + worst, far };
}
