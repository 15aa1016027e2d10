// stiffen.ts with two cells side by side. Modes lie in `modes` as pairs, 16 bytes each.
import { Floats, int, pair } from '../numbers';
import { BodyStep } from './bodyFields';

@inline function add(a: v128, b: v128): v128 { return f64x2.add(a, b); }
@inline function sub(a: v128, b: v128): v128 { return f64x2.sub(a, b); }
@inline function mul(a: v128, b: v128): v128 { return f64x2.mul(a, b); }
@inline function dot(a: v128, x: v128, b: v128, y: v128, c: v128, z: v128): v128 {
  return add(add(mul(a, x), mul(b, y)), mul(c, z));
}
@inline function two(a: f64, b: f64): v128 { return f64x2.replace_lane(f64x2.splat(a), 1, b); }
// Where corner c of a cell lies in a field of nodes.
@inline function node(list: usize, corners: usize, c: usize): usize {
  return list + 24 * <usize>load<i32>(corners + 4 * c);
}

export function stiffen(step: BodyStep, p: Floats, y: Floats, elastic: f64, viscous: f64): void {
  const size = step.size;
  const volume = size * size * size;
  const per: f64 = 1 / (4 * size);
  const hour: f64 = 4 / (3 * size * size);
  const both = elastic + viscous;
  const corners = changetype<usize>(step.corners);
  const cells = int(step.cells);
  for (let a = 0; a < cells; a += 2) {
    const b = min(a + 1, cells - 1);
    const first = corners + 32 * a, second = corners + 32 * b;
    const one = step.fill[a] * step.stiff[a] * volume, other = step.fill[b] * step.stiff[b] * volume;
    gatherPair(step, first, second, changetype<usize>(p));
    stretchPair(step, a, b, step.mu * both, step.lambda * elastic, step.lambda * viscous,
      two(one * per * per, other * per * per));
    bendPair(step, a, b, two((one * hour * both) / 64, (other * hour * both) / 64));
    scatterPair(step, first, second, changetype<usize>(y), b > a);
  }
}

function gatherPair(step: BodyStep, c: usize, d: usize, p: usize): void {
  let m = changetype<usize>(step.modes);
  const c0 = node(p, c, 0), c1 = node(p, c, 1), c2 = node(p, c, 2), c3 = node(p, c, 3);
  const c4 = node(p, c, 4), c5 = node(p, c, 5), c6 = node(p, c, 6), c7 = node(p, c, 7);
  const d0 = node(p, d, 0), d1 = node(p, d, 1), d2 = node(p, d, 2), d3 = node(p, d, 3);
  const d4 = node(p, d, 4), d5 = node(p, d, 5), d6 = node(p, d, 6), d7 = node(p, d, 7);
  for (let o: usize = 0; o < 24; o += 8) {
    const p0 = pair(c0 + o, d0 + o), p1 = pair(c1 + o, d1 + o), p2 = pair(c2 + o, d2 + o), p3 = pair(c3 + o, d3 + o);
    const p4 = pair(c4 + o, d4 + o), p5 = pair(c5 + o, d5 + o), p6 = pair(c6 + o, d6 + o), p7 = pair(c7 + o, d7 + o);
    const s0 = add(p1, p0), e0 = sub(p1, p0), s1 = add(p3, p2), e1 = sub(p3, p2);
    const s2 = add(p5, p4), e2 = sub(p5, p4), s3 = add(p7, p6), e3 = sub(p7, p6);
    const ss0 = add(s1, s0), sd0 = sub(s1, s0), ss1 = add(s3, s2), sd1 = sub(s3, s2);
    const ds0 = add(e1, e0), dd0 = sub(e1, e0), ds1 = add(e3, e2), dd1 = sub(e3, e2);
    v128.store(m, add(ds1, ds0), 48);
    v128.store(m, add(sd1, sd0), 96);
    v128.store(m, sub(ss1, ss0), 144);
    v128.store(m, sub(sd1, sd0), 192);
    v128.store(m, sub(ds1, ds0), 240);
    v128.store(m, add(dd1, dd0), 288);
    v128.store(m, sub(dd1, dd0), 336);
    m += 16;
  }
}

