import { createSlice, type PayloadAction } from '@reduxjs/toolkit';
import type { Edit, Shot } from '@oscillum/core/shot';

export type SaveState = 'saved' | 'saving' | 'offline' | 'refused';

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
  undo: Edit[];
  redo: Edit[];
  save: SaveState;
  /** Why saving is refused, or what a rebase left out. */
  notice: string | null;
}

const initial: ShotSlice = {
  id: null,
  shot: null,
  preview: null,
  revision: 0,
  pending: [],
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
      }: PayloadAction<{ id: string; shot: Shot; revision: number; pending: Edit[]; save: SaveState }>,
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
    /** Edits from elsewhere came in under ours; those of ours that no longer fit are gone. */
    rebased: (
      state,
      { payload }: PayloadAction<{ shot: Shot; revision: number; pending: Edit[]; notice: string | null }>,
    ) => {
      const kept = new Set(payload.pending.map((e) => e.id));
      const dropped = new Set(state.pending.filter((e) => !kept.has(e.id)).map((e) => e.id));
      Object.assign(state, payload, { preview: null });
      state.undo = state.undo.filter((e) => !dropped.has(e.id));
      state.redo = [];
      state.save = payload.pending.length ? 'saving' : 'saved';
    },
    saveChanged: (state, { payload }: PayloadAction<{ save: SaveState; notice?: string | null }>) => {
      state.save = payload.save;
      if (payload.notice !== undefined) state.notice = payload.notice;
    },
  },
});
