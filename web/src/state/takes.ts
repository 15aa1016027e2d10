import { randomId } from '../api/ids';
import { Take, TUNED_FIELDS } from '@oscillum/core/shot';
import { change } from './edits';
import type { Thunk } from './store';

/** Keeps the present settings, with what they measured, to come back to. */
export function keepTake(measures: Take['measures']): Thunk {
  return (dispatch, getState) => {
    const { shot } = getState().shot;
    if (!shot) return;
    const takes = Object.values(shot.takes);
    const order = takes.reduce((n, t) => Math.max(n, t.order), 0) + 1;
    const take = Take.parse({
      id: `t${randomId(8)}`,
      name: `Take ${order}`,
      order,
      tuned: Object.fromEntries(TUNED_FIELDS.map((k) => [k, shot[k]])),
      measures,
    });
    dispatch(change(`Keep ${take.name}`, (d) => void (d.takes[take.id] = take)));
  };
}

/** Makes the settings of a take the present ones, as one edit. */
export function returnToTake(id: string): Thunk {
  return (dispatch, getState) => {
    const take = getState().shot.shot?.takes[id];
    if (take)
      dispatch(change(`Return to ${take.name}`, (d) => void Object.assign(d, structuredClone(take.tuned))));
  };
}

export function changeTake(id: string, name: string, recipe: (take: Take) => void): Thunk {
  return change(name, (d) => void (d.takes[id] && recipe(d.takes[id] as Take)));
}

export function removeTake(id: string): Thunk {
  return change('Remove a take', (d) => void delete d.takes[id]);
}
