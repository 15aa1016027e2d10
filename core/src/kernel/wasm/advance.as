// advance.ts two points at a time: of six numbers the first two, the middle two and the last two. Arrays have room for
// one point more.
import { int } from '../numbers';
import { ClothStep } from './fields';
import { FASTEST, finishPoint, slow } from './finish';

@inline function pair(a: f64, b: f64): v128 { return f64x2.replace_lane(f64x2.splat(a), 1, b); }

export function predictCloth(step: ClothStep): void {
  const points = int(step.points);
  const h = step.h, to = step.to, first = step.first > 0;
  const hh: f64 = first ? h * h : (4.0 / 9.0) * h * h;
  const hd: f64 = first ? h : (2.0 / 3.0) * h;
  const c1 = f64x2.splat(first ? 0 : 1.0 / 3.0), c2 = f64x2.splat(first ? h : (8.0 / 9.0) * h), c3 = f64x2.splat(first ? 0 : (2.0 / 9.0) * h);
  const d0 = f64x2.splat(first ? 1 : 4.0 / 3.0), d2 = f64x2.splat((first ? 1.0 : 2.0 / 3.0) * (to - step.from));
  const hhs = f64x2.splat(hh), tos = f64x2.splat(to), whole = i64x2.splat(to == 1 ? -1 : 0);
  const W = changetype<usize>(step.w), P = changetype<usize>(step.pull), D = changetype<usize>(step.damp);
  const g0 = pair(step.gx, step.gy), g1 = pair(step.gz, step.gx), g2 = pair(step.gy, step.gz);
  for (let i = 0; i < points; i += 2) {
    const one = <usize>i << 3, o = 3 * one;
    const wa = load<f64>(W + one), wb = load<f64>(W + one, 8);
    const qa = hh * load<f64>(P + one), qb = hh * load<f64>(P + one, 8);
    const ra = hd * load<f64>(D + one), rb = hd * load<f64>(D + one, 8);
    const va = 1 / (1 + qa + ra), vb = 1 / (1 + qb + rb);
    go(step, o, g0, f64x2.splat(wa), f64x2.splat(qa), f64x2.splat(ra), f64x2.splat(va), c1, c2, c3, d0, d2, hhs, tos, whole);
    go(step, o + 16, g1, pair(wa, wb), pair(qa, qb), pair(ra, rb), pair(va, vb), c1, c2, c3, d0, d2, hhs, tos, whole);
    go(step, o + 32, g2, f64x2.splat(wb), f64x2.splat(qb), f64x2.splat(rb), f64x2.splat(vb), c1, c2, c3, d0, d2, hhs, tos, whole);
  }
}

@inline function go(
  step: ClothStep, o: usize, g: v128, w: v128, q: v128, r: v128, over: v128,
  c1: v128, c2: v128, c3: v128, d0: v128, d2: v128, hh: v128, to: v128, whole: v128,
): void {
  const at = v128.load(changetype<usize>(step.x) + o), older = v128.load(changetype<usize>(step.older) + o);
  const from = v128.load(changetype<usize>(step.skinFrom) + o), end = v128.load(changetype<usize>(step.skinTo) + o);
  const way = f64x2.sub(end, from);
  const skin = v128.bitselect(end, f64x2.add(from, f64x2.mul(to, way)), whole);
  let free = f64x2.add(at, f64x2.mul(c1, f64x2.sub(at, older)));
  free = f64x2.add(free, f64x2.mul(c2, v128.load(changetype<usize>(step.v) + o)));
  free = f64x2.sub(free, f64x2.mul(c3, v128.load(changetype<usize>(step.vOld) + o)));
  free = f64x2.add(free, f64x2.mul(hh, f64x2.add(g, v128.load(changetype<usize>(step.push) + o))));
  const along = f64x2.add(f64x2.sub(f64x2.mul(d0, at), f64x2.mul(c1, older)), f64x2.mul(d2, way));
  const swung = f64x2.mul(f64x2.add(f64x2.add(free, f64x2.mul(q, skin)), f64x2.mul(r, along)), over);
  v128.store(changetype<usize>(step.now) + o, skin);
  v128.store(changetype<usize>(step.old) + o, at);
  v128.store(changetype<usize>(step.x) + o, v128.bitselect(swung, skin, f64x2.gt(w, f64x2.splat(0))));
}

export function finishCloth(step: ClothStep): void {
  const points = int(step.points);
  const h = step.h, first = step.first > 0;
  const far = f64x2.splat(0.5 * FASTEST * h), fast = f64x2.splat(0.5 * FASTEST);
  const X = changetype<usize>(step.x), O = changetype<usize>(step.old), T = changetype<usize>(step.touched);
  const V = changetype<usize>(step.v), U = changetype<usize>(step.vOld), Q = changetype<usize>(step.older);
  for (let i = 0; i < points; i += 2) {
    const one = <usize>i << 3, o = 3 * one;
    const x0 = v128.load(X + o), x1 = v128.load(X + o, 16), x2 = v128.load(X + o, 32);
    const o0 = v128.load(O + o), o1 = v128.load(O + o, 16), o2 = v128.load(O + o, 32);
    const m0 = f64x2.sub(x0, o0), m1 = f64x2.sub(x1, o1), m2 = f64x2.sub(x2, o2);
    // What may be too fast is finished by itself.
    const most = f64x2.max(f64x2.max(f64x2.abs(m0), f64x2.abs(m1)), f64x2.abs(m2));
    if (v128.any_true(v128.not(f64x2.le(most, far)))) {
      finishPoint(step, i);
      if (i + 1 < points) finishPoint(step, i + 1);
      continue;
    }
    const ta = load<f64>(T + one), tb = load<f64>(T + one, 8);
    const ja: i64 = ta >= 4 && ta < 7 ? -1 : 0, jb: i64 = tb >= 4 && tb < 7 ? -1 : 0;
    const aa: f64 = first || ja ? 1 / h : 1.5 / h, ab: f64 = first || jb ? 1 / h : 1.5 / h;
    const ba: f64 = first || ja ? 0 : 0.5 / h, bb: f64 = first || jb ? 0 : 0.5 / h;
    const s0 = f64x2.sub(f64x2.mul(f64x2.splat(aa), m0), f64x2.mul(f64x2.splat(ba), f64x2.sub(o0, v128.load(Q + o))));
    const s1 = f64x2.sub(f64x2.mul(pair(aa, ab), m1), f64x2.mul(pair(ba, bb), f64x2.sub(o1, v128.load(Q + o, 16))));
    const s2 = f64x2.sub(f64x2.mul(f64x2.splat(ab), m2), f64x2.mul(f64x2.splat(bb), f64x2.sub(o2, v128.load(Q + o, 32))));
    v128.store(U + o, v128.bitselect(s0, v128.load(V + o), i64x2.splat(ja)));
    v128.store(U + o, v128.bitselect(s1, v128.load(V + o, 16), i64x2.replace_lane(i64x2.splat(ja), 1, jb)), 16);
    v128.store(U + o, v128.bitselect(s2, v128.load(V + o, 32), i64x2.splat(jb)), 32);
    v128.store(V + o, s0); v128.store(V + o, s1, 16); v128.store(V + o, s2, 32);
    v128.store(Q + o, o0); v128.store(Q + o, o1, 16); v128.store(Q + o, o2, 32);
    const speed = f64x2.max(f64x2.max(f64x2.abs(s0), f64x2.abs(s1)), f64x2.abs(s2));
    if (v128.any_true(v128.not(f64x2.le(speed, fast)))) {
      slow(step, 3 * i);
      if (i + 1 < points) slow(step, 3 * i + 3);
    }
  }
}
