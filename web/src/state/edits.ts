import {
  OscillumError,
  PartId,
  makeValueCurve,
  withKey,
  type JointRef,
  type Profile,
  type ValueKeys,
} from '@oscillum/core/model';
import {
  CHAIN_SETTINGS,
  chainSettingsFor,
  makeChainPart,
  type ChainPart,
  type ChainSettingKey,
  type Pull,
} from '@oscillum/core/chain';
import {
  applyEdit,
  editShot,
  invertEdit,
  partsInOrder,
  setScale as putScale,
  type Shot,
} from '@oscillum/core/shot';
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
export function preview(recipe: Recipe): Thunk {
  return (dispatch, getState) => {
    const { shot } = getState().shot;
    if (shot) dispatch(previewed(editShot(shot, 'preview-only', 'Preview', recipe).shot));
  };
}

export const undo: Thunk = (dispatch, getState) => {
  const { shot, undo: stack } = getState().shot;
  const last = stack.at(-1);
  if (!shot || !last) return;
  const edit = invertEdit(last, crypto.randomUUID(), `Undo ${last.name}`);
  dispatch(edited({ shot: applyEdit(shot, edit), edit, by: 'undo' }));
};

export const redo: Thunk = (dispatch, getState) => {
  const { shot, redo: stack } = getState().shot;
  const last = stack.at(-1);
  if (!shot || !last) return;
  const edit = { ...last, id: crypto.randomUUID() };
  dispatch(edited({ shot: applyEdit(shot, edit), edit, by: 'redo' }));
};

/** "chain", or how many. */
export const chains = (n: number) => (n === 1 ? 'chain' : `${n} chains`);

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

/** Which value of which parts a control sets. */
export interface SettingTarget {
  readonly ids: readonly string[];
  readonly key: ChainSettingKey;
  /** Where a keyed setting takes its key. */
  readonly frame: number;
}

/** What a setting of a part is at a frame: its keys' curve where it has keys. */
export function settingAt(part: ChainPart, key: ChainSettingKey, frame: number): number {
  const keys = part.keys[key];
  return keys?.length ? makeValueCurve(keys)(frame) : part.settings[key];
}

function putSetting(part: ChainPart, key: ChainSettingKey, frame: number, value: number): void {
  const keys = part.keys[key];
  if (keys?.length) part.keys[key] = withKey(keys, frame, value);
  else part.settings[key] = value;
}

/** Gives a setting a value on a frame, and its keys elsewhere the same share more or less. */
function putThroughout(part: ChainPart, key: ChainSettingKey, frame: number, value: number): void {
  const keys = part.keys[key];
  if (!keys?.length) {
    part.settings[key] = value;
    return;
  }
  const { min, max } = CHAIN_SETTINGS[key];
  const now = settingAt(part, key, frame);
  for (const k of keys) {
    const next = now === 0 ? value : rounded((k.value * value) / now);
    k.value = Math.min(max, Math.max(min, next));
  }
}

/** Settings of parts for a feel, such as hold, bend and damping; not final while a hand is still asking. */
export function fitTogether(
  name: string,
  fits: Readonly<Record<string, Readonly<Record<string, number>>>>,
  frame: number,
  final: boolean,
): Thunk {
  const recipe: Recipe = (d) => {
    for (const [id, fit] of Object.entries(fits)) {
      const part = d.parts[id] as ChainPart | undefined;
      if (!part) continue;
      for (const [key, value] of Object.entries(fit))
        putThroughout(part, key as ChainSettingKey, frame, Number(value.toFixed(3)));
    }
  };
  return final ? change(name, recipe) : preview(recipe);
}

/**
 * Sets one setting of parts; not final while the slider is still held. `apart` keeps the differences between the parts:
 * all move by as much as their mean does.
 */
export function setSetting(
  { ids, key, frame }: SettingTarget,
  value: number,
  final: boolean,
  apart = false,
): Thunk {
  const { min, max, label } = CHAIN_SETTINGS[key];
  const recipe: Recipe = (d) => {
    const parts = ids.flatMap((id) => (d.parts[id] ? [d.parts[id] as ChainPart] : []));
    const now = parts.map((p) => settingAt(p, key, frame));
    const by = value - now.reduce((a, b) => a + b, 0) / now.length;
    parts.forEach((p, i) =>
      putSetting(p, key, frame, apart ? Math.min(max, Math.max(min, rounded(now[i]! + by))) : value),
    );
  };
  return final ? change(`Set ${label.toLowerCase()} of ${chains(ids.length)}`, recipe) : preview(recipe);
}

const rounded = (v: number) => Number(v.toFixed(6));

