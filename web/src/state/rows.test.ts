import { describe, expect, it } from 'vitest';
import type { Character, CharacterNode } from '@oscillum/core/character';
import { makeChainPart } from '@oscillum/core/chain';
import { editShot, makeShot } from '@oscillum/core/shot';
import { offersFor, refsOf } from './rows';

/** hips → tail 1..3, and at tail 1 a short fork; hips → ear. */
const parents = [-1, 0, 1, 2, 1, 0];
const names = ['hips', 'tail 1', 'tail 2', 'tail 3', 'tuft', 'ear'];
const character = {
  nodes: names.map((name, i): Partial<CharacterNode> => ({
    name,
    parent: parents[i]!,
    children: parents.flatMap((p, k) => (p === i ? [k] : [])),
  })),
  order: Int32Array.from(names.keys()),
  joints: Int32Array.from(names.keys()),
} as unknown as Character;
const shot = makeShot({ name: 't', hash: 'a'.repeat(64), fileName: 'a.glb', clip: null });
const rows = (selected: number[], ends = {}) => offersFor(character, shot, selected, ends).map((o) => o.row);

describe('rows that a press of Make chain would take', () => {
  it('one joint runs down to the tip the longest way, and names the other ends at a fork', () => {
    const [offer] = offersFor(character, shot, [1], {});
    expect(offer!.row).toEqual([1, 2, 3]);
    expect(offer!.tips).toEqual([3, 4]);
    expect(rows([1], { 1: 4 })).toEqual([[1, 4]]);
  });
  it('two joints on one branch are a first and a last, in either order', () => {
    expect(rows([1, 2])).toEqual([[1, 2]]);
    expect(rows([3, 1])).toEqual([[1, 2, 3]]);
  });
  it('joints on several branches make several rows; one below another is already on its row', () => {
    expect(rows([1, 5])).toEqual([[1, 2, 3], [5]]);
    expect(rows([1, 2, 5])).toEqual([[1, 2, 3], [5]]);
  });
  it('a row with a joint that a part moves already says whose it is', () => {
    const taken = editShot(shot, 'test-0001', 'Make chain', (d) => {
      d.parts.p = makeChainPart({
        id: 'p',
        name: 'Tail',
        joints: refsOf(character, [2, 3]),
      });
    }).shot;
    expect(offersFor(character, taken, [1], {})[0]!.taken).toBe('Tail');
    expect(offersFor(character, taken, [5], {})[0]!.taken).toBeNull();
  });
});
