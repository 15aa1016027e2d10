import { useState } from 'react';
import { applyRemedy, type Diagnosis } from '@oscillum/core/measure';
import { inOrder } from '@oscillum/core/model';
import type { Shot } from '@oscillum/core/shot';
import { change, sentenceOf } from '../../../state/edits';
import { selectShot, useAppDispatch, useAppSelector } from '../../../state/store';
import { usePicture } from '../../kit/desk';
import { sayTrouble } from '../../kit/say';

/**
 * What keeps parts from moving well, each with what would cure it at one press: one small card on the stage, out of the
 * way of every control, folded to a line on request.
 */
export function Advice() {
  const dispatch = useAppDispatch();
  const advice = usePicture((p) => p.advice);
  const shot = useAppSelector(selectShot)!;
  const chosen = useAppSelector((s) => s.view.parts);
  const [open, setOpen] = useState(true);
  const [all, setAll] = useState(false);
  const order = inOrder(shot.parts).map((p) => p.id as string);
  const rank = (d: Diagnosis) => (chosen.includes(d.partId) ? 0 : order.length) + order.indexOf(d.partId);
  // What a part that is gone suffered from is of no use.
  const found = (advice?.diagnoses ?? [])
    .filter((d) => shot.parts[d.partId])
    .sort((a, b) => rank(a) - rank(b));
  if (found.length === 0) return null;
  const cure = (d: Diagnosis) => {
    try {
      dispatch(change(d.remedy.says, (draft) => applyRemedy(draft as Shot, d.partId, d.remedy)));
    } catch (e) {
      sayTrouble(sentenceOf(e));
    }
  };
  const shown = !open ? [] : all ? found : found.slice(0, 1);
  return (
    <div className="float advice">
      <ul aria-label="Advice">
        {shown.map((d) => (
          <li key={`${d.partId} ${d.cause}`}>
            {d.sentence}{' '}
            <button className="plain" onClick={() => cure(d)}>
              {d.remedy.says}
            </button>
          </li>
        ))}
      </ul>
      <p className="muted small">
        {open && found.length > 1 && (
          <button className="plain" aria-expanded={all} onClick={() => setAll(!all)}>
            {all ? 'only the first' : `and ${found.length - 1} more`}
          </button>
        )}
        <button className="plain" aria-expanded={open} onClick={() => setOpen(!open)}>
          {open ? 'fold' : `${found.length === 1 ? 'One piece' : `${found.length} pieces`} of advice`}
        </button>
      </p>
    </div>
  );
}