/** Puts a key of a setting on a frame, at the value it has there; takes them off when all parts have one. */
export function toggleKey({ ids, key, frame }: SettingTarget): Thunk {
  return (dispatch, getState) => {
    const { shot } = getState().shot;
    if (!shot) return;
    const known = ids.filter((id) => shot.parts[id]);
    const off = known.every((id) => shot.parts[id]!.keys[key]?.some((k) => k.frame === frame));
    const label = CHAIN_SETTINGS[key].label.toLowerCase();
    dispatch(
      change(`${off ? 'Remove a key' : 'Key'} of ${label} on frame ${frame}`, (d) => {
        for (const id of known) {
          const part = d.parts[id] as ChainPart;
          const value = settingAt(part, key, frame);
          const keys = part.keys[key] ?? [];
          if (!off) part.keys[key] = withKey(keys, frame, value);
          else if (keys.length > 1) part.keys[key] = keys.filter((k) => k.frame !== frame);
          else {
            // The last key leaves its value behind.
            delete part.keys[key];
            part.settings[key] = value;
          }
        }
      }),
    );
  };
}

export function setKeys(ids: readonly string[], key: ChainSettingKey, keys: ValueKeys): Thunk {
  return change(`Key ${CHAIN_SETTINGS[key].label.toLowerCase()}`, (d) => {
    for (const id of ids) {
      const part = d.parts[id];
      if (!part) continue;
      if (keys.length) part.keys[key] = keys;
      else delete part.keys[key];
    }
  });
}

export function setProfile(
  ids: readonly string[],
  key: ChainSettingKey,
  profile: Profile,
  final: boolean,
): Thunk {
  const recipe: Recipe = (d) => {
    for (const id of ids) {
      const part = d.parts[id];
      if (!part) continue;
      if (profile.length) part.profiles[key] = profile;
      else delete part.profiles[key];
    }
  };
  return final
    ? change(`Set the profile of ${CHAIN_SETTINGS[key].label.toLowerCase()}`, recipe)
    : preview(recipe);
}

/** Mutes parts or lets them move again; `bakedInto` names the clip that holds their motion, when a bake mutes them. */
export function setMuted(ids: readonly string[], muted: boolean, bakedInto: string | null = null): Thunk {
  return change(`${muted ? 'Mute' : 'Unmute'} ${chains(ids.length)}`, (d) =>
    ids.forEach((id) => {
      if (!d.parts[id]) return;
      d.parts[id].muted = muted;
      d.parts[id].bakedInto = muted ? bakedInto : null;
    }),
  );
}

export function renamePart(id: string, name: string): Thunk {
  return change('Rename chain', (d) => void (d.parts[id] && (d.parts[id].name = name)));
}

/** Frames over which a new anchor pose eases in and out. */
const EASE = 8;

/** Puts an anchor pose on a frame of parts; takes it off when all have one there. */
export function toggleAnchor(ids: readonly string[], frame: number): Thunk {
  return (dispatch, getState) => {
    const { shot } = getState().shot;
    const known = ids.filter((id) => shot?.parts[id]);
    if (known.length === 0) return;
    const off = known.every((id) => shot!.parts[id]!.anchors.some((a) => a.frame === frame));
    dispatch(
      change(`${off ? 'Remove the anchor pose' : 'Anchor pose'} on frame ${frame}`, (d) => {
        for (const id of known) {
          const part = d.parts[id]!;
          const others = part.anchors.filter((a) => a.frame !== frame);
          part.anchors = off ? others : [...others, { frame, easeIn: EASE, easeOut: EASE }];
          part.anchors.sort((a, b) => a.frame - b.frame);
        }
      }),
    );
  };
}

/** Shows a part pulled by hand, while the hand still moves. */
export function shakeWith(id: string, pull: Pull): Thunk {
  return preview((d) => void d.parts[id]?.pulls.push(pull));
}

export function keepShake(id: string, pull: Pull): Thunk {
  return change('Keep the shake', (d) => void d.parts[id]?.pulls.push(pull));
}

/** Changes time, scale, clip or name of the shot. */
export function setShot(
  name: string,
  values: Partial<
    Pick<
      Shot,
      | 'name'
      | 'range'
      | 'fps'
      | 'preRoll'
      | 'substeps'
      | 'clip'
      | 'start'
      | 'loop'
      | 'gravity'
      | 'gravityKeys'
      | 'inPlace'
      | 'airDensity'
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

/** Says what one unit of the file is. What was fitted to the figure grows or shrinks with it. */
export const setScale = (metresPerUnit: number): Thunk =>
  change('Set scale', (d) => putScale(d, metresPerUnit));

/** A sentence for an error of the core; anything else is rethrown. */
export function sentenceOf(e: unknown): string {
  if (e instanceof OscillumError) return e.sentence;
  throw e;
}
