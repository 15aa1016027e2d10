import { applyPatches, enablePatches, produceWithPatches, type Draft, type Patch } from 'immer';
import { z } from 'zod';
import { OscillumError } from '../model/index';
import { parseShot, type Shot } from './shot';
import { linkShot, mendShot } from './whole';

enablePatches();

/** Names that would reach past the document into the language. */
const FORBIDDEN_KEYS = new Set(['__proto__', 'constructor', 'prototype']);

const PatchSchema = z.strictObject({
  op: z.enum(['replace', 'add', 'remove']),
  path: z
    .array(z.union([z.string().max(100), z.int().min(0)]))
    .max(12)
    .refine((p) => !p.some((k) => FORBIDDEN_KEYS.has(String(k))), {
      error: 'A path names something outside the document',
    }),
  value: z.unknown().optional(),
});

/** Letters an edit's name may have, and patches it may hold. */
const MOST_LETTERS = 120;
const MOST_PATCHES = 5000;

/** One named change to a shot, with its inverse. The id makes sending it twice harmless. */
export const Edit = z.strictObject({
  id: z.string().regex(/^[A-Za-z0-9_-]{8,64}$/),
  name: z.string().min(1).max(MOST_LETTERS),
  patches: z.array(PatchSchema).max(MOST_PATCHES),
  inverse: z.array(PatchSchema).max(MOST_PATCHES),
});
export type Edit = z.infer<typeof Edit>;

/**
 * The one write path: runs `recipe` on a draft, keeps linked parts alike, lets go of what it leaves without its like,
 * validates the result and returns it with the reversible diff. What the edit says is what every reader of it gets:
 * names are as long as they may be, and values as the schema keeps them. Throws OscillumError('shot.invalid') and
 * changes nothing when the result would not be a valid shot.
 */
export function editShot(
  shot: Shot,
  id: string,
  name: string,
  recipe: (draft: Draft<Shot>) => void,
): { shot: Shot; edit: Edit } {
  const [changed, changes, undoing] = produceWithPatches(shot, recipe);
  const [linked, along, unlinked] = linkShot(shot, changed);
  const [mended, more, unmore] = mendShot(linked);
  const kept = parseShot(mended);
  let [next, patches, inverse] = [
    mended,
    [...changes, ...along, ...more],
    [...unmore, ...unlinked, ...undoing],
  ];
  if (!sameData(kept, next) || Math.max(patches.length, inverse.length) > MOST_PATCHES)
    [next, patches, inverse] = wholesale(shot, kept);
  return { shot: next, edit: { id, name: editName(name), patches, inverse } };
}

/** A name that an edit may have: what is too long is cut at a word, what is empty says nothing in particular. */
export function editName(name: string): string {
  const text = name.trim() || 'Change';
  if (text.length <= MOST_LETTERS) return text;
  const cut = text.slice(0, MOST_LETTERS - 1);
  return `${cut.slice(0, Math.max(MOST_LETTERS / 2, cut.lastIndexOf(' ')))}…`;
}

/** A change said field by field: every one that differs is replaced whole. */
function wholesale(shot: Shot, next: Shot): [Shot, Patch[], Patch[]] {
  const fields = (Object.keys(next) as (keyof Shot)[]).filter((k) => !sameData(shot[k], next[k]));
  const patch = (from: Shot) => fields.map((k): Patch => ({ op: 'replace', path: [k], value: from[k] }));
  const changed = Object.fromEntries(fields.map((k) => [k, next[k]]));
  return [{ ...shot, ...changed }, patch(next), patch(shot)];
}

/** Whether two pieces of a document say the same. */
function sameData(a: unknown, b: unknown): boolean {
  if (Object.is(a, b)) return true;
  if (typeof a !== 'object' || typeof b !== 'object' || a === null || b === null) return false;
  const keys = Object.keys(a);
  return (
    Array.isArray(a) === Array.isArray(b) &&
    keys.length === Object.keys(b).length &&
    keys.every((k) => k in b && sameData((a as Plain)[k], (b as Plain)[k]))
  );
}
type Plain = Record<string, unknown>;

/**
 * Applies an edit made elsewhere. What it does not touch is shared with the shot before. Throws
 * OscillumError('edit.invalid') when its path no longer exists, and 'shot.invalid' when the result would not be a valid
 * shot.
 */
export function applyEdit(shot: Shot, edit: Pick<Edit, 'name' | 'patches'>): Shot {
  let next: Shot;
  try {
    // It may have been made where other things were there still.
    [next] = mendShot(applyPatches(shot, edit.patches as Patch[]));
  } catch {
    throw new OscillumError(
      'edit.invalid',
      `“${edit.name}” changes something this shot no longer has`,
      edit.patches[0]?.path.join('/') ?? '',
      'Reload the shot and make the change again.',
    );
  }
  const kept = parseShot(next);
  return sameData(kept, next) ? next : kept;
}

/** The edit that takes `edit` back. */
export function invertEdit(edit: Edit, id: string, name: string): Edit {
  return { id, name: editName(name), patches: edit.inverse, inverse: edit.patches };
}
