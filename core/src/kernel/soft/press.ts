import { int } from '../numbers';
import { BodyStep } from './bodyFields';
import type { Floats, Index } from '../numbers';

/** Least share of its stiffness that a touch has where it begins, and what friction has of it. */
const LEAST: number = 0.02;
const ALONG: number = 0.5;
/** Sweeps in which the first guess is pushed out. */
const SWEEPS: number = 3;

/** What the nodes of a row come to in a field of nodes: 3 numbers into `place`. */
function gatherRow(step: BodyStep, row: Index, field: Floats): void {
  const { rowNode, rowShare, place } = step;
  let x: number = 0,
    y: number = 0,
    z: number = 0;
  for (let k = 8 * row; k < 8 * row + 8; k++) {
    const o = 3 * rowNode[k]!;
    const w = rowShare[k]!;
    x += w * field[o]!;
    y += w * field[o + 1]!;
    z += w * field[o + 2]!;
  }
  place[0] = x;
  place[1] = y;
  place[2] = z;
}

/** Adds `place` to the nodes of a row. */
function scatterRow(step: BodyStep, row: Index, field: Floats): void {
  const { rowNode, rowShare, place } = step;
  for (let k = 8 * row; k < 8 * row + 8; k++) {
    const o = 3 * rowNode[k]!;
    const w = rowShare[k]!;
    for (let a = 0; a < 3; a++) field[o + a] = field[o + a]! + w * place[a]!;
  }
}

/** How far the place that was gathered is from the plane of its row, m. */
function gapOf(step: BodyStep, row: Index): number {
  const { plane, place } = step;
  const o = 4 * row;
  return plane[o]! * place[0]! + plane[o + 1]! * place[1]! + plane[o + 2]! * place[2]! - plane[o + 3]!;
}

/** Pushes the first guess out of what it would be inside of. */
export function pushGuess(step: BodyStep): void {
  const { x, free, plane, rowNode, rowShare, layer } = step;
  for (let sweep: number = 0; sweep < SWEEPS; sweep++)
    for (let row = 0; row < int(step.touches); row++) {
      gatherRow(step, row, x);
      const inside = gapOf(step, row) + layer;
      if (!(inside < 0)) continue;
      let give: number = 0;
      for (let k = 8 * row; k < 8 * row + 8; k++) give += free[rowNode[k]!]! * rowShare[k]! * rowShare[k]!;
      if (!(give > 1e-9)) continue;
      for (let k = 8 * row; k < 8 * row + 8; k++) {
        const by = (-inside * free[rowNode[k]!]! * rowShare[k]!) / give;
        const o = 3 * rowNode[k]!;
        for (let a = 0; a < 3; a++) x[o + a] = x[o + a]! + by * plane[4 * row + a]!;
      }
    }
}

/** Energy of all touches at x, J: stiffness × depth³ / 6 layer. */
export function pressed(step: BodyStep): number {
  const { x, stiffness, layer } = step;
  let sum: number = 0;
  for (let row = 0; row < int(step.touches); row++) {
    gatherRow(step, row, x);
    const d = gapOf(step, row);
    if (d < 0) sum -= (stiffness[row]! * d * d * d) / (6 * layer);
  }
  return sum;
}

/**
 * Adds the forces of all touches at x to f, with the friction of an anchor that is dragged along where it slides; says
 * of each its load (N, 0 where it does not touch), stiffness and whether it sticks, and of each node how it is pressed.
 */
export function pressAll(step: BodyStep): void {
  const { x, f, plane, place, stiffness, rub, anchor, held, loads, hard, sticks } = step;
  const { layer, rowNode, rowShare, pressing, pushes } = step;
  for (let i = 0; i < int(step.nodes); i++) pressing[i] = 0;
  for (let row = 0; row < int(step.touches); row++) {
    gatherRow(step, row, x);
    const d = gapOf(step, row);
    loads[row] = 0;
    if (!(d < 0)) {
      held[row] = 0;
      continue;
    }
    const n = 4 * row,
      o = 3 * row;
    if (held[row] === 0) for (let a = 0; a < 3; a++) anchor[o + a] = place[a]!;
    held[row] = 1;
    const force = (stiffness[row]! * d * d) / (2 * layer);
    loads[row] = force;
    hard[row] = stiffness[row]! * Math.max(-d / layer, LEAST);
    const tx = place[0]! - anchor[o]!,
      ty = place[1]! - anchor[o + 1]!,
      tz = place[2]! - anchor[o + 2]!;
    const out = tx * plane[n]! + ty * plane[n + 1]! + tz * plane[n + 2]!;
    const sx = tx - out * plane[n]!,
      sy = ty - out * plane[n + 1]!,
      sz = tz - out * plane[n + 2]!;
    const along = hard[row]! * ALONG;
    const drag = along * Math.sqrt(sx * sx + sy * sy + sz * sz);
    const most = rub[row]! * force;
    const share: number = drag > most ? most / drag : 1;
    sticks[row] = drag > most ? 0 : 1;
    anchor[o] = anchor[o]! + (1 - share) * sx;
    anchor[o + 1] = anchor[o + 1]! + (1 - share) * sy;
    anchor[o + 2] = anchor[o + 2]! + (1 - share) * sz;
    place[0] = force * plane[n]! - along * share * sx;
    place[1] = force * plane[n + 1]! - along * share * sy;
    place[2] = force * plane[n + 2]! - along * share * sz;
    for (let a = 0; a < 3; a++) pushes[o + a] = place[a]!;
    scatterRow(step, row, f);
    for (let k = 8 * row; k < 8 * row + 8; k++)
      pressing[rowNode[k]!] = pressing[rowNode[k]!]! + hard[row]! * rowShare[k]!;
  }
}

/** Adds to y what the stiffness of the touches makes of p. */
export function stiffenTouches(step: BodyStep, p: Floats, y: Floats): void {
  const { plane, place, loads, hard, sticks } = step;
  for (let row = 0; row < int(step.touches); row++) {
    if (!(loads[row]! > 0)) continue;
    gatherRow(step, row, p);
    const n = 4 * row;
    const nx = plane[n]!,
      ny = plane[n + 1]!,
      nz = plane[n + 2]!;
    const along = sticks[row]! * hard[row]! * ALONG;
    const out = (hard[row]! - along) * (place[0]! * nx + place[1]! * ny + place[2]! * nz);
    place[0] = along * place[0]! + out * nx;
    place[1] = along * place[1]! + out * ny;
    place[2] = along * place[2]! + out * nz;
    scatterRow(step, row, y);
  }
}
