import type { Refinement, Seen } from '@oscillum/core/model';
import type { Shot } from '@oscillum/core/shot';
import { change } from './edits';
import type { Thunk } from './store';

/**
 * Lays a refinement on those there are, which count again if they were muted; `seen` is what its curves were under it,
 * kept where nothing was kept yet.
 */
export const layRefinement = (step: Refinement, seen: Readonly<Record<string, Seen>>): Thunk =>
  change(step.name, (d) => {
    d.refine.steps.push(step);
    d.refine.muted = false;
    d.refine.seen = { ...seen, ...d.refine.seen };
  });

export const removeRefinements = (ids: readonly string[], name: string): Thunk =>
  change(name, (d) => {
    d.refine.steps = d.refine.steps.filter((s) => !ids.includes(s.id));
    if (d.refine.steps.length === 0) d.refine.seen = {};
  });

export const muteRefinement =
  (id: string): Thunk =>
  (dispatch, getState) => {
    const step = getState().shot.shot?.refine.steps.find((s) => s.id === id);
    if (!step) return;
    dispatch(
      change(`${step.muted ? 'Unmute' : 'Mute'} “${step.name}”`.slice(0, 120), (d) => {
        d.refine.steps.find((s) => s.id === id)!.muted = !step.muted;
      }),
    );
  };

export const muteLayer = (muted: boolean): Thunk =>
  change(muted ? 'Mute the refinements' : 'Unmute the refinements', (d) => void (d.refine.muted = muted));

/** Takes what the curves are now as what the refinements were made on. */
export const acceptBake = (seen: Readonly<Record<string, Seen>>): Thunk =>
  change('Keep the refinements on the new bake', (d) => void (d.refine.seen = { ...seen }));

/** How keys of a bake are written, those that refinements are laid on too. */
export const chooseKeys = (keys: Shot['keys']): Thunk =>
  change('Choose how keys are written', (d) => void (d.keys = keys));
