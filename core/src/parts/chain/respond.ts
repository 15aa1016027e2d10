import { atan2, quatConjugate, quatFromAxis, quatMultiply, quatRotate } from '../../math/index';
import type { ChainSolver } from '../../solver/index';
import type { ChainTuning } from './tuning';

/** Shares of its root's travel and of its body's turning that each point of a chain feels; the root is point 0. */
export interface Felt {
  travel(point: number): number;
  turn(point: number): number;
  /** Whether points differ. */
  readonly varies: boolean;
}

/** What the points of a chain feel at a frame; null when they feel all. */
export function feltOf(tuning: ChainTuning, frame: number): Felt | null {
  const varies = tuning.varies('travel') || tuning.varies('turn');
  const travel = tuning.value('travel', frame) / 100;
  const turn = tuning.value('turn', frame) / 100;
  if (!varies) return travel === 1 && turn === 1 ? null : { travel: () => travel, turn: () => turn, varies };
  const [travels, turns] = [tuning.links('travel', frame), tuning.links('turn', frame)];
  const of = (list: Float64Array) => (point: number) => list[Math.max(0, point - 1)]! / 100;
  return { travel: of(travels), turn: of(turns), varies };
}

const step = new Float64Array(4);
const part = new Float64Array(4);
const moved = new Float64Array(3);

/**
 * Travel and turn response: what the chain does not feel of its root's travel and of its body's turning it is simply
 * carried along by. Moves the chain's whole state by (1 − travel) of the root's way and (1 − turn) of the body's turn
 * about the root, before the step; the step itself then knows nothing of them.
 */
export function ride(solver: ChainSolver, bodyBefore: Float64Array, bodyNow: Float64Array, felt: Felt): void {
  const { x, xOld, v, vOld, source, links } = solver;
  quatConjugate(part, 0, bodyBefore, 0);
  quatMultiply(step, 0, bodyNow, 0, part, 0);
  if (step[3]! < 0) for (let k = 0; k < 4; k++) step[k] = -step[k]!;
  // The share of the turn, by its axis and angle; small for one step, so sin(a/2) ≈ a/2 would do, but a teleport is
  // not.
  const half = Math.sqrt(step[0]! * step[0]! + step[1]! * step[1]! + step[2]! * step[2]!);
  const whole = 2 * atan2(half, step[3]!);
  const [rx, ry, rz] = [x[0]!, x[1]!, x[2]!];
  let share = 0;
  for (let p = 3; p < 3 * links + 3; p += 3) {
    if (p === 3 || felt.varies) {
      const angle = whole * (1 - felt.turn(p / 3));
      if (half > 1e-12) quatFromAxis(part, 0, step[0]! / half, step[1]! / half, step[2]! / half, angle);
      else part.set([0, 0, 0, 1]);
      share = 1 - felt.travel(p / 3);
    }
    const wx = share * (source[0]! - rx),
      wy = share * (source[1]! - ry),
      wz = share * (source[2]! - rz);
    for (const list of [x, xOld]) {
      moved[0] = list[p]! - rx;
      moved[1] = list[p + 1]! - ry;
      moved[2] = list[p + 2]! - rz;
      quatRotate(moved, 0, part, 0, moved, 0);
      list[p] = moved[0] + rx + wx;
      list[p + 1] = moved[1] + ry + wy;
      list[p + 2] = moved[2] + rz + wz;
    }
    quatRotate(v, p, part, 0, v, p);
    quatRotate(vOld, p, part, 0, vOld, p);
  }
}
