import { useCallback, useMemo, useRef, useState } from 'react';
import type { Refinement } from '@oscillum/core/model';
import {
  curvesOf,
  groundOf,
  layStep,
  misfits,
  rememberCurves,
  type Curves,
  type Ground,
  type Misfit,
} from '@oscillum/core/refine';
import { acceptBake, layRefinement } from '../../../state/refine';
import { sentenceOf } from '../../../state/edits';
import { useAppDispatch, useAppSelector } from '../../../state/store';
import { useDesk } from '../../kit/desk';
import { sayTrouble } from '../../kit/say';
import { useBaked } from '../../desk/useBaked';

/** The curves of the shot's bake, what is laid on them, and what a hand is about to lay on them. */
export interface Refining {
  readonly base: Curves;
  /** The same with all keys, when they are thinned. */
  readonly every: Curves | null;
  /** With all that is laid on them. */
  readonly laid: Curves;
  /** And with what the hand is doing. */
  readonly now: Curves;
  readonly ground: Ground;
  /** The curves are of settings before: newer ones are on their way. */
  readonly baking: boolean;
  readonly misfits: readonly Misfit[];
  readonly draft: Refinement | null;
  setDraft: (step: Refinement | null) => void;
  /** Makes the draft, or another step, an edit. */
  lay: (step: Refinement) => void;
  /** The refinements stay as they are on curves that have changed. */
  accept: () => void;
}

export type RefiningState =
  | { readonly at: 'baking' }
  | { readonly at: 'failed'; readonly sentence: string }
  | ({ readonly at: 'open' } & Refining);

interface Folded {
  base: Curves;
  ground: Ground;
  steps: readonly Refinement[];
  results: Curves[];
}

/** Lays steps on curves; what was laid before, up to the first step that is another, is not laid again. */
function fold(known: Folded | null, base: Curves, ground: Ground, steps: readonly Refinement[]): Folded {
  const same = known?.base === base && known.ground === ground ? known : null;
  let n = 0;
  while (same && n < steps.length && same.steps[n] === steps[n]) n++;
  const results = same ? same.results.slice(0, n) : [];
  for (; n < steps.length; n++) results.push(layStep(results[n - 1] ?? base, steps[n]!, ground));
  return { base, ground, steps, results };
}

export function useRefining(): RefiningState {
  const dispatch = useAppDispatch();
  const { character } = useDesk();
  const shot = useAppSelector((s) => s.shot.shot)!;
  const baked = useBaked(shot);
  const [draft, setDraft] = useState<Refinement | null>(null);
  const clip = baked.at === 'baked' ? baked.clip : null;
  const asBaked = baked.at === 'baked' ? baked.shot : null;
  const base = useMemo(() => clip && curvesOf(character, clip), [character, clip]);
  const all = baked.at === 'baked' ? baked.every : null;
  const every = useMemo(() => all && curvesOf(character, all), [character, all]);
  const ground = useMemo(
    () => (clip && asBaked ? groundOf(character, asBaked, clip.shift) : null),
    [character, clip, asBaked],
  );
  const known = useRef<Folded | null>(null);
  const { steps, muted } = shot.refine;
  const laid = useMemo(() => {
    if (!base || !ground) return null;
    if (muted) return base;
    // Steps that were laid are kept from one edit to the next.
    known.current = fold(known.current, base, ground, steps);
    return known.current.results.at(-1) ?? base;
  }, [base, ground, steps, muted]);
  const now = useMemo(
    () => (laid && ground && draft ? layStep(laid, draft, ground) : laid),
    [laid, ground, draft],
  );
  const fits = useMemo(
    () => (base && ground ? misfits(base, shot.refine, ground) : []),
    [base, ground, shot.refine],
  );
  const remember = useCallback(
    (list: Refinement['channels']) => {
      if (!base || !ground) return {};
      const { first, last } = shot.range;
      return rememberCurves(base, list, first, last, ground);
    },
    [base, ground, shot.range],
  );
  const lay = (step: Refinement) => {
    setDraft(null);
    try {
      dispatch(layRefinement(step, remember(step.channels)));
    } catch (e) {
      sayTrouble(sentenceOf(e));
    }
  };
  const accept = () => dispatch(acceptBake(remember(steps.flatMap((s) => s.channels))));
  if (baked.at === 'failed') return baked;
  if (!base || !laid || !now || !ground) return { at: 'baking' };
  return {
    at: 'open',
    baking: baked.stale,
    every,
    base,
    laid,
    now,
    ground,
    misfits: fits,
    draft,
    setDraft,
    lay,
    accept,
  };
}
