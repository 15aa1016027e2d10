import { int } from '../numbers';
import { BodyStep } from './bodyFields';
import { bendInTurn, bendToWorld, gatherCell, resistBending, scatterCell } from './cell';
import type { Floats, Index } from '../numbers';

/**
 * Adds to y what the stiffness makes of p: `elastic` of it, and `viscous` of what damps. wasm/stiffen.as does two cells
 * at a time, to the same bits.
 */
export function stiffen(step: BodyStep, p: Floats, y: Floats, elastic: number, viscous: number): void {
  const { size, mu, lambda, fill, stiff } = step;
  const volume = size * size * size;
  const per = 1 / (4 * size);
  const hour = 4 / (3 * size * size);
  const both = elastic + viscous;
  for (let cell = 0; cell < int(step.cells); cell++) {
    gatherCell(step, cell, p);
    const weight = fill[cell]! * stiff[cell]! * volume;
    stretchCell(step, cell, mu * both, lambda * elastic, lambda * viscous, weight * per * per);
    bendInTurn(step, cell, 1);
    resistBending(step);
    bendToWorld(step, cell, (weight * hour * both) / 64);
    scatterCell(step, cell, y);
  }
}

/** Turns the gradient in the modes of a cell into the stress it makes, `by` of it: shear, volume, and what damps. */
function stretchCell(
  step: BodyStep,
  cell: Index,
  shear: number,
  volume: number,
  viscous: number,
  by: number,
): void {
  const { modes, turn, cofactor, bulk } = step;
  const o = 9 * cell;
  const r0 = turn[o]!,
    r1 = turn[o + 1]!,
    r2 = turn[o + 2]!,
    r3 = turn[o + 3]!,
    r4 = turn[o + 4]!,
    r5 = turn[o + 5]!,
    r6 = turn[o + 6]!,
    r7 = turn[o + 7]!,
    r8 = turn[o + 8]!;
  // Column k of the gradient is mode k + 1.
  const x0 = modes[3]!,
    y0 = modes[4]!,
    z0 = modes[5]!,
    x1 = modes[6]!,
    y1 = modes[7]!,
    z1 = modes[8]!,
    x2 = modes[9]!,
    y2 = modes[10]!,
    z2 = modes[11]!;
  // In the cell's own turn, where it is symmetric.
  const a = 2 * shear * (r0 * x0 + r3 * y0 + r6 * z0),
    b = 2 * shear * (r1 * x1 + r4 * y1 + r7 * z1),
    c = 2 * shear * (r2 * x2 + r5 * y2 + r8 * z2),
    d = shear * (r0 * x1 + r3 * y1 + r6 * z1 + (r1 * x0 + r4 * y0 + r7 * z0)),
    e = shear * (r0 * x2 + r3 * y2 + r6 * z2 + (r2 * x0 + r5 * y0 + r8 * z0)),
    f = shear * (r1 * x2 + r4 * y2 + r7 * z2 + (r2 * x1 + r5 * y1 + r8 * z1));
  const flow =
    viscous * (r0 * x0 + r3 * y0 + r6 * z0 + (r1 * x1 + r4 * y1 + r7 * z1) + (r2 * x2 + r5 * y2 + r8 * z2));
  const c0 = cofactor[o]!,
    c1 = cofactor[o + 1]!,
    c2 = cofactor[o + 2]!,
    c3 = cofactor[o + 3]!,
    c4 = cofactor[o + 4]!,
    c5 = cofactor[o + 5]!,
    c6 = cofactor[o + 6]!,
    c7 = cofactor[o + 7]!,
    c8 = cofactor[o + 8]!;
  const wide =
    volume *
    bulk[cell]! *
    (c0 * x0 + c3 * y0 + c6 * z0 + (c1 * x1 + c4 * y1 + c7 * z1) + (c2 * x2 + c5 * y2 + c8 * z2));
  modes[3] = by * (r0 * a + r1 * d + r2 * e + wide * c0 + flow * r0);
  modes[4] = by * (r3 * a + r4 * d + r5 * e + wide * c3 + flow * r3);
  modes[5] = by * (r6 * a + r7 * d + r8 * e + wide * c6 + flow * r6);
  modes[6] = by * (r0 * d + r1 * b + r2 * f + wide * c1 + flow * r1);
  modes[7] = by * (r3 * d + r4 * b + r5 * f + wide * c4 + flow * r4);
  modes[8] = by * (r6 * d + r7 * b + r8 * f + wide * c7 + flow * r7);
  modes[9] = by * (r0 * e + r1 * f + r2 * c + wide * c2 + flow * r2);
  modes[10] = by * (r3 * e + r4 * f + r5 * c + wide * c5 + flow * r5);
  modes[11] = by * (r6 * e + r7 * f + r8 * c + wide * c8 + flow * r8);
}
