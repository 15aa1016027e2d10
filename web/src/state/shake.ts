import { isChain, type Pull } from '@oscillum/core/chain';
import { AddedMotion, AddedMotionId } from '@oscillum/core/model';
import { freshId, lastOrder } from './fresh';
import { change, preview, type Recipe } from './edits';
import type { Shaken } from './shaken';
import { selectShot, type Thunk } from './store';

/** Frames in which a joint comes back to its source after a hand has let go of it. */
const BACK = 8;
/** What is less than this along an axis is no motion: m and degrees. */
const LEAST = { translation: 1e-4, rotation: 0.1 } as const;

const tidy = (x: number) => Number(x.toFixed(5));

/** Keys of what was drawn, for each axis that has any. */
export function motionsOf(shaken: Extract<Shaken, { kind: 'body' }>, order: number): AddedMotion[] {
  const { joint, name, drawn } = shaken;
  const { path, axes, first, values } = drawn;
  return axes.flatMap((axis, k) => {
    const along = values.map((v) => tidy(v[k]!));
    if (along.every((v) => Math.abs(v) < LEAST[path])) return [];
    const keys = along.map((value, i) => ({ frame: first + i, value, kind: 'linear' as const }));
    const last = keys.at(-1)!;
    return AddedMotion.parse({
      id: AddedMotionId.parse(freshId('t')),
      name: `Shake of ${name || `joint ${joint}`}${axes.length > 1 ? `, ${'xyz'[k]}` : ''}`,
      order: order + k,
      joint: { node: joint, name },
      ...{ path, kind: 'keys', axis, cycles: false },
      // It begins and ends where the clip has it.
      keys: [
        ...(keys[0]!.value === 0 ? [] : [{ frame: first - 1, value: 0, kind: 'linear' as const }]),
        ...keys.slice(0, -1),
        { ...last, kind: 'smooth' as const },
        { frame: last.frame + BACK, value: 0, kind: 'smooth' as const },
      ],
    });
  });
}

function withShaken(shaken: Shaken, kept: boolean): Recipe {
  return (d) => {
    if (shaken.kind === 'pull') {
      const part = d.parts[shaken.partId];
      const { pull } = shaken;
      if (isChain(part) && 'link' in pull) part.pulls.push(pull);
      else if (part?.kind === 'cloth' && 'vertex' in pull) part.pulls.push(pull);
      else if (part?.kind === 'strands' && 'guide' in pull) part.pulls.push(pull);
      return;
    }
    if (!kept && shaken.drawn.stillAt !== null) d.stillAt = shaken.drawn.stillAt;
    for (const m of motionsOf(shaken, lastOrder(d.addedMotions))) d.addedMotions[m.id] = m;
  };
}

/** Shows what a hand does while it still moves. */
export const shakeWith = (shaken: Shaken): Thunk => preview(withShaken(shaken, false));

export const keepShake = (shaken: Shaken): Thunk => change('Keep the shake', withShaken(shaken, true));

/** Another grip for a pull that is not kept yet, shown at once. */
export const regripped =
  (shaken: Shaken, grip: Partial<Pick<Pull, 'strength' | 'slip'>>): Thunk =>
  (dispatch, getState) => {
    if (shaken.kind !== 'pull' || !selectShot(getState())) return;
    dispatch(shakeWith({ ...shaken, pull: { ...shaken.pull, ...grip } }));
  };
