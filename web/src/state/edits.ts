import { randomId } from '../api/ids';
import {
  OscillumError,
  withKey,
  type PartBase,
  type Profile,
  type SettingInfo,
  type ValueKeys,
} from '@oscillum/core/model';
import {
  actionRange,
  applyEdit,
  documentOf,
  editShot,
  invertEdit,
  keepFeel,
  setScale as putScale,
  type KindName,
  type Part,
  type Shot,
} from '@oscillum/core/shot';
import { NOUNS } from './parts';
import { settingAt } from './settingAt';
import { shotSlice } from './shot';
import type { Thunk } from './store';
import { viewSlice } from './view';

export type Recipe = Parameters<typeof editShot>[3];
const { edited, previewed } = shotSlice.actions;

/** The one write path of the application: validates, records the reversible diff, and leaves saving to sync. */
export function change(name: string, recipe: Recipe): Thunk {
  return (dispatch, getState) => {
    const { shot } = getState().shot;
    if (!shot) return;
    const result = editShot(shot, randomId(), name, recipe);
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
  const edit = invertEdit(last, randomId(), `Undo ${last.name}`);
  dispatch(edited({ shot: applyEdit(shot, edit), edit, by: 'undo' }));
};

export const redo: Thunk = (dispatch, getState) => {
  const { shot, redo: stack } = getState().shot;
  const last = stack.at(-1);
  if (!shot || !last) return;
  const edit = { ...last, id: randomId() };
  dispatch(edited({ shot: applyEdit(shot, edit), edit, by: 'redo' }));
};

/** What some parts are called together: "chain", "3 chains", or "parts" where they are of several kinds. */
export function called(parts: readonly { readonly kind: KindName }[]): string {
  const kinds = new Set(parts.map((p) => p.kind));
  const noun = kinds.size === 1 ? NOUNS[parts[0]!.kind] : 'part';
  return parts.length === 1 ? noun : `${parts.length} ${noun}s`;
}

/** What a setting is, in the table of a part's kind. */
export const infoOf = (part: { readonly kind: string }, key: string): SettingInfo =>
  documentOf(part as Part).settings[key]!;

/** A change whose name says which setting it is of, and what parts. */
function named(ids: readonly string[], key: string, make: (label: string, of: string) => Thunk): Thunk {
  return (dispatch, getState) => {
    const { shot } = getState().shot;
    const parts = ids.flatMap((id) => shot?.parts[id] ?? []);
    if (parts.length > 0) dispatch(make(infoOf(parts[0]!, key).label.toLowerCase(), called(parts)));
  };
}

/** Some parts of the shot by a change that names them. */
function onParts(ids: readonly string[], make: (of: string) => Thunk): Thunk {
  return (dispatch, getState) => {
    const { shot } = getState().shot;
    const parts = ids.flatMap((id) => shot?.parts[id] ?? []);
    if (parts.length > 0) dispatch(make(called(parts)));
  };
}

export function removeParts(ids: readonly string[]): Thunk {
  return (dispatch) => {
    if (ids.length === 0) return;
    dispatch(onParts(ids, (of) => change(`Remove ${of}`, (d) => ids.forEach((id) => delete d.parts[id]))));
    dispatch(viewSlice.actions.partsSelected({ parts: [] }));
  };
}

/** Which value of which parts a control sets. */
export interface SettingTarget {
  readonly ids: readonly string[];
  readonly key: string;
  /** Where a keyed setting takes its key. */
  readonly frame: number;
}

function putSetting(part: PartBase, key: string, frame: number, value: number): void {
  const keys = part.keys[key];
  if (keys?.length) part.keys[key] = withKey(keys, frame, value);
  else part.settings[key] = value;
}

/** Gives a setting a value on a frame, and its keys elsewhere the same share more or less. */
function putThroughout(part: PartBase, key: string, frame: number, value: number): void {
  const keys = part.keys[key];
  if (!keys?.length) {
    part.settings[key] = value;
    return;
  }
  const { min, max } = infoOf(part, key);
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
      const part = d.parts[id] as PartBase | undefined;
      if (!part) continue;
      for (const [key, value] of Object.entries(fit))
        putThroughout(part, key, frame, Number(value.toFixed(3)));
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
  const recipe: Recipe = (d) => {
    const parts = ids.flatMap((id) => (d.parts[id] ? [d.parts[id] as PartBase] : []));
    const now = parts.map((p) => settingAt(p, key, frame));
    const by = value - now.reduce((a, b) => a + b, 0) / now.length;
    parts.forEach((p, i) => {
      const { min, max } = infoOf(p, key);
      putSetting(p, key, frame, apart ? Math.min(max, Math.max(min, rounded(now[i]! + by))) : value);
    });
  };
  if (!final) return preview(recipe);
  return named(ids, key, (label, of) => change(`Set ${label} of ${of}`, recipe));
}

const rounded = (v: number) => Number(v.toFixed(6));

/** Puts a key of a setting on a frame, at the value it has there; takes them off when all parts have one. */
export function toggleKey({ ids, key, frame }: SettingTarget): Thunk {
  return (dispatch, getState) => {
    const { shot } = getState().shot;
    if (!shot) return;
    const known = ids.filter((id) => shot.parts[id]);
    const off = known.every((id) => (shot.parts[id] as PartBase).keys[key]?.some((k) => k.frame === frame));
    const first = shot.parts[known[0] ?? ''];
    if (!first) return;
    const label = infoOf(first, key).label.toLowerCase();
    dispatch(
      change(`${off ? 'Remove a key' : 'Key'} of ${label} on frame ${frame}`, (d) => {
        for (const id of known) {
          const part = d.parts[id] as PartBase;
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

export function setKeys(ids: readonly string[], key: string, keys: ValueKeys, final = true): Thunk {
  const recipe: Recipe = (d) => {
    for (const id of ids) {
      const part = d.parts[id] as PartBase | undefined;
      if (!part) continue;
      if (keys.length) part.keys[key] = keys;
      else delete part.keys[key];
    }
  };
  if (!final) return preview(recipe);
  return named(ids, key, (label) => change(`Key ${label}`, recipe));
}

export function setProfile(ids: readonly string[], key: string, profile: Profile, final: boolean): Thunk {
  const recipe: Recipe = (d) => {
    for (const id of ids) {
      const part = d.parts[id];
      const profiles = part && 'profiles' in part ? (part.profiles as Record<string, Profile>) : null;
      if (!profiles) continue;
      if (profile.length) profiles[key] = profile;
      else delete profiles[key];
    }
  };
  if (!final) return preview(recipe);
  return named(ids, key, (label) => change(`Set the profile of ${label}`, recipe));
}

/** Mutes parts or lets them move again; `bakedInto` names the clip that holds their motion, when a bake mutes them. */
export function setMuted(ids: readonly string[], muted: boolean, bakedInto: string | null = null): Thunk {
  return onParts(ids, (of) =>
    change(`${muted ? 'Mute' : 'Unmute'} ${of}`, (d) =>
      ids.forEach((id) => {
        if (!d.parts[id]) return;
        d.parts[id].muted = muted;
        d.parts[id].bakedInto = muted ? bakedInto : null;
      }),
    ),
  );
}

export function renamePart(id: string, name: string): Thunk {
  return change('Rename', (d) => void (d.parts[id] && (d.parts[id].name = name)));
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
          part.anchors = off
            ? others
            : [...others, { frame, easeIn: EASE, easeOut: EASE, hold: 0, turns: null }];
          part.anchors.sort((a, b) => a.frame - b.frame);
        }
      }),
    );
  };
}

/** Adds so many frames after the clip, in which it holds its last pose, in place of those that were added. */
export const setSettleFrames = (shot: Shot, frames: number): Thunk => {
  const settleFrames = Math.max(0, frames);
  const { first, last } = actionRange(shot);
  return setShot('Set frames to settle', { settleFrames, range: { first, last: last + settleFrames } });
};

/** Closes the loop of a shot, which has no frames to settle in, or opens it. */
export const setLoop = (shot: Shot, loop: boolean): Thunk =>
  setShot(loop ? 'Close the loop' : 'Open the loop', {
    loop,
    ...(loop && { settleFrames: 0, range: actionRange(shot) }),
  });

/** Changes time, scale, clip or name of the shot. */
export function setShot(
  name: string,
  values: Partial<
    Pick<
      Shot,
      | 'name'
      | 'range'
      | 'settleFrames'
      | 'fps'
      | 'preRollSeconds'
      | 'cycle'
      | 'stillAt'
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

/** Makes what has become so many times as large move as it did before. */
export const keepFeelAt = (by: number): Thunk => change('Keep the feel at this size', (d) => keepFeel(d, by));

/** A sentence for an error of the core; anything else is rethrown. */
export function sentenceOf(e: unknown): string {
  if (e instanceof OscillumError) return e.sentence;
  throw e;
}
