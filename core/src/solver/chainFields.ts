import { ChainStep, ROW } from '../kernel/chain/fields';
import { PAD8 } from '../kernel/factor';
import type { ChainMatter } from './calibrate';
import { CONTACT_ROW, mostContacts } from './contactRow';

/**
 * The source motion of a chain by frames: rows of points (links + 1, 3 numbers each) and of world turns (links, 4
 * each).
 */
export interface SourceRows {
  /** m */
  readonly points: Float64Array;
  /** Signs continuous in time. */
  readonly turns: Float64Array;
}

/** The fields of a chain's step, with what is remembered from step to step and what is aimed at as one array each. */
export function makeFields(matter: ChainMatter, rows: SourceRows, make: (size: number) => Float64Array) {
  const n = matter.lengths.length;
  const n3 = 3 * n;
  const keep = (values: Float64Array) => {
    const out = make(values.length);
    out.set(values);
    return out;
  };
  const fields = new ChainStep();
  const each = (size: number, ...names: (keyof ChainStep)[]) => {
    for (const name of names) Object.assign(fields, { [name]: make(size) });
  };
  const views = (all: Float64Array, ...parts: [keyof ChainStep, number][]) => {
    let at = 0;
    for (const [name, size] of parts) Object.assign(fields, { [name]: all.subarray(at, (at += size)) });
  };
  Object.assign(fields, { rest: keep(matter.lengths), perRest: keep(matter.lengths.map((l) => 1 / l)) });
  fields.mass = keep(matter.masses);
  each(n, 'hold', 'bend', 'dampMass', 'dampStiff', 'limits', 'cone');
  each(n3, 'fall');
  each(n, 'grip');
  each(3, 'plane');
  each(CONTACT_ROW * mostContacts(n), 'contact');
  // One array, so that a step can be taken back in one go.
  each(4 * (n3 + 3) + 2 * n3 + 5 * n, 'state', 'before');
  views(
    fields.state,
    ...(['x', 'xOld', 'v', 'vOld'] as const).map((name): [keyof ChainStep, number] => [name, n3 + 3]),
    ...([
      ['past1', n3],
      ['past2', n3],
      ['turnOld', 4 * n],
      ['tension', n],
    ] as [keyof ChainStep, number][]),
  );
  const aims = make(n3 + 3 + 4 * n);
  views(aims, ['source', n3 + 3], ['sourceTurn', 4 * n]);
  const turns = make(4 * n);
  each(n3, 'y', 'target', 'u', 'd', 's', 'carried', 'f', 'rhs');
  each(n, 'length', 'aim', 'perAim', 'compliance');
  each((n3 + PAD8) * ROW, 'band');
  Object.assign(fields, {
    n,
    points: rows.points,
    turnRows: rows.turns,
    lastRow: rows.points.length / (n3 + 3) - 1,
  });
  return { fields, aims, turns };
}
