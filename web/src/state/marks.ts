import type { PartBase } from '@oscillum/core/model';
import { change, preview, type Recipe } from './edits';
import type { CopiedMarks, Mark } from './lanes';
import type { Thunk } from './store';

/** The frames of the marks of each part. */
function byPart(marks: readonly Mark[]): Map<string, Set<number>> {
  const out = new Map<string, Set<number>>();
  for (const m of marks) out.set(m.part, (out.get(m.part) ?? new Set()).add(m.frame));
  return out;
}

const eachList = (part: PartBase, f: <T extends { frame: number }>(list: readonly T[]) => T[]): void => {
  part.anchors = f(part.anchors);
  for (const key of Object.keys(part.keys)) {
    const list = f(part.keys[key]!);
    if (list.length > 0) part.keys[key] = list;
    else delete part.keys[key];
  }
};

const inTime = <T extends { frame: number }>(list: T[]): T[] => list.sort((a, b) => a.frame - b.frame);

/** Moves marks by some frames, over what is there. Not final while a hand still drags. */
export function shiftMarks(marks: readonly Mark[], by: number, final: boolean): Thunk {
  const recipe: Recipe = (d) => {
    for (const [id, frames] of byPart(marks)) {
      const part = d.parts[id] as PartBase | undefined;
      if (!part || by === 0) continue;
      eachList(part, (list) => {
        const moving = list.filter((x) => frames.has(x.frame));
        const covered = new Set(moving.map((x) => x.frame + by));
        const staying = list.filter((x) => !frames.has(x.frame) && !covered.has(x.frame));
        return inTime([...staying, ...moving.map((x) => ({ ...x, frame: x.frame + by }))]);
      });
    }
  };
  return final
    ? change(`Move ${count(marks)} by ${by} ${Math.abs(by) === 1 ? 'frame' : 'frames'}`, recipe)
    : preview(recipe);
}

/** Takes marks off; a setting whose last key goes keeps its value. */
export function removeMarks(marks: readonly Mark[]): Thunk {
  return change(`Remove ${count(marks)}`, (d) => {
    for (const [id, frames] of byPart(marks)) {
      const part = d.parts[id] as PartBase | undefined;
      if (!part) continue;
      for (const key of Object.keys(part.keys))
        if (part.keys[key]!.every((k) => frames.has(k.frame))) part.settings[key] = part.keys[key]![0]!.value;
      eachList(part, (list) => list.filter((x) => !frames.has(x.frame)));
    }
  });
}

export function copyMarks(parts: Readonly<Record<string, PartBase>>, marks: readonly Mark[]): CopiedMarks {
  const first = Math.min(...marks.map((m) => m.frame));
  return {
    parts: [...byPart(marks)].flatMap(([id, frames]) => {
      const part = parts[id] && structuredClone(parts[id]);
      if (!part) return [];
      eachList(part, (list) =>
        list.filter((x) => frames.has(x.frame)).map((x) => ({ ...x, frame: x.frame - first })),
      );
      return [{ id: part.id, anchors: part.anchors, keys: part.keys }];
    }),
  };
}

/** Puts copied marks on a frame: of one part on all of `onto`, of several each on its own part. */
export function pasteMarks(copied: CopiedMarks, frame: number, onto: readonly string[]): Thunk {
  const over = <T extends { frame: number }>(list: readonly T[], added: readonly T[]): T[] => {
    const fresh = added.map((x) => ({ ...x, frame: x.frame + frame }));
    const covered = new Set(fresh.map((x) => x.frame));
    return inTime([...list.filter((x) => !covered.has(x.frame)), ...fresh]);
  };
  return change(`Paste marks on frame ${frame}`, (d) => {
    for (const from of copied.parts) {
      const targets = copied.parts.length === 1 && onto.length > 0 ? onto : [from.id];
      for (const id of targets) {
        const part = d.parts[id] as PartBase | undefined;
        if (!part) continue;
        if (from.anchors.length > 0) part.anchors = over(part.anchors, from.anchors);
        for (const key of Object.keys(from.keys))
          part.keys[key] = over(part.keys[key] ?? [], from.keys[key]!);
      }
    }
  });
}

const count = (marks: readonly Mark[]) => (marks.length === 1 ? 'a mark' : `${marks.length} marks`);
