// lengths.ts with the four paths of a group side by side.
import { Index, int, pair, put } from '../numbers';
import { ClothStep } from './fields';
import { keepRims } from './rim';

export function keepLengths(step: ClothStep): void {
  const perStep: f64 = step.first > 0 ? 1 / (step.h * step.h) : 9 / (4 * step.h * step.h);
  keepRims(step, perStep, false);
  const groups = int(step.groups);
  for (let g = 0; g < groups; g++) keepGroup(step, perStep, step.group[2 * g], step.group[2 * g + 1]);
  keepRims(step, perStep, true);
}

@inline function dot(ax: v128, ay: v128, az: v128, bx: v128, by: v128, bz: v128): v128 {
  return f64x2.add(f64x2.add(f64x2.mul(ax, bx), f64x2.mul(ay, by)), f64x2.mul(az, bz));
}
// (f − e) w on top of what is there.
@inline function move(a: usize, b: usize, w: v128, f: v128, e: v128): void {
  put(a, b, f64x2.add(pair(a, b), f64x2.mul(w, f64x2.sub(f, e))));
}

function keepGroup(step: ClothStep, perStep: f64, slot: Index, m: Index): void {
  const X = changetype<usize>(step.x), W = changetype<usize>(step.w), R = changetype<usize>(step.rows);
  let p = changetype<usize>(step.pointAt) + (<usize>slot << 4);
  let at = <usize>slot << 5;
  const L = changetype<usize>(step.length), G = changetype<usize>(step.gives), H = changetype<usize>(step.giving);
  const one = f64x2.splat(1), tiny = f64x2.splat(1e-20), zero = f64x2.splat(0), per = f64x2.splat(perStep);
  let i0 = <usize>load<i32>(p), i1 = <usize>load<i32>(p, 4), i2 = <usize>load<i32>(p, 8), i3 = <usize>load<i32>(p, 12);
  let a0 = X + 24 * i0, a1 = X + 24 * i1, a2 = X + 24 * i2, a3 = X + 24 * i3;
  let axA = pair(a0, a1), ayA = pair(a0 + 8, a1 + 8), azA = pair(a0 + 16, a1 + 16), waA = pair(W + 8 * i0, W + 8 * i1);
  let axB = pair(a2, a3), ayB = pair(a2 + 8, a3 + 8), azB = pair(a2 + 16, a3 + 16), waB = pair(W + 8 * i2, W + 8 * i3);
  let exA = zero, eyA = zero, ezA = zero, overA = zero, pushA = zero;
  let exB = zero, eyB = zero, ezB = zero, overB = zero, pushB = zero;
  let r = R;
  for (let j = 0; j < m; j++, at += 32, r += 160) {
    p += 16;
    i0 = <usize>load<i32>(p); i1 = <usize>load<i32>(p, 4); i2 = <usize>load<i32>(p, 8); i3 = <usize>load<i32>(p, 12);
    a0 = X + 24 * i0; a1 = X + 24 * i1; a2 = X + 24 * i2; a3 = X + 24 * i3;
    const bxA = pair(a0, a1), byA = pair(a0 + 8, a1 + 8), bzA = pair(a0 + 16, a1 + 16), wbA = pair(W + 8 * i0, W + 8 * i1);
    const bxB = pair(a2, a3), byB = pair(a2 + 8, a3 + 8), bzB = pair(a2 + 16, a3 + 16), wbB = pair(W + 8 * i2, W + 8 * i3);
    let dxA = f64x2.sub(bxA, axA), dyA = f64x2.sub(byA, ayA), dzA = f64x2.sub(bzA, azA);
    let dxB = f64x2.sub(bxB, axB), dyB = f64x2.sub(byB, ayB), dzB = f64x2.sub(bzB, azB);
    const lA = f64x2.sqrt(dot(dxA, dyA, dzA, dxA, dyA, dzA)), lB = f64x2.sqrt(dot(dxB, dyB, dzB, dxB, dyB, dzB));
    const sA = f64x2.div(one, f64x2.add(lA, tiny)), sB = f64x2.div(one, f64x2.add(lB, tiny));
    dxA = f64x2.mul(dxA, sA); dyA = f64x2.mul(dyA, sA); dzA = f64x2.mul(dzA, sA);
    dxB = f64x2.mul(dxB, sB); dyB = f64x2.mul(dyB, sB); dzB = f64x2.mul(dzB, sB);
    const lenA = v128.load(L + at), lenB = v128.load(L + at, 16);
    const giveA = f64x2.mul(per, v128.bitselect(v128.load(G + at), v128.load(H + at), f64x2.gt(lA, lenA)));
    const giveB = f64x2.mul(per, v128.bitselect(v128.load(G + at, 16), v128.load(H + at, 16), f64x2.gt(lB, lenB)));
    // Coupling with the edge before it, through the point they share.
    const cA = f64x2.mul(f64x2.neg(waA), dot(exA, eyA, ezA, dxA, dyA, dzA));
    const cB = f64x2.mul(f64x2.neg(waB), dot(exB, eyB, ezB, dxB, dyB, dzB));
    const takeA = f64x2.mul(cA, overA), takeB = f64x2.mul(cB, overB);
    overA = f64x2.div(one, f64x2.add(f64x2.sub(f64x2.add(f64x2.add(waA, wbA), giveA), f64x2.mul(cA, takeA)), tiny));
    overB = f64x2.div(one, f64x2.add(f64x2.sub(f64x2.add(f64x2.add(waB, wbB), giveB), f64x2.mul(cB, takeB)), tiny));
    pushA = f64x2.mul(f64x2.sub(f64x2.sub(lenA, lA), f64x2.mul(cA, pushA)), overA);
    pushB = f64x2.mul(f64x2.sub(f64x2.sub(lenB, lB), f64x2.mul(cB, pushB)), overB);
    v128.store(r, dxA); v128.store(r, dxB, 16); v128.store(r, dyA, 32); v128.store(r, dyB, 48);
    v128.store(r, dzA, 64); v128.store(r, dzB, 80); v128.store(r, pushA, 96); v128.store(r, pushB, 112);
    v128.store(r, takeA, 128); v128.store(r, takeB, 144);
    exA = dxA; eyA = dyA; ezA = dzA; axA = bxA; ayA = byA; azA = bzA; waA = wbA;
    exB = dxB; eyB = dyB; ezB = dzB; axB = bxB; ayB = byB; azB = bzB; waB = wbB;
  }
  moveGroup(X, W, p, r, m, step.threads > 0 ? changetype<usize>(step.pulls) + at : 0);
}

