import { useEffect, useRef, type RefObject } from 'react';
import { useAppSelector } from '../../../state/store';
import type { RefineDesk } from './refineDesk';
import type { useKeyActions } from './useKeyActions';

type Actions = Omit<ReturnType<typeof useKeyActions>, 'slopes'> & {
  takeSpan: (first: number, last: number) => void;
  /** What arrows move up and down, and by how much. */
  readonly component: number;
  readonly small: number;
};

/**
 * The keyboard in Refine. Del takes keys out wherever the focus is: elsewhere it takes chains out, which nobody means
 * here. Arrows move keys only from the curves, since they step through frames otherwise.
 */
export function useCurveKeys(desk: RefineDesk, field: RefObject<HTMLElement | null>, actions: Actions): void {
  const frame = useAppSelector((s) => Math.round(s.view.frame));
  const latest = useRef<(e: KeyboardEvent) => void>(() => {});
  useEffect(() => {
    latest.current = (e) => {
      const target = e.target as HTMLElement;
      if (target.matches('textarea, select, input:not([type=checkbox])') || desk.untouched) return;
      const { insertAt, remove, copy, paste, nudge, takeSpan, component, small } = actions;
      const mod = e.ctrlKey || e.metaKey;
      const here = field.current?.contains(target) === true;
      const some = Object.values(desk.chosen).some((list) => list.length > 0);
      const much = e.shiftKey ? 10 : 1;
      const arrow = (frames: number, by: number) =>
        here && some && (() => nudge(much * frames, much * by, component));
      const take = () => {
        if (some) remove();
      };
      const does: Record<string, (() => void) | false> = {
        Delete: take,
        Backspace: take,
        Escape: (some || desk.span !== null) && (() => (desk.setChosen({}), desk.setSpan(null))),
        ArrowLeft: arrow(-1, 0),
        ArrowRight: arrow(1, 0),
        ArrowUp: arrow(0, small),
        ArrowDown: arrow(0, -small),
        i: !mod && (() => insertAt(frame)),
        a: mod && (() => takeSpan(desk.range.first, desk.range.last)),
        c: mod && some && copy,
        v: mod && (() => paste(e.shiftKey)),
        V: mod && (() => paste(true)),
      };
      const run = does[e.key];
      if (!run) return;
      e.preventDefault();
      e.stopPropagation();
      run();
    };
  });
  useEffect(() => {
    const on = (e: KeyboardEvent) => latest.current(e);
    window.addEventListener('keydown', on, true);
    return () => window.removeEventListener('keydown', on, true);
  }, []);
}
