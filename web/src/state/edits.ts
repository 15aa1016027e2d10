import {
  applyEdit,
  editShot,
  invertEdit,
  OscillumError,
  PartId,
  CHAIN_SETTINGS,
  chainSettingsFor,
  makeChainPart,
  partsInOrder,
  type ChainSettingKey,
  type JointRef,
  type Shot,
} from '@oscillum/core/model';
import { shotSlice } from './shot';
import type { Thunk } from './store';
import { viewSlice } from './view';

type Recipe = Parameters<typeof editShot>[3];
const { edited, previewed } = shotSlice.actions;

/** The one write path of the application: validates, records the reversible diff, and leaves saving to sync. */
export function change(name: string, recipe: Recipe): Thunk {
  return (dispatch, getState) => {
    const { shot } = getState().shot;
    if (!shot) return;
    const result = editShot(shot, crypto.randomUUID(), name, recipe);
    if (result.edit.patches.length === 0) dispatch(previewed(null));
    else dispatch(edited({ ...result, by: 'hand' }));
  };
}

/** Shows a change without making it, while a hand is on a control. */
function preview(recipe: Recipe): Thunk {
  return (dispatch, getState) => {
    const { shot } = getState().shot;
    if (shot) dispatch(previewed(editShot(shot, 'preview-only', 'Preview', recipe).shot));
  };
}

export const undo: Thunk = (dispatch, getState) => {
  const { shot, undo: stack } = getState().shot;
  const last = stack.at(-1);
  if (!shot || !last) return;
  const edit = invertEdit(last, crypto.randomUUID(), `Undo ${last.name}`.slice(0, 120));
  dispatch(edited({ shot: applyEdit(shot, edit), edit, by: 'undo' }));
};

export const redo: Thunk = (dispatch, getState) => {
  const { shot, redo: stack } = getState().shot;
  const last = stack.at(-1);
  if (!shot || !last) return;
  const edit = { ...last, id: crypto.randomUUID() };
  dispatch(edited({ shot: applyEdit(shot, edit), edit, by: 'redo' }));
};

const chains = (n: number) => (n === 1 ? 'chain' : `${n} chains`);

/** A row of joints to become a chain, and its length at rest, m. */
export interface ChainRow {
  readonly joints: JointRef[];
  readonly length: number;
}

/** Makes chains of rows of joints and selects them. Throws OscillumError when a joint is taken already. */
export function makeChains(rows: readonly ChainRow[]): Thunk {
  return (dispatch, getState) => {
    const { shot } = getState().shot;
    if (!shot) return;
    const ids: string[] = [];
    const existing = partsInOrder(shot);
    const last = existing.reduce((n, p) => Math.max(n, p.order), -1);
    dispatch(
      change(`Make ${chains(rows.length)}`, (d) => {
        rows.forEach(({ joints, length }, i) => {
          const id = PartId.parse(`p${crypto.randomUUID().slice(0, 8)}`);
          ids.push(id);
          d.parts[id] = makeChainPart({
            id,
            name: chainName(
              joints,
              existing.map((p) => p.name),
            ),
            order: last + 1 + i,
            joints,
            settings: chainSettingsFor(length),
          });
        });
      }),
    );
    dispatch(viewSlice.actions.partsSelected({ parts: ids }));
    dispatch(viewSlice.actions.jointsSelected({ joints: [] }));
  };
}

/** "plume middle 1" … names a chain "Plume middle". */
function chainName(joints: readonly JointRef[], taken: readonly string[]): string {
  const base =
    joints[0]!.name
      .replace(/[\s._-]*\d+$/, '')
      .replace(/[_.]/g, ' ')
      .trim() || joints[0]!.name;
  const name = (base[0] ?? 'C').toUpperCase() + base.slice(1, 100);
  if (!taken.includes(name)) return name;
  for (let n = 2; ; n++) if (!taken.includes(`${name} ${n}`)) return `${name} ${n}`;
}

export function removeParts(ids: readonly string[]): Thunk {
  return (dispatch) => {
    if (ids.length === 0) return;
    dispatch(change(`Remove ${chains(ids.length)}`, (d) => ids.forEach((id) => delete d.parts[id])));
    dispatch(viewSlice.actions.partsSelected({ parts: [] }));
  };
}

/** Sets one setting of parts; not final while the slider is still held. */
export function setSetting(
  ids: readonly string[],
  key: ChainSettingKey,
  value: number,
  final: boolean,
): Thunk {
  const recipe: Recipe = (d) => ids.forEach((id) => d.parts[id] && (d.parts[id].settings[key] = value));
  return final
    ? change(`Set ${CHAIN_SETTINGS[key].label.toLowerCase()} of ${chains(ids.length)}`, recipe)
    : preview(recipe);
}

export function setMuted(ids: readonly string[], muted: boolean, because = ''): Thunk {
  return change(`${muted ? 'Mute' : 'Unmute'} ${chains(ids.length)}`, (d) =>
    ids.forEach((id) => {
      if (!d.parts[id]) return;
      d.parts[id].muted = muted;
      d.parts[id].mutedBecause = muted ? because : '';
    }),
  );
}

export function renamePart(id: string, name: string): Thunk {
  return change('Rename chain', (d) => void (d.parts[id] && (d.parts[id].name = name)));
}

/** Changes time, scale, clip or name of the shot. */
export function setShot(
  name: string,
  values: Partial<
    Pick<
      Shot,
      'name' | 'range' | 'fps' | 'preRoll' | 'substeps' | 'clip' | 'start' | 'loop' | 'gravity' | 'airDensity'
    >
  > & {
    character?: Partial<Shot['character']>;
  },
): Thunk {
  return change(name, (d) => {
    const { character, ...rest } = values;
    Object.assign(d, rest);
    if (character) Object.assign(d.character, character);
  });
}

/** A sentence for an error of the core; anything else is rethrown. */
export function sentenceOf(e: unknown): string {
  if (e instanceof OscillumError) return e.sentence;
  throw e;
}
