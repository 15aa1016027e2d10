import { applyPatches, enablePatches, produceWithPatches, type Draft, type Patch } from 'immer';
import { z } from 'zod';
import { OscillumError } from '../model/index';
import { parseShot, type Shot } from './shot';

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

/** One named change to a shot, with its inverse. The id makes sending it twice harmless. */
export const Edit = z.strictObject({
  id: z.string().regex(/^[A-Za-z0-9_-]{8,64}$/),
  name: z.string().min(1).max(120),
  patches: z.array(PatchSchema).max(5000),
  inverse: z.array(PatchSchema).max(5000),
});
export type Edit = z.infer<typeof Edit>;

/**
 * The one write path: runs `recipe` on a draft, validates the result and returns it with the reversible diff.
 * Throws OscillumError('shot.invalid') and changes nothing when the result would not be a valid shot.
 */
export function editShot(
  shot: Shot,
  id: string,
  name: string,
  recipe: (draft: Draft<Shot>) => void,
): { shot: Shot; edit: Edit } {
  const [next, patches, inverse] = produceWithPatches(shot, recipe);
  parseShot(next);
  return { shot: next, edit: { id, name, patches, inverse } };
}

/**
 * Applies an edit made elsewhere. Throws OscillumError('edit.invalid') when its path no longer exists, and
 * 'shot.invalid' when the result would not be a valid shot.
 */
export function applyEdit(shot: Shot, edit: Pick<Edit, 'name' | 'patches'>): Shot {
  let next: Shot;
  try {
    next = applyPatches(shot, edit.patches as Patch[]);
  } catch {
    throw new OscillumError(
      'edit.invalid',
      `“${edit.name}” changes something this shot no longer has`,
      edit.patches[0]?.path.join('/') ?? '',
      'Reload the shot and make the change again.',
    );
  }
  return parseShot(next);
}

/** The edit that takes `edit` back. */
export function invertEdit(edit: Edit, id: string, name: string): Edit {
  return { id, name, patches: edit.inverse, inverse: edit.patches };
}