function stretchPair(step: BodyStep, a: i32, b: i32, shear: f64, volume: f64, viscous: f64, by: v128): void {
  const m = changetype<usize>(step.modes);
  const R = changetype<usize>(step.turn) + 72 * a, S = changetype<usize>(step.turn) + 72 * b;
  const r0 = pair(R, S), r1 = pair(R + 8, S + 8), r2 = pair(R + 16, S + 16);
  const r3 = pair(R + 24, S + 24), r4 = pair(R + 32, S + 32), r5 = pair(R + 40, S + 40);
  const r6 = pair(R + 48, S + 48), r7 = pair(R + 56, S + 56), r8 = pair(R + 64, S + 64);
  const x0 = v128.load(m, 48), y0 = v128.load(m, 64), z0 = v128.load(m, 80);
  const x1 = v128.load(m, 96), y1 = v128.load(m, 112), z1 = v128.load(m, 128);
  const x2 = v128.load(m, 144), y2 = v128.load(m, 160), z2 = v128.load(m, 176);
  const once = f64x2.splat(shear), twice = f64x2.splat(2 * shear);
  const A = dot(r0, x0, r3, y0, r6, z0), B = dot(r1, x1, r4, y1, r7, z1), C = dot(r2, x2, r5, y2, r8, z2);
  const aa = mul(twice, A), bb = mul(twice, B), cc = mul(twice, C);
  const d = mul(once, add(dot(r0, x1, r3, y1, r6, z1), dot(r1, x0, r4, y0, r7, z0)));
  const e = mul(once, add(dot(r0, x2, r3, y2, r6, z2), dot(r2, x0, r5, y0, r8, z0)));
  const f = mul(once, add(dot(r1, x2, r4, y2, r7, z2), dot(r2, x1, r5, y1, r8, z1)));
  const flow = mul(f64x2.splat(viscous), add(add(A, B), C));
  const K = changetype<usize>(step.cofactor) + 72 * a, L = changetype<usize>(step.cofactor) + 72 * b;
  const c0 = pair(K, L), c1 = pair(K + 8, L + 8), c2 = pair(K + 16, L + 16);
  const c3 = pair(K + 24, L + 24), c4 = pair(K + 32, L + 32), c5 = pair(K + 40, L + 40);
  const c6 = pair(K + 48, L + 48), c7 = pair(K + 56, L + 56), c8 = pair(K + 64, L + 64);
  const wide = mul(two(volume * step.bulk[a], volume * step.bulk[b]),
    add(add(dot(c0, x0, c3, y0, c6, z0), dot(c1, x1, c4, y1, c7, z1)), dot(c2, x2, c5, y2, c8, z2)));
  v128.store(m, mul(by, add(add(dot(r0, aa, r1, d, r2, e), mul(wide, c0)), mul(flow, r0))), 48);
  v128.store(m, mul(by, add(add(dot(r3, aa, r4, d, r5, e), mul(wide, c3)), mul(flow, r3))), 64);
  v128.store(m, mul(by, add(add(dot(r6, aa, r7, d, r8, e), mul(wide, c6)), mul(flow, r6))), 80);
  v128.store(m, mul(by, add(add(dot(r0, d, r1, bb, r2, f), mul(wide, c1)), mul(flow, r1))), 96);
  v128.store(m, mul(by, add(add(dot(r3, d, r4, bb, r5, f), mul(wide, c4)), mul(flow, r4))), 112);
  v128.store(m, mul(by, add(add(dot(r6, d, r7, bb, r8, f), mul(wide, c7)), mul(flow, r7))), 128);
  v128.store(m, mul(by, add(add(dot(r0, e, r1, f, r2, cc), mul(wide, c2)), mul(flow, r2))), 144);
  v128.store(m, mul(by, add(add(dot(r3, e, r4, f, r5, cc), mul(wide, c5)), mul(flow, r5))), 160);
  v128.store(m, mul(by, add(add(dot(r6, e, r7, f, r8, cc), mul(wide, c8)), mul(flow, r8))), 176);
}

