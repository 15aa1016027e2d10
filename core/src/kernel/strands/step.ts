import { int } from '../numbers';
import { StrandStep } from './fields';
import { sweepStrand } from './sweep';
import { dot3, inboard, toUnit, turnIn, turnOut } from './vectors';
import type { Index } from '../numbers';

/** A link that the solve turns by more than this (rad) is solved again from there, so often at most. */
const TURNS: number = 0.1;
const MOST_TURNS: Index = 3;
/** A point that comes this much (m) nearer than it may without a contact gets one. */
const MISSED: number = -1e-5;

/** Where each point goes by itself, and where it is expected in the world: contacts are looked for there. */
export function predictStrands(step: StrandStep): void {
  const { first, ta, ia, place, turn, off, span, c, x, q, push, at, base, y, seen } = step;
  for (let k = 0; k < int(step.strands); k++) {
    const m = 9 * k,
      r = 3 * k;
    let cx: number = 0,
      cy: number = 0,
      cz: number = 0;
    for (let i = first[k]!; i < first[k + 1]!; i++) {
      const o = 3 * i;
      const px = x[o]! + q[o]! + off[r]! + push[o]!,
        py = x[o + 1]! + q[o + 1]! + off[r + 1]! + push[o + 1]!,
        pz = x[o + 2]! + q[o + 2]! + off[r + 2]! + push[o + 2]!;
      turnIn(at, o, turn, m, px, py, pz);
      const l = span[i]!;
      cx += l * c[o]!;
      cy += l * c[o + 1]!;
      cz += l * c[o + 2]!;
      at[o] = (at[o]! + ta[k]! * cx) * ia[k]!;
      at[o + 1] = (at[o + 1]! + ta[k]! * cy) * ia[k]!;
      at[o + 2] = (at[o + 2]! + ta[k]! * cz) * ia[k]!;
      const root = i === first[k]!;
      for (let a = 0; a < 3; a++) base[o + a] = at[o + a]! - inboard(at, o + a, root);
      toUnit(base, o);
      for (let a = 0; a < 3; a++) y[o + a] = inboard(y, o + a, root) + l * base[o + a]!;
      turnOut(seen, o, turn, m, y, o);
      for (let a = 0; a < 3; a++) seen[o + a] = seen[o + a]! + place[r + a]!;
    }
  }
}

/** Solves each strand and takes the step: linearised BDF2, one sweep from tip to root and one back. */
export function solveStrands(step: StrandStep): void {
  const { first, near } = step;
  for (let k = 0; k < int(step.strands); k++) {
    const lo = first[k]!,
      hi = first[k + 1]!;
    const touching = near[k]! > 0;
    if (touching) beginContacts(step, lo, hi);
    let tries: Index = 0,
      turns: Index = 0;
    for (;;) {
      sweepStrand(step, lo, hi, touching);
      const turned = lay(step, lo, hi);
      if (touching) {
        const wrong = settle(step, lo, hi);
        if (wrong && tries < 1) {
          tries++;
          continue;
        }
      }
      turns++;
      if (turns > MOST_TURNS || turned <= TURNS * TURNS) break;
      tries = 0;
      goOn(step, lo, hi);
    }
    finishStrand(step, k, lo, hi);
  }
}

/** Says which contacts hold, from the last step, and how firmly they rub. */
function beginContacts(step: StrandStep, lo: Index, hi: Index): void {
  const { gap, shift, load, slip, hard, give, firm, kt, on, friction } = step;
  for (let i = lo; i < hi; i++) {
    on[i] = gap[i]! < Infinity && (load[i]! > 0 || gap[i]! + shift[i]! < 0) ? 1 : 0;
    firm[i] = hard[i]! / (1 + hard[i]! * give[i]!);
    kt[i] = Math.min(0.1 * firm[i]!, (friction * load[i]!) / (slip[i]! + 1e-9));
  }
}

/** From root to tip: turns the links by what was found and lays them. Returns the square of the largest turn. */
function lay(step: StrandStep, lo: Index, hi: Index): number {
  const { span, base, n0, n1, u, v1, four, two, dn, yn, cn, gap, pressed, firm, on, shift } = step;
  let largest: number = 0,
    a: number = 0,
    b: number = 0,
    dx: number = 0,
    dy: number = 0,
    dz: number = 0;
  for (let i = lo; i < hi; i++) {
    const o = 3 * i,
      f = 4 * i,
      l = span[i]!;
    const p: number = -(
      two[2 * i]! +
      n0[o]! * dx +
      n0[o + 1]! * dy +
      n0[o + 2]! * dz +
      four[f]! * a +
      four[f + 1]! * b
    );
    const r: number = -(
      two[2 * i + 1]! +
      n1[o]! * dx +
      n1[o + 1]! * dy +
      n1[o + 2]! * dz +
      four[f + 2]! * a +
      four[f + 3]! * b
    );
    a = p;
    b = r;
    largest = Math.max(largest, a * a + b * b);
    const mx = a * u[o]! + b * v1[o]!,
      my = a * u[o + 1]! + b * v1[o + 1]!,
      mz = a * u[o + 2]! + b * v1[o + 2]!;
    dx += l * mx;
    dy += l * my;
    dz += l * mz;
    dn[o] = base[o]! + mx;
    dn[o + 1] = base[o + 1]! + my;
    dn[o + 2] = base[o + 2]! + mz;
    toUnit(dn, o);
    for (let e = o; e < o + 3; e++) yn[e] = inboard(yn, e, i === lo) + l * dn[e]!;
    if (!(gap[i]! < Infinity)) continue;
    const moved = gap[i]! + cn[o]! * dx + cn[o + 1]! * dy + cn[o + 2]! * dz;
    pressed[i] = on[i]! > 0 ? -firm[i]! * moved : 0;
    shift[i] = moved - gap[i]!;
    keepOut(step, i, lo);
  }
  return largest;
}

