import { createSlice, type PayloadAction } from '@reduxjs/toolkit';
import type { Edit, Shot } from '@oscillum/core/shot';
import type { AsideEdit } from './sync/merge';

/** Whether every edit is stored, on its way, or kept here until the server answers again. */
export type SaveState = 'saved' | 'saving' | 'offline';

/** The open shot: what the server has, what waits to be sent, and what undo can take back. */
export interface ShotSlice {
  id: string | null;
  /** With every edit made here applied. */
  shot: Shot | null;
  /** The shot under a hand that has not let go yet; not an edit. */
  preview: Shot | null;
  /** Of the last edit the server acknowledged. */
  revision: number;
  pending: Edit[];
  /** Edits that could not be kept: not in the shot, not lost. */
  aside: AsideEdit[];
  undo: Edit[];
  redo: Edit[];
  save: SaveState;
  /** What happened to the shot elsewhere that is worth a word. */
  notice: string | null;
}

const initial: ShotSlice = {
  id: null,
  shot: null,
  preview: null,
  revision: 0,
  pending: [],
  aside: [],
  undo: [],
  redo: [],
  save: 'saved',
  notice: null,
};

export const shotSlice = createSlice({
  name: 'shot',
  initialState: initial,
  reducers: {
    opened: (
      _,
      {
        payload,
      }: PayloadAction<
        Pick<ShotSlice, 'shot' | 'revision' | 'pending' | 'save'> & { id: string; aside?: AsideEdit[] }
      >,
    ) => ({ ...initial, ...payload }),
    closed: () => initial,
    previewed: (state, { payload }: PayloadAction<Shot | null>) => {
      state.preview = payload;
    },
    /** An edit made here: by hand, by undo or by redo. */
    edited: (state, { payload }: PayloadAction<{ shot: Shot; edit: Edit; by: 'hand' | 'undo' | 'redo' }>) => {
      state.shot = payload.shot;
      state.preview = null;
      state.pending.push(payload.edit);
      if (payload.by === 'hand') {
        state.undo.push(payload.edit);
        state.redo = [];
      } else if (payload.by === 'undo') state.redo.push(state.undo.pop()!);
      else state.undo.push(state.redo.pop()!);
      if (state.save === 'saved') state.save = 'saving';
    },
    acknowledged: (state, { payload }: PayloadAction<{ revision: number; ids: string[] }>) => {
      const ids = new Set(payload.ids);
      state.pending = state.pending.filter((e) => !ids.has(e.id));
      state.revision = payload.revision;
      state.save = state.pending.length ? 'saving' : 'saved';
    },
    /** The server's state with what is still to be sent on top; what does not fit is set aside. */
    rebased: (
      state,
      {
        payload: { aside, notice, ...payload },
      }: PayloadAction<
        Pick<ShotSlice, 'shot' | 'revision' | 'pending'> & { aside: AsideEdit[]; notice?: string }
      >,
    ) => {
      const dropped = new Set(aside.map((a) => a.edit.id));
      Object.assign(state, payload, { preview: null });
      state.aside.push(...aside);
      if (notice) state.notice = notice;
      state.undo = state.undo.filter((e) => !dropped.has(e.id));
      state.redo = [];
      state.save = payload.pending.length ? 'saving' : 'saved';
    },
    /** An edit that the server refuses leaves the others; what the shot is without it is found when it is rebased. */
    setAside: (state, { payload }: PayloadAction<AsideEdit>) => {
      const { id } = payload.edit;
      state.pending = state.pending.filter((e) => e.id !== id);
      state.undo = state.undo.filter((e) => e.id !== id);
      state.aside.push(payload);
    },
    /** Edits set aside that count again, or that nobody wants any more. */
    asideCleared: (state, { payload }: PayloadAction<readonly string[]>) => {
      state.aside = state.aside.filter((a) => !payload.includes(a.edit.id));
    },
    saveChanged: (state, { payload }: PayloadAction<{ save: SaveState; notice?: string | null }>) => {
      state.save = payload.save;
      if (payload.notice !== undefined) state.notice = payload.notice;
    },
  },
});
