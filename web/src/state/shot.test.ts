import { describe, expect, it } from 'vitest';
import { editShot, makeShot, type Edit, type Shot } from '@oscillum/core/shot';
import { shotSlice } from './shot';

const shot = makeShot({ name: 'First', hash: 'a'.repeat(64), fileName: 'a.glb', clip: null });
const rename = (from: Shot, name: string) =>
  editShot(from, crypto.randomUUID(), `Rename to ${name}`, (d) => void (d.name = name));
const { opened, edited, acknowledged, rebased, previewed } = shotSlice.actions;
const open = () =>
  shotSlice.reducer(undefined, opened({ id: 'x', shot, revision: 3, pending: [], save: 'saved' }));

describe('the open shot', () => {
  it('says saved only when every edit has been acknowledged', () => {
    const a = rename(shot, 'A');
    const b = rename(a.shot, 'B');
    let s = shotSlice.reducer(open(), edited({ ...a, by: 'hand' }));
    expect(s.save).toBe('saving');
    s = shotSlice.reducer(s, edited({ ...b, by: 'hand' }));
    s = shotSlice.reducer(s, acknowledged({ revision: 4, ids: [a.edit.id] }));
    expect([s.save, s.revision, s.pending.length]).toEqual(['saving', 4, 1]);
    s = shotSlice.reducer(s, acknowledged({ revision: 5, ids: [b.edit.id] }));
    expect([s.save, s.revision, s.pending.length]).toEqual(['saved', 5, 0]);
  });
  it('a preview is no edit: nothing to send and nothing to undo, and an edit ends it', () => {
    let s = shotSlice.reducer(open(), previewed(rename(shot, 'Held').shot));
    expect([s.pending.length, s.undo.length, s.shot!.name]).toEqual([0, 0, 'First']);
    s = shotSlice.reducer(s, edited({ ...rename(shot, 'Let go'), by: 'hand' }));
    expect([s.preview, s.shot!.name]).toEqual([null, 'Let go']);
  });
  it('undo moves an edit to redo, and a new edit by hand ends what could be redone', () => {
    const a = rename(shot, 'A');
    let s = shotSlice.reducer(open(), edited({ ...a, by: 'hand' }));
    const back: Edit = { ...a.edit, id: 'undo-0001', patches: a.edit.inverse, inverse: a.edit.patches };
    s = shotSlice.reducer(s, edited({ shot, edit: back, by: 'undo' }));
    expect([s.undo.length, s.redo.length, s.pending.length]).toEqual([0, 1, 2]);
    s = shotSlice.reducer(s, edited({ ...rename(shot, 'C'), by: 'hand' }));
    expect([s.undo.length, s.redo.length]).toEqual([1, 0]);
  });
  it('a rebase sets aside edits that no longer fit, with their undo steps, and keeps the notice', () => {
    const a = rename(shot, 'A');
    const b = rename(a.shot, 'B');
    let s = shotSlice.reducer(open(), edited({ ...a, by: 'hand' }));
    s = shotSlice.reducer(s, edited({ ...b, by: 'hand' }));
    s = shotSlice.reducer(
      s,
      rebased({
        ...{ shot: b.shot, revision: 9, pending: [b.edit] },
        ...{ aside: [{ edit: a.edit, why: 'It does not fit.' }], notice: 'One change was left out.' },
      }),
    );
    expect(s.undo.map((e) => e.id)).toEqual([b.edit.id]);
    expect([s.revision, s.save, s.notice]).toEqual([9, 'saving', 'One change was left out.']);
    expect(s.aside.map((x) => x.edit.id)).toEqual([a.edit.id]);
  });
});