// Back along a group: each point goes along the edge before it and against the one after it. What the edges push is
// told from T backwards, where that is not 0.
function moveGroup(X: usize, W: usize, p: usize, r: usize, m: Index, T: usize): void {
  const zero = f64x2.splat(0);
  let pushA = zero, takeA = zero, exA = zero, eyA = zero, ezA = zero;
  let pushB = zero, takeB = zero, exB = zero, eyB = zero, ezB = zero;
  for (let j = m; j >= 0; j--, p -= 16) {
    let fxA = zero, fyA = zero, fzA = zero, fxB = zero, fyB = zero, fzB = zero;
    if (j > 0) {
      r -= 160;
      pushA = f64x2.sub(v128.load(r, 96), f64x2.mul(takeA, pushA));
      pushB = f64x2.sub(v128.load(r, 112), f64x2.mul(takeB, pushB));
      takeA = v128.load(r, 128); takeB = v128.load(r, 144);
      if (T) {
        T -= 32;
        v128.store(T, pushA); v128.store(T, pushB, 16);
      }
      fxA = f64x2.mul(v128.load(r), pushA); fxB = f64x2.mul(v128.load(r, 16), pushB);
      fyA = f64x2.mul(v128.load(r, 32), pushA); fyB = f64x2.mul(v128.load(r, 48), pushB);
      fzA = f64x2.mul(v128.load(r, 64), pushA); fzB = f64x2.mul(v128.load(r, 80), pushB);
    }
    const i0 = <usize>load<i32>(p), i1 = <usize>load<i32>(p, 4), i2 = <usize>load<i32>(p, 8), i3 = <usize>load<i32>(p, 12);
    const a0 = X + 24 * i0, a1 = X + 24 * i1, a2 = X + 24 * i2, a3 = X + 24 * i3;
    const wA = pair(W + 8 * i0, W + 8 * i1), wB = pair(W + 8 * i2, W + 8 * i3);
    move(a0, a1, wA, fxA, exA); move(a0 + 8, a1 + 8, wA, fyA, eyA); move(a0 + 16, a1 + 16, wA, fzA, ezA);
    move(a2, a3, wB, fxB, exB); move(a2 + 8, a3 + 8, wB, fyB, eyB); move(a2 + 16, a3 + 16, wB, fzB, ezB);
    exA = fxA; eyA = fyA; ezA = fzA; exB = fxB; eyB = fyB; ezB = fzB;
  }
}
