import { useRef, useState } from 'react';
import { flushSync } from 'react-dom';
import { framesOf, plainFrame } from '@oscillum/core/refine';
import type { Refinement } from '@oscillum/core/model';
import { useAppDispatch } from '../../../state/store';
import { viewSlice } from '../../../state/view';
import { frameAt, STRIP, valueAt, type DrawnCurve, type Scale, type SlopeHandle } from './draw';
import { boxOf, chosenBy, keyNear, keysInBox, NEAR, shifted, slopeAt } from './hits';
import { keyStep, useRefineDesk, type Chosen } from './refineDesk';
import { keysBetween } from './useCurves';

type Press =
  | { kind: 'keys'; x: number; y: number; component: number; chosen: Chosen; moved: boolean }
  | { kind: 'handle'; handle: SlopeHandle; moved: boolean }
  | { kind: 'marquee'; x: number; y: number; add: boolean }
  | { kind: 'span'; from: number };

interface Field {
  readonly field: React.RefObject<HTMLDivElement | null>;
  readonly curves: readonly DrawnCurve[];
  readonly shown: readonly boolean[];
  readonly scale: Scale;
  readonly handles: readonly SlopeHandle[];
  /** Whether the two sides of a key are turned apart. */
  readonly broken: boolean;
}

/** What a press at a place of the field takes hold of. */
function pressAt(
  { curves, shown, scale, handles }: Pick<Field, 'curves' | 'shown' | 'scale' | 'handles'>,
  chosen: Chosen,
  x: number,
  y: number,
  add: boolean,
): Press {
  if (y < STRIP) return { kind: 'span', from: Math.round(frameAt(scale, x)) };
  const key = keyNear(curves, shown, scale, x, y);
  const handle = handles.find((h) => Math.hypot(h.x - x, h.y - y) <= NEAR);
  if (handle && !key) return { kind: 'handle', handle, moved: false };
  if (!key) return { kind: 'marquee', x, y, add };
  const next = chosenBy(chosen, key, add);
  return { kind: 'keys', x, y, component: key.component, chosen: next, moved: false };
}

/** How far keys go that are dragged from one place to another: with `one` in time or in value only. */
function moveBy(
  scale: Scale,
  from: { readonly x: number; readonly y: number },
  to: { readonly x: number; readonly y: number },
  one: boolean,
): { frames: number; by: number } {
  const across = !one || Math.abs(to.x - from.x) >= Math.abs(to.y - from.y);
  const along = !one || !across;
  return {
    frames: across ? frameAt(scale, to.x) - frameAt(scale, from.x) : 0,
    by: along ? valueAt(scale, to.y) - valueAt(scale, from.y) : 0,
  };
}

/** What a press on the curves leaves chosen. */
function useTaking() {
  const desk = useRefineDesk();
  const dispatch = useAppDispatch();
  const { nodes, path, now, ground, chosen, setChosen, lay } = desk;
  const takeSpan = (a: number, b: number) => {
    const { range } = desk;
    const [first, last] = [Math.max(range.first, Math.min(a, b)), Math.min(range.last, Math.max(a, b))];
    if (last <= first) return;
    desk.setSpan({ first, last });
    setChosen(keysBetween(nodes, path, now, (c) => Array.from(framesOf(c, ground), plainFrame), first, last));
  };
  /** Makes what the hand has done an edit; what was chosen goes along. */
  const commit = (step: Refinement) => {
    lay(step);
    if (step.does.tool === 'move' && step.does.frames !== 0) setChosen(shifted(chosen, step.does.frames));
  };
  const takeNothing = () => {
    setChosen({});
    desk.setSpan(null);
  };
  /** A press on nothing: the frame there is shown. */
  const goTo = (frame: number) => {
    takeNothing();
    const f = Math.min(desk.range.last, Math.max(desk.range.first, Math.round(frame)));
    dispatch(viewSlice.actions.frameSet(f));
  };
  return { takeSpan, takeNothing, goTo, commit };
}

/**
 * The mouse on the curves: keys are chosen and moved, slopes turned, boxes drawn, and spans taken on the strip above.
 */
export function useCurvePress({ field, curves, shown, scale, handles, broken }: Field) {
  const desk = useRefineDesk();
  const dispatch = useAppDispatch();
  const { chosen, setChosen, draft, setDraft, snap, untouched } = desk;
  const { takeSpan, takeNothing, goTo, commit } = useTaking();
  const press = useRef<Press | null>(null);
  const [box, setBox] = useState<React.CSSProperties | null>(null);
  const at = (e: React.PointerEvent | React.MouseEvent) => {
    const r = field.current!.getBoundingClientRect();
    return { x: e.clientX - r.left, y: e.clientY - r.top };
  };
  const snapped = (by: number) => (snap ? Math.round(by) : plainFrame(by));
  const moveStep = (by: { frames: number; by: number; component: number }, keys: Chosen) =>
    keyStep(desk, 'Move', (list) => ({ tool: 'move', keys: list, ...by }), keys);

  const down = (e: React.PointerEvent) => {
    if (e.button !== 0 || untouched) return;
    e.currentTarget.setPointerCapture(e.pointerId);
    dispatch(viewSlice.actions.playingSet(false));
    const { x, y } = at(e);
    const p = pressAt({ curves, shown, scale, handles }, chosen, x, y, e.shiftKey);
    press.current = p;
    if (p.kind !== 'keys') return;
    setChosen(p.chosen);
    desk.setSpan(null);
  };
  // Drawn before the browser's next picture, not one later.
  const move = (e: React.PointerEvent) => flushSync(() => drag(e));
  const drag = (e: React.PointerEvent) => {
    const p = press.current;
    if (!p) return;
    const { x, y } = at(e);
    if (p.kind === 'keys') {
      if (!p.moved && Math.hypot(x - p.x, y - p.y) < 3) return;
      p.moved = true;
      const { frames, by } = moveBy(scale, p, { x, y }, e.shiftKey);
      setDraft(moveStep({ frames: snapped(frames), by, component: p.component }, p.chosen));
    } else if (p.kind === 'handle') {
      p.moved = true;
      setDraft(handleStep(p.handle, x, y));
    } else if (p.kind === 'marquee') setBox(boxOf({ x, y }, p));
    else takeSpan(p.from, Math.round(frameAt(scale, x)));
  };
  const up = (e: React.PointerEvent) => {
    const p = press.current;
    press.current = null;
    setBox(null);
    if (!p) return;
    const { x, y } = at(e);
    if (p.kind === 'keys' || p.kind === 'handle') {
      // A shape that is being tried is not what the hand has done.
      if (draft && p.moved) commit(draft);
    } else if (p.kind === 'marquee') {
      if (Math.hypot(x - p.x, y - p.y) < 3) return goTo(frameAt(scale, x));
      setChosen(keysInBox(curves, shown, scale, boxOf({ x, y }, p), p.add ? chosen : {}));
      desk.setSpan(null);
    } else if (Math.round(frameAt(scale, x)) === p.from) {
      takeNothing();
    }
  };
  const handleStep = (h: SlopeHandle, x: number, y: number): Refinement | null => {
    const slope = slopeAt(h, scale, x, y);
    const side = broken ? h.side : 'both';
    return keyStep(
      desk,
      'Turn the slope of',
      (keys) => ({ tool: 'handle', keys, side, component: h.component, slope }),
      { [h.key]: [h.frame] },
    );
  };

  const cancel = () => {
    press.current = null;
    setBox(null);
    setDraft(null);
  };
  return { at, down, move, up, cancel, takeSpan, commit, box };
}
