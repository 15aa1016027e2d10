import { makeStrands } from '../../solver/strands/index';
import type { AskedFeel, Feel, FittedFeel } from '../diagnosis';
import { fitTo } from '../fitting';
import { watchTurn } from '../quickTurn';
import type { StrandsPart } from './document';
import { factorsAlong, valuesOf, type StrandValues } from './values';

/** Steps a second of the measurement, and how long it watches at most, s. */
const WATCH = { rate: 360, longest: 20, quiet: 1.5 } as const;
const LINKS = 12;
const MOST = 30;
/** How far its root goes, as a share of its length. */
const STEP = 0.2;

/** How the tip of a straight strand of some length (m) answers when its root is moved quickly to the side. */
export function strandFeel(
  part: Pick<StrandsPart, 'profiles'>,
  value: StrandValues,
  length: number,
  fps: number,
  frame: number,
): Feel {
  const shape = {
    lengths: new Float64Array(LINKS).fill(length / LINKS),
    directions: Float64Array.from({ length: 3 * LINKS }, (_, k) => (k % 3 === 1 ? -1 : 0)),
  };
  const strand = makeStrands([shape], 1 / WATCH.rate, null);
  const gravity = [0, -9.81 * value('gravity', frame), 0] as const;
  strand.tune(0, {
    ...{ hold: value('hold', frame), bend: value('bend', frame), damping: value('damping', frame) },
    ...{ weight: value('weight', frame) / 1000, gravity, keeps: 1 },
    ...factorsAlong(part, value('root', frame), shape.lengths),
  });
  const root = Float64Array.of(0, 0, 0, 0, 0, 0, 1);
  strand.begin(root, root);
  const to = root.slice();
  const next = (turned: number) => {
    to[0] = STEP * length * turned;
    strand.predict(to, gravity, 1, 1);
    strand.solve(0);
    return turned + strand.x[3 * (LINKS - 1)]! / (STEP * length);
  };
  return watchTurn(next, WATCH, fps);
}

/** A hold, a bend and a damping that give an asked feel. */
export function fitStrands(
  part: StrandsPart,
  length: number,
  fps: number,
  frame: number,
  asked: AskedFeel,
): FittedFeel {
  const value = valuesOf(part);
  const [hold, bend] = [Math.max(0.05, value('hold', frame)), value('bend', frame)];
  const set = (scale: number, damping: number) => ({ hold: hold * scale, bend: bend * scale, damping });
  const most = Math.min(MOST / hold, bend > 0 ? (2 * MOST) / bend : Infinity);
  return fitTo(asked, Math.max(0.01, value('damping', frame)), most, set, (s) =>
    strandFeel(part, (key, f) => (key in s ? s[key as keyof typeof s] : value(key, f)), length, fps, frame),
  );
}