// bendInTurn, resistBending and bendToWorld of cell.ts.
function bendPair(step: BodyStep, a: i32, b: i32, by: v128): void {
  const m = changetype<usize>(step.modes);
  const R = changetype<usize>(step.turn) + 72 * a, S = changetype<usize>(step.turn) + 72 * b;
  const r0 = pair(R, S), r1 = pair(R + 8, S + 8), r2 = pair(R + 16, S + 16);
  const r3 = pair(R + 24, S + 24), r4 = pair(R + 32, S + 32), r5 = pair(R + 40, S + 40);
  const r6 = pair(R + 48, S + 48), r7 = pair(R + 56, S + 56), r8 = pair(R + 64, S + 64);
  let x = v128.load(m, 192), y = v128.load(m, 208), z = v128.load(m, 224);
  const b0 = dot(r0, x, r3, y, r6, z), b1 = dot(r1, x, r4, y, r7, z), b2 = dot(r2, x, r5, y, r8, z);
  x = v128.load(m, 240); y = v128.load(m, 256); z = v128.load(m, 272);
  const b3 = dot(r0, x, r3, y, r6, z), b4 = dot(r1, x, r4, y, r7, z), b5 = dot(r2, x, r5, y, r8, z);
  x = v128.load(m, 288); y = v128.load(m, 304); z = v128.load(m, 320);
  const b6 = dot(r0, x, r3, y, r6, z), b7 = dot(r1, x, r4, y, r7, z), b8 = dot(r2, x, r5, y, r8, z);
  x = v128.load(m, 336); y = v128.load(m, 352); z = v128.load(m, 368);
  const b9 = dot(r0, x, r3, y, r6, z), b10 = dot(r1, x, r4, y, r7, z), b11 = dot(r2, x, r5, y, r8, z);
  const plate: f64 = step.young / (1 - step.poisson * step.poisson);
  const P = f64x2.splat(plate), N = f64x2.splat(plate * step.poisson), mu = f64x2.splat(step.mu);
  const third = f64x2.splat(step.young / 3);
  const t1 = add(b8, b4), t2 = add(b8, b0), t3 = add(b4, b0);
  const s0 = mul(by, r0), s1 = mul(by, r1), s2 = mul(by, r2), s3 = mul(by, r3), s4 = mul(by, r4);
  const s5 = mul(by, r5), s6 = mul(by, r6), s7 = mul(by, r7), s8 = mul(by, r8);
  x = mul(mu, add(t2, t3)); y = add(mul(P, b1), mul(N, b3)); z = add(mul(P, b2), mul(N, b6));
  v128.store(m, dot(s0, x, s1, y, s2, z), 192);
  v128.store(m, dot(s3, x, s4, y, s5, z), 208);
  v128.store(m, dot(s6, x, s7, y, s8, z), 224);
  x = add(mul(P, b3), mul(N, b1)); y = mul(mu, add(t1, t3)); z = add(mul(P, b5), mul(N, b7));
  v128.store(m, dot(s0, x, s1, y, s2, z), 240);
  v128.store(m, dot(s3, x, s4, y, s5, z), 256);
  v128.store(m, dot(s6, x, s7, y, s8, z), 272);
  x = add(mul(P, b6), mul(N, b2)); y = add(mul(P, b7), mul(N, b5)); z = mul(mu, add(t1, t2));
  v128.store(m, dot(s0, x, s1, y, s2, z), 288);
  v128.store(m, dot(s3, x, s4, y, s5, z), 304);
  v128.store(m, dot(s6, x, s7, y, s8, z), 320);
  x = mul(third, b9); y = mul(third, b10); z = mul(third, b11);
  v128.store(m, dot(s0, x, s1, y, s2, z), 336);
  v128.store(m, dot(s3, x, s4, y, s5, z), 352);
  v128.store(m, dot(s6, x, s7, y, s8, z), 368);
}

// The first cell is added before the second, as they may share nodes.
function scatterPair(step: BodyStep, c: usize, d: usize, f: usize, also: bool): void {
  const m = changetype<usize>(step.modes);
  for (let o: usize = 0; o < 48; o += 16) {
    const m1 = v128.load(m + o, 48), m2 = v128.load(m + o, 96), m3 = v128.load(m + o, 144), m4 = v128.load(m + o, 192);
    const m5 = v128.load(m + o, 240), m6 = v128.load(m + o, 288), m7 = v128.load(m + o, 336);
    const e0 = sub(m2, m4), e1 = add(m2, m4), g0 = sub(m1, m5), g1 = add(m1, m5), h0 = sub(m6, m7), h1 = add(m6, m7);
    const n3 = f64x2.neg(m3);
    const s0 = sub(n3, e0), s1 = add(n3, e0), s2 = sub(m3, e1), s3 = add(m3, e1);
    const d0 = sub(g0, h0), d1 = add(g0, h0), d2 = sub(g1, h1), d3 = add(g1, h1);
    const at = f + (o >> 1);
    putCell(at, c, false, s0, d0, s1, d1, s2, d2, s3, d3);
    if (also) putCell(at, d, true, s0, d0, s1, d1, s2, d2, s3, d3);
  }
}

@inline function half(at: usize, s: v128, d: v128, lane: bool, sign: bool): void {
  const a: f64 = lane ? f64x2.extract_lane(s, 1) : f64x2.extract_lane(s, 0);
  const b: f64 = lane ? f64x2.extract_lane(d, 1) : f64x2.extract_lane(d, 0);
  store<f64>(at, sign ? load<f64>(at) + a + b : load<f64>(at) + a - b);
}

@inline function putCell(
  f: usize, c: usize, lane: bool,
  s0: v128, d0: v128, s1: v128, d1: v128, s2: v128, d2: v128, s3: v128, d3: v128,
): void {
  half(node(f, c, 0), s0, d0, lane, false);
  half(node(f, c, 1), s0, d0, lane, true);
  half(node(f, c, 2), s1, d1, lane, false);
  half(node(f, c, 3), s1, d1, lane, true);
  half(node(f, c, 4), s2, d2, lane, false);
  half(node(f, c, 5), s2, d2, lane, true);
  half(node(f, c, 6), s3, d3, lane, false);
  half(node(f, c, 7), s3, d3, lane, true);
}
