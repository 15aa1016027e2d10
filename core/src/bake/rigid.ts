import { norm, quatFromAxis, quatRotate } from '../math/index';

/**
 * The rigid move that takes vertices, each with its share, nearest to what is left of them: a turn about the means
 * found from the turn there is.
 */
export function fitRigid(
  move: Float64Array,
  rest: Float64Array,
  left: Float64Array,
  vertices: readonly number[],
  shares: readonly number[],
): void {
  let sum = 0;
  const [p, q] = [new Float64Array(3), new Float64Array(3)];
  vertices.forEach((v, i) => {
    const w = shares[i]!;
    sum += w * w;
    for (let a = 0; a < 3; a++) {
      p[a]! += w * w * rest[3 * v + a]!;
      q[a]! += w * left[3 * v + a]!;
    }
  });
  if (!(sum > 0)) return;
  for (let a = 0; a < 3; a++) {
    p[a]! /= sum;
    q[a]! /= sum;
  }
  const m = new Float64Array(9);
  vertices.forEach((v, i) => {
    const w = shares[i]!;
    for (let a = 0; a < 3; a++) {
      const from = rest[3 * v + a]! - p[a]!;
      for (let c = 0; c < 3; c++) m[3 * c + a]! += w * (left[3 * v + c]! - w * q[c]!) * from;
    }
  });
  turnTowards(move, m);
  for (let r = 0; r < 3; r++)
    move[4 * r + 3] = q[r]! - move[4 * r]! * p[0]! - move[4 * r + 1]! * p[1]! - move[4 * r + 2]! * p[2]!;
}

/** Turns at most so often, and until a turn is smaller (rad). */
const TURNS = 30;
const TINY = 1e-9;
const axis = new Float64Array(3);
const turn = new Float64Array(4);
const column = new Float64Array(3);

/**
 * The turn nearest to a matrix (9 numbers, row after row), from the one in `move` on (3 × 4): Müller and others, A
 * robust method to extract the rotational part of deformations, 2016. What the matrix leaves open stays as it is.
 */
function turnTowards(move: Float64Array, m: Float64Array): void {
  for (let k = 0; k < TURNS; k++) {
    axis.fill(0);
    let along = 0;
    for (let c = 0; c < 3; c++) {
      const [rx, ry, rz] = [move[c]!, move[4 + c]!, move[8 + c]!];
      const [ax, ay, az] = [m[c]!, m[3 + c]!, m[6 + c]!];
      axis[0]! += ry * az - rz * ay;
      axis[1]! += rz * ax - rx * az;
      axis[2]! += rx * ay - ry * ax;
      along += rx * ax + ry * ay + rz * az;
    }
    const size = norm(axis);
    const angle = size / (Math.abs(along) + 1e-30);
    if (!(angle > TINY)) return;
    quatFromAxis(turn, 0, axis[0]! / size, axis[1]! / size, axis[2]! / size, angle);
    for (let c = 0; c < 3; c++) {
      for (let a = 0; a < 3; a++) column[a] = move[4 * a + c]!;
      quatRotate(column, 0, turn, 0, column, 0);
      for (let a = 0; a < 3; a++) move[4 * a + c] = column[a]!;
    }
  }
}
