import { int } from '../numbers';
import { BodyStep } from './bodyFields';
import { bendInTurn, bendToWorld, gatherCell, resistBending, scatterCell } from './cell';
import type { Index } from '../numbers';

/** Rounds in which the turn of a cell follows its gradient, from where it was. */
const TURNING: number = 2;
/** A cell whose volume is below this share, or that is stretched beyond this (squared), is held by its trace. */
const CRUSHED: number = 0.1;
const STRETCHED: number = 12;

/** Writes the turn of a cell as 9 numbers, of its 4. */
function writeTurn(step: BodyStep, cell: Index): void {
  const { quat, turn } = step;
  const w = quat[4 * cell]!,
    x = quat[4 * cell + 1]!,
    y = quat[4 * cell + 2]!,
    z = quat[4 * cell + 3]!;
  const o = 9 * cell;
  turn[o] = 1 - 2 * (y * y + z * z);
  turn[o + 1] = 2 * (x * y - w * z);
  turn[o + 2] = 2 * (x * z + w * y);
  turn[o + 3] = 2 * (x * y + w * z);
  turn[o + 4] = 1 - 2 * (x * x + z * z);
  turn[o + 5] = 2 * (y * z - w * x);
  turn[o + 6] = 2 * (x * z - w * y);
  turn[o + 7] = 2 * (y * z + w * x);
  turn[o + 8] = 1 - 2 * (x * x + y * y);
}

/** Turns a cell toward its gradient (Müller et al. 2016, A robust method to extract the rotational part). */
function follow(step: BodyStep, cell: Index): void {
  const { gradient, quat, turn } = step;
  const R = 9 * cell;
  let ox: number = 0,
    oy: number = 0,
    oz: number = 0,
    along: number = 0;
  for (let c = 0; c < 3; c++) {
    const rx = turn[R + c]!,
      ry = turn[R + 3 + c]!,
      rz = turn[R + 6 + c]!,
      fx = gradient[c]!,
      fy = gradient[3 + c]!,
      fz = gradient[6 + c]!;
    ox += ry * fz - rz * fy;
    oy += rz * fx - rx * fz;
    oz += rx * fy - ry * fx;
    along += rx * fx + ry * fy + rz * fz;
  }
  const k = 0.75 / (Math.abs(along) + 1e-3);
  const n = 1 / Math.sqrt(1 + k * k * (ox * ox + oy * oy + oz * oz));
  const a = k * ox * n,
    b = k * oy * n,
    c = k * oz * n;
  const o = 4 * cell;
  const w = quat[o]!,
    x = quat[o + 1]!,
    y = quat[o + 2]!,
    z = quat[o + 3]!;
  const qw = n * w - a * x - b * y - c * z,
    qx = n * x + a * w + b * z - c * y,
    qy = n * y + b * w + c * x - a * z,
    qz = n * z + c * w + a * y - b * x;
  const s = 1 / Math.sqrt(qw * qw + qx * qx + qy * qy + qz * qz);
  quat[o] = s * qw;
  quat[o + 1] = s * qx;
  quat[o + 2] = s * qy;
  quat[o + 3] = s * qz;
  writeTurn(step, cell);
}

/** The gradient of a cell from its modes, row after row. */
function gradientOf(step: BodyStep, per: number): void {
  const { modes, gradient } = step;
  for (let r = 0; r < 3; r++) {
    gradient[3 * r] = modes[3 + r]! * per;
    gradient[3 * r + 1] = modes[6 + r]! * per;
    gradient[3 * r + 2] = modes[9 + r]! * per;
  }
}

/** The cofactor of a cell's gradient, and its determinant. */
function measure(step: BodyStep, cell: Index): void {
  const { gradient, cofactor, ratio } = step;
  const o = 9 * cell;
  const a = gradient[0]!,
    b = gradient[1]!,
    c = gradient[2]!,
    d = gradient[3]!,
    e = gradient[4]!,
    f = gradient[5]!,
    g = gradient[6]!,
    h = gradient[7]!,
    i = gradient[8]!;
  const first = e * i - f * h,
    second = f * g - d * i,
    third = d * h - e * g;
  cofactor[o] = first;
  cofactor[o + 1] = second;
  cofactor[o + 2] = third;
  cofactor[o + 3] = h * c - i * b;
  cofactor[o + 4] = i * a - g * c;
  cofactor[o + 5] = g * b - h * a;
  cofactor[o + 6] = b * f - c * e;
  cofactor[o + 7] = c * d - a * f;
  cofactor[o + 8] = a * e - b * d;
  ratio[cell] = a * first + b * second + c * third;
}

/** How much the volume of a cell is off, and by what it resists: its determinant, or its trace where crushed. */
function resistVolume(step: BodyStep, cell: Index): number {
  const { gradient, turn, cofactor, ratio, bulk, grow } = step;
  const o = 9 * cell;
  const g = grow[cell]!;
  const per = 1 / (g * g * g);
  let square: number = 0;
  for (let k = 0; k < 9; k++) square += gradient[k]! * gradient[k]!;
  if (ratio[cell]! * per >= CRUSHED && square <= STRETCHED * g * g) {
    bulk[cell] = per * per * g;
    return ratio[cell]! * per - 1;
  }
  let trace: number = 0;
  for (let k = 0; k < 9; k++) trace += gradient[k]! * turn[o + k]!;
  bulk[cell] = 1 / g;
  for (let k = 0; k < 9; k++) cofactor[o + k] = turn[o + k]!;
  return trace / g - 3;
}

/**
 * Elastic energy of all cells at x, J; their forces are added to f, and the state of the cells is what the stiffness is
 * taken at.
 */
export function pullBody(step: BodyStep): number {
  const { size, mu, lambda, beta, x, f, fill, stiff, grow, growing } = step;
  const { modes, gradient, turn, cofactor, bent, stress } = step;
  const volume = size * size * size;
  const per = 1 / (4 * size);
  const hour = 4 / (3 * size * size);
  let energy: number = 0;
  for (let cell = 0; cell < int(step.cells); cell++) {
    gatherCell(step, cell, x);
    gradientOf(step, per);
    for (let k: number = 0; k < TURNING; k++) follow(step, cell);
    measure(step, cell);
    const off = resistVolume(step, cell);
    const o = 9 * cell;
    const g = grow[cell]!;
    const weight = fill[cell]! * stiff[cell]! * volume;
    bendInTurn(step, cell, 0.125);
    resistBending(step);
    let bends: number = 0;
    for (let k = 0; k < 12; k++) bends += bent[k]! * stress[k]!;
    const pressure = (lambda * off) / (g * g);
    const swelling = beta * (2 * mu + 3 * lambda) * growing[cell]!;
    const by = -weight * per;
    let square: number = 0;
    for (let r = 0; r < 3; r++)
      for (let c = 0; c < 3; c++) {
        const k = 3 * r + c;
        const turned = turn[o + k]!;
        const strain = gradient[k]! - g * turned;
        square += strain * strain;
        modes[3 + 3 * c + r] = by * (2 * mu * strain + pressure * cofactor[o + k]! - swelling * turned);
      }
    energy += (mu * square + 0.5 * lambda * off * off * g + 0.5 * hour * bends) * weight;
    bendToWorld(step, cell, -weight * hour * 0.125);
    scatterCell(step, cell, f);
  }
  return energy;
}
