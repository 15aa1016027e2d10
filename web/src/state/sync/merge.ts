import { OscillumError } from '@oscillum/core/model';
import { applyEdit, type Edit, type Shot } from '@oscillum/core/shot';

/** An edit that could not be kept, and why. It is shown, and waits to be tried again or let go. */
export interface AsideEdit {
  readonly edit: Edit;
  readonly why: string;
}

/** A shot with edits laid on it, and those that did not fit. */
export interface Replayed {
  readonly shot: Shot;
  readonly pending: Edit[];
  readonly aside: AsideEdit[];
}

/** Edits on top of a shot, one after another; what does not fit is set aside, and the others go on without it. */
export function replay(shot: Shot, edits: readonly Edit[]): Replayed {
  const pending: Edit[] = [];
  const aside: AsideEdit[] = [];
  for (const edit of edits) {
    try {
      shot = applyEdit(shot, edit);
      pending.push(edit);
    } catch (e) {
      if (!(e instanceof OscillumError)) throw e;
      aside.push({ edit, why: `It does not fit the shot as it is now: ${e.sentence}` });
    }
  }
  return { shot, pending, aside };
}

/** Lists of edits as one, each edit once, in the order in which it first stands. */
export function union(lists: readonly (readonly Edit[])[]): Edit[] {
  const all = new Map<string, Edit>();
  for (const edit of lists.flat()) if (!all.has(edit.id)) all.set(edit.id, edit);
  return [...all.values()];
}

/** What is still to be sent when the server has the edits of these ids. */
export const unsent = (pending: readonly Edit[], known: ReadonlySet<string>): Edit[] =>
  pending.filter((e) => !known.has(e.id));

/** "Set hold", or "3 changes: Set hold, Make chain and Remove". */
export function namesOf(edits: readonly Edit[]): string {
  const names = edits.map((e) => e.name);
  if (names.length <= 1) return names[0] ?? '';
  return `${names.length} changes: ${names.slice(0, -1).join(', ')} and ${names.at(-1)}`;
}
