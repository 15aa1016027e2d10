import { editShot, makeShot, type Edit, type Shot } from '@oscillum/core/shot';
import { describe, expect, it } from 'vitest';
import { makeChainPart } from '@oscillum/core/chain';
import { namesOf, replay, union, unsent } from './merge';

const shot = makeShot({ name: 'First', hash: 'a'.repeat(64), fileName: 'a.glb', clip: null });
let made = 0;
const edit = (on: Shot, name: string, recipe: (d: Shot) => void): { shot: Shot; edit: Edit } =>
  editShot(on, `edit-${String(++made).padStart(5, '0')}`, name, (d) => recipe(d as Shot));
const renamed = (on: Shot, name: string) => edit(on, `Rename to ${name}`, (d) => void (d.name = name));
const chain = (id: string) =>
  makeChainPart({
    id,
    name: id,
    joints: [
      { node: 1, name: 'tail 1' },
      { node: 2, name: 'tail 2' },
    ],
  });

describe('edits laid on a shot anew', () => {
  it('come one after another, as they were made', () => {
    const a = renamed(shot, 'A');
    const b = edit(a.shot, 'Set pre-roll', (d) => void (d.preRollSeconds = 7));
    expect(replay(shot, [a.edit, b.edit])).toEqual({ shot: b.shot, pending: [a.edit, b.edit], aside: [] });
  });
  it('that do not fit are set aside with the reason, and the ones after them stay', () => {
    const withChain = edit(shot, 'Make chain', (d) => void (d.parts['p' as never] = chain('p')));
    const inIt = edit(withChain.shot, 'Name it', (d) => void (d.parts['p' as never]!.name = 'Tail'));
    const other = renamed(shot, 'Other');
    // Another has taken the chain away: what names it does not fit any more.
    const { shot: now, pending, aside } = replay(shot, [inIt.edit, other.edit]);
    expect(pending).toEqual([other.edit]);
    expect(aside.map((x) => x.edit)).toEqual([inIt.edit]);
    expect(aside[0]!.why).toMatch(/^It does not fit the shot as it is now: /);
    expect(now.name).toBe('Other');
  });
});

describe('what several windows have kept', () => {
  it('is each edit once, in the order in which it first stands', () => {
    const [a, b, c] = ['A', 'B', 'C'].map((n) => renamed(shot, n).edit) as [Edit, Edit, Edit];
    expect(union([[a, b], [b, c], []])).toEqual([a, b, c]);
    expect(union([])).toEqual([]);
  });
  it('is not sent again where the server has it already, so that nothing is added twice', () => {
    const takes = edit(shot, 'Make chain', (d) => void (d.parts['p' as never] = chain('p')));
    const next = renamed(takes.shot, 'Next');
    const known = new Set([takes.edit.id]);
    const left = unsent([takes.edit, next.edit], known);
    expect(left).toEqual([next.edit]);
    expect(replay(takes.shot, left).shot).toEqual(next.shot);
  });
});

it('names one change, and several as a list', () => {
  const edits = ['A', 'B', 'C'].map((n) => renamed(shot, n).edit);
  expect(namesOf(edits.slice(0, 1))).toBe('Rename to A');
  expect(namesOf(edits)).toBe('3 changes: Rename to A, Rename to B and Rename to C');
  expect(namesOf([])).toBe('');
});
