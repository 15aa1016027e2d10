import { int } from '../numbers';
import { SheetBody } from './fields';
import { nearer } from './walk';
import type { Floats, Index } from '../numbers';

/** Fits the boxes of a mesh's tree to its triangles, as their vertices go from the first to the last place. */
export function fitBoxes(body: SheetBody): void {
  const nodes = int(body.nodes);
  const { counts, firsts, box } = body;
  // Children stand after their parents, so from the last to the first.
  for (let n = nodes - 1; n >= 0; n--) {
    if (counts[n]! > 0) fitLeaf(body, n);
    else {
      const o = 6 * n,
        p = 6 * (n + 1),
        q = 6 * firsts[n]!;
      for (let a = 0; a < 3; a++) {
        box[o + a] = less(box[p + a]!, box[q + a]!);
        box[o + 3 + a] = more(box[p + 3 + a]!, box[q + 3 + a]!);
      }
    }
  }
}

function fitLeaf(body: SheetBody, n: Index): void {
  const { counts, firsts, box, order, corners, first, last } = body;
  const end = firsts[n]! + counts[n]!;
  let lx: number = Infinity,
    ly: number = Infinity,
    lz: number = Infinity,
    hx: number = -Infinity,
    hy: number = -Infinity,
    hz: number = -Infinity;
  for (let k = firsts[n]!; k < end; k++) {
    const t = 3 * order[k]!;
    for (let e = t; e < t + 3; e++) {
      const i = 3 * corners[e]!;
      const px = first[i]!,
        py = first[i + 1]!,
        pz = first[i + 2]!,
        qx = last[i]!,
        qy = last[i + 1]!,
        qz = last[i + 2]!;
      lx = less(lx, less(px, qx));
      ly = less(ly, less(py, qy));
      lz = less(lz, less(pz, qz));
      hx = more(hx, more(px, qx));
      hy = more(hy, more(py, qy));
      hz = more(hz, more(pz, qz));
    }
  }
  const o = 6 * n;
  box[o] = lx;
  box[o + 1] = ly;
  box[o + 2] = lz;
  box[o + 3] = hx;
  box[o + 4] = hy;
  box[o + 5] = hz;
}

function less(a: number, b: number): number {
  return b < a ? b : a;
}

function more(a: number, b: number): number {
  return b > a ? b : a;
}

/** How far something is beyond the one end or the other, 0 between them. */
function outside(below: number, above: number): number {
  if (below > 0) return below;
  return above > 0 ? above : 0;
}

/** Squared distance of a place to the box of node n, m². */
function toBox(box: Floats, n: Index, x: number, y: number, z: number): number {
  const o = 6 * n;
  const dx = outside(box[o]! - x, x - box[o + 3]!),
    dy = outside(box[o + 1]! - y, y - box[o + 4]!),
    dz = outside(box[o + 2]! - z, z - box[o + 5]!);
  return dx * dx + dy * dy + dz * dz;
}

/**
 * The triangle nearest to point o and within so many m, or the known one when none is nearer; −1 for none. The place of
 * the known one is that found last.
 */
export function lookRound(body: SheetBody, o: Index, within: number, known: Index): Index {
  const { stack, away, order, firsts, counts, box, end, x, drift } = body;
  const px = x[o]!,
    py = x[o + 1]!,
    pz = x[o + 2]!;
  let best = known;
  if (known < 0) body.squared = within * within;
  let far = Math.sqrt(body.squared) + drift;
  let bound = far * far;
  let top: Index = 0;
  if (body.nodes > 0) {
    stack[0] = 0;
    away[0] = toBox(box, 0, px, py, pz);
    top = 1;
  }
  while (top > 0) {
    top--;
    const n = stack[top]!;
    if (away[top]! >= bound) continue;
    if (counts[n]! > 0) {
      const last = firsts[n]! + counts[n]!;
      for (let k = firsts[n]!; k < last; k++) if (nearer(body, end, px, py, pz, order[k]!)) best = order[k]!;
      far = Math.sqrt(body.squared) + drift;
      bound = far * far;
      continue;
    }
    // The nearer child last, so that it is looked at first.
    const p = n + 1,
      q = firsts[n]!;
    const toP = toBox(box, p, px, py, pz),
      toQ = toBox(box, q, px, py, pz);
    const near = toP <= toQ;
    stack[top] = near ? q : p;
    away[top] = near ? toQ : toP;
    stack[top + 1] = near ? p : q;
    away[top + 1] = near ? toP : toQ;
    if (away[top]! < bound) top++;
    else {
      stack[top] = stack[top + 1]!;
      away[top] = away[top + 1]!;
    }
    if (away[top]! < bound) top++;
  }
  return best;
}
