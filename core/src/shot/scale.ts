import type { Draft } from 'immer';
import { scaledLength, scaledPlace } from '../model/part';
import { documentOf } from '../parts/documents';
import type { Shot } from './shot';

/** Sizes a document may hold, m. */
const LEAST = 1e-6;
const MOST = 1e5;
const size = (x: number, by: number) => scaledLength(x, by, LEAST, MOST);

/**
 * Says what one unit of the file is, in place. All that was fitted to the figure grows or shrinks with it: colliders,
 * lengths of parts with their keys, pulls and ties, places and reaches of forces, and the same in every take.
 */
export function setScale(draft: Draft<Shot>, metresPerUnit: number): void {
  const by = metresPerUnit / draft.character.metresPerUnit;
  draft.character.metresPerUnit = metresPerUnit;
  if (!Number.isFinite(by) || by <= 0 || by === 1) return;
  scaleTuned(draft, by);
  for (const m of Object.values(draft.addedMotions)) {
    if (m.path === 'rotation') continue;
    m.amount = scaledLength(m.amount, by, -3600, 3600);
    for (const k of m.keys) k.value = scaledLength(k.value, by);
  }
  for (const take of Object.values(draft.takes)) {
    scaleTuned(take.tuned, by);
    for (const m of Object.values(take.measures))
      if (m.tipMetres !== null) m.tipMetres = scaledLength(m.tipMetres, by);
  }
}

function scaleTuned(tuned: Draft<Pick<Shot, 'parts' | 'colliders' | 'forces'>>, by: number): void {
  for (const part of Object.values(tuned.parts)) documentOf(part).scale(part, by);
  for (const c of Object.values(tuned.colliders)) {
    c.t = scaledPlace(c.t, by);
    for (const k of c.keys) k.t = scaledPlace(k.t, by);
    const { shape } = c;
    if (shape.kind === 'sphere' || shape.kind === 'capsule') shape.radius = size(shape.radius, by);
    if (shape.kind === 'capsule') shape.length = scaledLength(shape.length, by, 0, MOST);
    if (shape.kind === 'mesh') shape.simplified = Math.min(1e4, shape.simplified * by);
    if (shape.kind === 'box') shape.size = shape.size.map((x) => size(x, by)) as typeof shape.size;
  }
  for (const f of Object.values(tuned.forces)) {
    if (f.kind === 'wind') f.swirl = size(f.swirl, by);
    else {
      f.t = scaledPlace(f.t, by);
      f.radius = size(f.radius, by);
    }
  }
}

/**
 * Makes a shot whose figure has become so many times as large move as it did: where lengths are `by` times as long, the
 * same shapes come at the same times when gravity, winds and attractors are `by` times as strong, and what is made of
 * the same stuff weighs as its size says (Froude's law of similar motion).
 */
export function keepFeel(draft: Draft<Shot>, by: number): void {
  if (!Number.isFinite(by) || by <= 0) return;
  draft.gravity = scaledPlace(draft.gravity, by);
  keepTuned(draft, by);
  for (const { tuned } of Object.values(draft.takes)) {
    if (tuned.gravity) tuned.gravity = scaledPlace(tuned.gravity, by);
    keepTuned(tuned, by);
  }
}

/** How settings in these units go with size, as powers of it: weights along a line and over an area, pressures. */
const POWERS: Readonly<Record<string, number>> = { 'kg/m': 2, 'g/m': 2, 'kg/m²': 1, Pa: 2 };

function keepTuned(tuned: Draft<Pick<Shot, 'parts' | 'colliders' | 'forces'>>, by: number): void {
  for (const part of Object.values(tuned.parts)) {
    const { settings } = documentOf(part);
    const values = part.settings as Record<string, number>;
    const keys = part.keys as Record<string, { value: number }[] | undefined>;
    for (const [key, { unit, min, max }] of Object.entries(settings)) {
      // How far a body droops under its own weight tells how firm it is.
      const power = part.kind === 'body' && key === 'droop' ? -1 : POWERS[unit];
      if (power === undefined) continue;
      const grown = (x: number) => scaledLength(x, by ** power, min, max);
      values[key] = grown(values[key]!);
      for (const k of keys[key] ?? []) k.value = grown(k.value);
    }
    if (part.kind === 'strands')
      for (const band of part.bands) band.weight = scaledLength(band.weight, by ** 3, 0, 1e5);
  }
  for (const c of Object.values(tuned.colliders))
    if (c.free) c.free.mass = scaledLength(c.free.mass, by ** 3, LEAST, 1e6);
  for (const f of Object.values(tuned.forces)) {
    if (f.kind === 'wind') {
      f.speed = scaledLength(f.speed, by, 0, 200);
      for (const k of f.speedKeys) k.value = scaledLength(k.value, by, 0, 200);
    } else if (f.kind === 'burst') f.speed = scaledLength(f.speed, by, -500, 500);
    else {
      f.strength = scaledLength(f.strength, by, -1000, 1000);
      for (const k of f.strengthKeys) k.value = scaledLength(k.value, by, -1000, 1000);
    }
  }
}