/** A point that is laid inside, beyond what its surface gives way, is pushed out, and its link points there. */
function keepOut(step: StrandStep, i: Index, lo: Index): void {
  const { span, y, dn, yn, cn, gap, give, pressed } = step;
  const o = 3 * i;
  let g: number = gap[i]! + give[i]! * Math.max(0, pressed[i]!);
  for (let a = 0; a < 3; a++) g += cn[o + a]! * (yn[o + a]! - y[o + a]!);
  if (!(g < 0)) return;
  for (let a = 0; a < 3; a++) dn[o + a] = yn[o + a]! - g * cn[o + a]! - inboard(yn, o + a, i === lo);
  toUnit(dn, o);
  for (let a = 0; a < 3; a++) yn[o + a] = inboard(yn, o + a, i === lo) + span[i]! * dn[o + a]!;
}

/** Lets contacts go that pull, and takes up those that were missed. Whether any changed. */
function settle(step: StrandStep, lo: Index, hi: Index): boolean {
  const { gap, shift, pressed, on } = step;
  let wrong = false;
  for (let i = lo; i < hi; i++) {
    if (!(gap[i]! < Infinity)) continue;
    const off = on[i]! > 0 ? pressed[i]! < 0 : gap[i]! + shift[i]! < MISSED;
    if (!off) continue;
    on[i] = on[i]! > 0 ? 0 : 1;
    wrong = true;
  }
  return wrong;
}

/** Goes on from where the links were laid. */
function goOn(step: StrandStep, lo: Index, hi: Index): void {
  const { base, y, dn, yn, cn, gap } = step;
  for (let i = lo; i < hi; i++) {
    const o = 3 * i;
    if (gap[i]! < Infinity) for (let a = o; a < o + 3; a++) gap[i] = gap[i]! + cn[a]! * (yn[a]! - y[a]!);
    for (let a = o; a < o + 3; a++) {
      base[a] = dn[a]!;
      y[a] = yn[a]!;
    }
  }
}

/** Takes up where the links were laid: what a loaded point does along its normal becomes the surface's. */
function finishStrand(step: StrandStep, k: Index, lo: Index, hi: Index): void {
  const { turn, d, c, x, dx, w, q, load, slip, gap, cn, ct, cw, dn, yn, pressed, room, taken } = step;
  for (let i = lo; i < hi; i++) {
    const o = 3 * i;
    turnOut(room, 0, turn, 9 * k, yn, o);
    for (let a = 0; a < 3; a++) {
      const way = room[a]! - x[o + a]!,
        speed = 1.5 * way - 0.5 * dx[o + a]!;
      q[o + a] = (3 * way + 8 * speed - 2 * w[o + a]!) / 9;
      x[o + a] = room[a]!;
      dx[o + a] = way;
      w[o + a] = speed;
      c[o + a] = dn[o + a]! + (dn[o + a]! - d[o + a]!) / 3;
      d[o + a] = dn[o + a]!;
    }
    if (gap[i]! < Infinity && pressed[i]! > 0) {
      load[i] = pressed[i]!;
      for (let a = 0; a < 3; a++) room[a] = yn[o + a]! - ct[o + a]!;
      const along = dot3(room, 0, cn, o);
      for (let a = 0; a < 3; a++) room[a] = room[a]! - along * cn[o + a]!;
      slip[i] = Math.sqrt(dot3(room, 0, room, 0));
      turnOut(room, 0, turn, 9 * k, cn, o);
      const way = dot3(room, 0, cw, o);
      const ex = way - dot3(room, 0, dx, o),
        ew = way - dot3(room, 0, w, o),
        eq = way - dot3(room, 0, q, o);
      taken[i] = ex;
      for (let a = 0; a < 3; a++) {
        dx[o + a] = dx[o + a]! + ex * room[a]!;
        w[o + a] = w[o + a]! + ew * room[a]!;
        q[o + a] = q[o + a]! + eq * room[a]!;
      }
    } else load[i] = 0;
  }
}
