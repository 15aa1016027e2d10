import { describe, expect, it } from 'vitest';
import { AirStep } from '../kernel/air';
import { ChainStep } from '../kernel/chain/fields';
import { SearchStep } from '../kernel/search/fields';
import { TouchStep } from '../kernel/touches';
import { TurnStep } from '../kernel/turns';
import { arrayAt, chainNumbers, makeArena, numberAt } from './arena';
import { lumpMasses, NO_FEEL } from './calibrate';
import { makeChainSolver } from './chain';

const STEPS = { ChainStep, SearchStep, TouchStep, TurnStep, AirStep };

describe('the fields of the kernel in memory', () => {
  it.each(Object.entries(STEPS))('%s has its numbers first, as the compiled code reads them', (_, Step) => {
    const kinds = Object.values(new Step() as object).map((v) => typeof v);
    expect(kinds.lastIndexOf('number')).toBe(kinds.filter((k) => k === 'number').length - 1);
    expect(kinds.slice(kinds.lastIndexOf('number') + 1).every((k) => k === 'object')).toBe(true);
  });

  it('lie one after the other: numbers of 8 bytes in their order, then addresses of arrays of 4', () => {
    const arena = makeArena(1000);
    const arrays = { x: arena.alloc(6), v: arena.alloc(6) };
    const fields = Object.assign(new AirStep(), { links: 1, density: 1.2, ...arrays });
    const placed = arena.place(fields);
    expect([...placed.numbers]).toEqual([1, 1.2]);
    expect(placed.numbers.byteOffset).toBe(placed.at);
    expect(placed.arrays.byteOffset).toBe(placed.at + 16);
    expect(placed.arrays[arrayAt(fields, 'v')]).toBe(arrays.v.byteOffset);
    expect(numberAt(fields, 'density')).toBe(1);
  });

  it('are given room that holds zeros, and given it anew after a release', () => {
    const arena = makeArena(100);
    const kept = arena.alloc(4).fill(7);
    const first = arena.alloc(8).fill(3);
    arena.release(4);
    const again = arena.alloc(8);
    expect(again.byteOffset).toBe(first.byteOffset);
    expect([...again]).toEqual([0, 0, 0, 0, 0, 0, 0, 0]);
    expect([...kept]).toEqual([7, 7, 7, 7]);
  });

  it('fit the room that is asked for a chain, whatever its length', () => {
    for (const links of [1, 2, 7, 40, 100]) {
      const lengths = new Float64Array(links).fill(0.1);
      const arena = makeArena(chainNumbers(links));
      const { buffer } = arena.alloc(0);
      const matter = { lengths, masses: lumpMasses(lengths, 0.1) };
      makeChainSolver(matter, { ...NO_FEEL, hold: 2 }, 1 / 120, arena);
      const end = arena.alloc(0).byteOffset;
      expect(end, `${links} links`).toBeLessThanOrEqual(buffer.byteLength);
    }
  });
});
