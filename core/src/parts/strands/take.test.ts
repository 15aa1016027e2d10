import { describe, expect, it } from 'vitest';
import { makeFigure, nodeNamed } from '../../../test/figure';
import { character } from '../../../test/poncho';
import { readLines } from '../../formats/lines/index';
import { writePointsUsda } from '../../formats/usda/index';
import { growGuides } from './grow';
import { lengthOfGuide } from './groom';
import { lineOfJoints, takeGuides } from './take';

const SCALP = nodeNamed(character, 'fringe scalp mesh').node;
const bytes = (text: string) => new TextEncoder().encode(text);
const growth = { count: 12, length: 0.1, points: 7, lean: 0.3, seed: 1, mirrored: false };
const guides = growGuides(character, SCALP, 1, [0, -1, 0], growth, null);
const near = (a: readonly ArrayLike<number>[], b: readonly ArrayLike<number>[]) => {
  expect(a.length).toBe(b.length);
  a.forEach((g, k) => Array.from(g).forEach((x, o) => expect(x).toBeCloseTo(b[k]![o]!, 5)));
};

describe('lines of a file', () => {
  it('are those of OBJ, of a table and of USD text, as they were written', () => {
    const obj = guides
      .flatMap((g) => [
        ...Array.from({ length: 7 }, (_, i) => `v ${[...g.subarray(3 * i, 3 * i + 3)].join(' ')}`),
        `l ${[-7, -6, -5, -4, -3, -2, -1].join(' ')}`,
      ])
      .join('\n');
    near(readLines(bytes(obj), 'hair.obj').lines, guides);
    const table = guides.flatMap((g, k) =>
      Array.from({ length: 7 }, (_, i) => [k, ...g.subarray(3 * i, 3 * i + 3)].join(',')),
    );
    near(readLines(bytes(`strand,x,y,z\n${table.join('\n')}`), 'hair.csv').lines, guides);
    const usd = writePointsUsda(
      {
        ...{ first: 0, count: 1, fps: 24, meshes: [] },
        curves: [
          {
            ...{ name: 'Hair', counts: guides.map(() => 7), widths: [0.01, 0.001] },
            colours: [
              [1, 1, 1],
              [1, 1, 1],
            ],
            places: Float64Array.from(guides.flatMap((g) => [...g])),
          },
        ],
      },
      { name: 'hair', metresPerUnit: 1, upAxis: 'Y' },
    );
    const read = readLines(bytes(usd), 'hair.usda');
    expect(read.metresPerUnit).toBe(1);
    near(read.lines, guides);
  });

  it('are line primitives of glTF', () => {
    const one = {
      ...{ places: [...guides[0]!], triangles: [0, 1, 2] },
      lines: [0, 1, 1, 2, 2, 3, 3, 4, 4, 5, 5, 6],
    };
    const { lines } = readLines(makeFigure({ hair: one }, 1, 24, () => [0, 0, 0]).bytes, 'hair.glb');
    near(lines, [guides[0]!]);
  });

  it('that cannot be read are refused in a sentence with the place', () => {
    expect(() => readLines(bytes('v 0 0 0\nl 1 9'), 'a.obj')).toThrow(/line 2/);
    expect(() => readLines(bytes('a,b\n1,2'), 'a.csv')).toThrow(/columns strand/);
    expect(() => readLines(bytes('strand,x,y,z\n1,0,zero,0'), 'a.csv')).toThrow(/row 2/);
    expect(() => readLines(bytes('v 0 0 0'), 'a.obj')).toThrow(/has no lines/);
  });
});

describe('guides that are taken', () => {
  it('begin at the skin, whichever way their line goes', () => {
    const round = guides.map((g) =>
      Float64Array.from(g, (_, o) => g[3 * (6 - Math.floor(o / 3)) + (o % 3)]!),
    );
    const taken = takeGuides(character, SCALP, 1, round);
    near(taken.guides, guides);
    expect(taken.notes).toEqual([]);
  });

  it('are not more, and have not more points, than can move; doubled points and dots are left out, and all is said', () => {
    const many = Array.from({ length: 5000 }, () => guides[0]!);
    const some = takeGuides(character, SCALP, 1, many);
    expect(some.guides.length).toBe(2000);
    expect(some.notes.join()).toMatch(/2000 of 5000/);
    const fine = new Float64Array(30_000);
    for (let i = 0; i < 10_000; i++)
      fine.set([guides[0]![0]!, guides[0]![1]! + 1e-5 * i, guides[0]![2]!], 3 * i);
    const odd = takeGuides(character, SCALP, 1, [
      fine,
      Float64Array.of(0, 1, 0, 0, 1, 0),
      guides[1]!.map((x) => x + 1),
      Float64Array.from([...guides[2]!.slice(0, 3), ...guides[2]!]),
    ]);
    expect(odd.guides.length).toBe(3);
    expect(odd.guides[0]!.length / 3).toBe(32);
    expect(lengthOfGuide(odd.guides[0]!)).toBeCloseTo(0.1, 2);
    expect(odd.notes.join(' ')).toMatch(/1 of 4 lines.*fewer now.*1 begin off the skin/);
  });

  it('go along rows of joints, and end in a tip', () => {
    const joints = [1, 2, 3, 4].map((k) => nodeNamed(character, `crest front ${k}`).node);
    const line = lineOfJoints(character, joints, 1);
    expect(line.length / 3).toBe(5);
    const last = (i: number) => Math.hypot(...[0, 1, 2].map((a) => line[3 * i + a]! - line[3 * i - 3 + a]!));
    expect(last(4)).toBeCloseTo(last(3), 9);
  });
});
