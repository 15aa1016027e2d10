import { makeArena } from '../src/solver/index';
import {
  makeStrands,
  strandNumbers,
  type StrandFeel,
  type Strands,
  type StrandShape,
} from '../src/solver/strands/index';

export const G = 9.81;
export const FEEL: StrandFeel = {
  ...{ hold: 0, bend: 0, damping: 0, weight: 5e-3, gravity: [0, 0, 0], keeps: 1 },
};

/** Straight down; or a curl about that, of so many turns, opened by an angle (rad). */
export function shape(n: number, long: number, turns = 0, open = 0): StrandShape {
  const directions = Float64Array.from({ length: 3 * n }, (_, k) => {
    const a = (2 * Math.PI * turns * (Math.floor(k / 3) + 0.5)) / n;
    return [Math.sin(open) * Math.cos(a), -Math.cos(open), Math.sin(open) * Math.sin(a)][k % 3]!;
  });
  return { lengths: new Float64Array(n).fill(long / n), directions };
}

export const rootAt = (x: number, y = 0, z = 0, turn = 0) =>
  Float64Array.of(x, y, z, 0, Math.sin(turn / 2), 0, Math.cos(turn / 2));

export function one(s: StrandShape, feel: Partial<StrandFeel>, h: number, arena = false): Strands {
  const links = s.lengths.length;
  const strand = makeStrands([s], h, arena ? makeArena(strandNumbers(1, links)) : null);
  strand.tune(0, { ...FEEL, ...feel });
  strand.begin(rootAt(0), rootAt(0));
  return strand;
}
