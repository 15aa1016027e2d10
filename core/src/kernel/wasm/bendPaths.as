// bendPaths.ts with the four paths of a group side by side.
import { Index, int, pair, put } from '../numbers';
import { ClothStep } from './fields';

@inline function at(list: usize, p: usize): usize { return list + 24 * <usize>load<i32>(p); }

export function aimPaths(step: ClothStep): void {
  const groups = int(step.groups);
  for (let g = 0; g < groups; g++) {
    // The second pair of a group stands 16 bytes behind the first, its points 8.
    aimGroup(step, step.group[2 * g], step.group[2 * g + 1], 0);
    aimGroup(step, step.group[2 * g], step.group[2 * g + 1], 1);
  }
}

function aimGroup(step: ClothStep, slot: Index, m: Index, half: usize): void {
  const X = changetype<usize>(step.x), N = changetype<usize>(step.normal);
  let p = changetype<usize>(step.pointAt) + (<usize>slot << 4) + 8 * half;
  let C = changetype<usize>(step.curve) + 64 * <usize>slot + 16 * half;
  let T = changetype<usize>(step.aims) + 96 * <usize>slot + 16 * half;
  const tiny = f64x2.splat(1e-30);
  for (let j = 1; j < m; j++) {
    p += 16; C += 64; T += 96;
    const a0 = at(X, p - 16), a1 = at(X, p - 12), b0 = at(X, p + 16), b1 = at(X, p + 20), o0 = at(N, p), o1 = at(N, p + 4);
    const tx = f64x2.sub(pair(b0, b1), pair(a0, a1));
    const ty = f64x2.sub(pair(b0 + 8, b1 + 8), pair(a0 + 8, a1 + 8));
    const tz = f64x2.sub(pair(b0 + 16, b1 + 16), pair(a0 + 16, a1 + 16));
    const nx = pair(o0, o1), ny = pair(o0 + 8, o1 + 8), nz = pair(o0 + 16, o1 + 16);
    const cx = f64x2.sub(f64x2.mul(ny, tz), f64x2.mul(nz, ty));
    const cy = f64x2.sub(f64x2.mul(nz, tx), f64x2.mul(nx, tz));
    const cz = f64x2.sub(f64x2.mul(nx, ty), f64x2.mul(ny, tx));
    const cc = f64x2.add(f64x2.add(f64x2.mul(cx, cx), f64x2.mul(cy, cy)), f64x2.mul(cz, cz));
    const kn = v128.load(C), kg = f64x2.div(v128.load(C, 32), f64x2.sqrt(f64x2.add(cc, tiny)));
    v128.store(T, f64x2.add(f64x2.mul(kn, nx), f64x2.mul(kg, cx)));
    v128.store(T, f64x2.add(f64x2.mul(kn, ny), f64x2.mul(kg, cy)), 32);
    v128.store(T, f64x2.add(f64x2.mul(kn, nz), f64x2.mul(kg, cz)), 64);
  }
}

export function bendBack(step: ClothStep): void {
  const groups = int(step.groups);
  for (let g = 0; g < groups; g++) {
    const m = step.group[2 * g + 1];
    if (m < 2) continue;
    for (let half: usize = 0; half < 2; half++) {
      bendForward(step, step.group[2 * g], m + 1, half);
      bendPoints(step, step.group[2 * g], m + 1, half);
    }
  }
}

function bendForward(step: ClothStep, slot: Index, m: Index, half: usize): void {
  const X = changetype<usize>(step.x);
  let p = changetype<usize>(step.pointAt) + (<usize>slot << 4) + 8 * half;
  let B = changetype<usize>(step.bends) + 96 * <usize>slot + 16 * half;
  let T = changetype<usize>(step.aims) + 96 * <usize>slot + 16 * half;
  let F = changetype<usize>(step.factors) + 96 * <usize>slot + 16 * half;
  let R = changetype<usize>(step.rows);
  const zero = f64x2.splat(0);
  let o0 = at(X, p), o1 = at(X, p + 4);
  let ax = pair(o0, o1), ay = pair(o0 + 8, o1 + 8), az = pair(o0 + 16, o1 + 16);
  p += 16;
  o0 = at(X, p); o1 = at(X, p + 4);
  let bx = pair(o0, o1), by = pair(o0 + 8, o1 + 8), bz = pair(o0 + 16, o1 + 16);
  let ux = zero, uy = zero, uz = zero, vx = zero, vy = zero, vz = zero;
  let y1x = zero, y1y = zero, y1z = zero, y2x = zero, y2y = zero, y2z = zero;
  for (let j = 1; j <= m; j++) {
    B += 96; T += 96;
    let fx = zero, fy = zero, fz = zero, a = zero, c = zero;
    if (j < m - 1) {
      p += 16;
      o0 = at(X, p); o1 = at(X, p + 4);
      const cx = pair(o0, o1), cy = pair(o0 + 8, o1 + 8), cz = pair(o0 + 16, o1 + 16);
      a = v128.load(B); c = v128.load(B, 32);
      const s = v128.load(B, 64);
      fx = f64x2.mul(s, f64x2.sub(f64x2.add(f64x2.mul(a, f64x2.sub(ax, bx)), f64x2.mul(c, f64x2.sub(cx, bx))), v128.load(T)));
      fy = f64x2.mul(s, f64x2.sub(f64x2.add(f64x2.mul(a, f64x2.sub(ay, by)), f64x2.mul(c, f64x2.sub(cy, by))), v128.load(T, 32)));
      fz = f64x2.mul(s, f64x2.sub(f64x2.add(f64x2.mul(a, f64x2.sub(az, bz)), f64x2.mul(c, f64x2.sub(cz, bz))), v128.load(T, 64)));
      ax = bx; ay = by; az = bz; bx = cx; by = cy; bz = cz;
    }
    const l1 = v128.load(F), l2 = v128.load(F, 32);
    const yx = f64x2.sub(f64x2.sub(f64x2.sub(ux, f64x2.mul(a, fx)), f64x2.mul(l1, y1x)), f64x2.mul(l2, y2x));
    const yy = f64x2.sub(f64x2.sub(f64x2.sub(uy, f64x2.mul(a, fy)), f64x2.mul(l1, y1y)), f64x2.mul(l2, y2y));
    const yz = f64x2.sub(f64x2.sub(f64x2.sub(uz, f64x2.mul(a, fz)), f64x2.mul(l1, y1z)), f64x2.mul(l2, y2z));
    v128.store(R, yx); v128.store(R, yy, 16); v128.store(R, yz, 32);
    F += 96; R += 48;
    y2x = y1x; y2y = y1y; y2z = y1z; y1x = yx; y1y = yy; y1z = yz;
    const b = f64x2.add(a, c);
    ux = f64x2.add(vx, f64x2.mul(b, fx)); uy = f64x2.add(vy, f64x2.mul(b, fy)); uz = f64x2.add(vz, f64x2.mul(b, fz));
    const n = f64x2.neg(c);
    vx = f64x2.mul(n, fx); vy = f64x2.mul(n, fy); vz = f64x2.mul(n, fz);
  }
}

function bendPoints(step: ClothStep, slot: Index, m: Index, half: usize): void {
  const X = changetype<usize>(step.x), W = changetype<usize>(step.w);
  let p = changetype<usize>(step.pointAt) + (<usize>(slot + m) << 4) + 8 * half;
  let F = changetype<usize>(step.factors) + 96 * <usize>(slot + m) + 16 * half;
  let R = changetype<usize>(step.rows) + 48 * <usize>m;
  const zero = f64x2.splat(0);
  let l1 = zero, l2 = zero, next = zero, zx = zero, zy = zero, zz = zero, px = zero, py = zero, pz = zero;
  for (let j = m - 1; j >= 0; j--) {
    p -= 16; F -= 96; R -= 48;
    const i0 = <usize>load<i32>(p), i1 = <usize>load<i32>(p, 4);
    const a0 = X + 24 * i0, a1 = X + 24 * i1;
    const free = f64x2.gt(pair(W + 8 * i0, W + 8 * i1), zero);
    const over = v128.load(F, 64);
    const dx = v128.and(free, f64x2.sub(f64x2.sub(f64x2.mul(v128.load(R), over), f64x2.mul(l1, zx)), f64x2.mul(l2, px)));
    const dy = v128.and(free, f64x2.sub(f64x2.sub(f64x2.mul(v128.load(R, 16), over), f64x2.mul(l1, zy)), f64x2.mul(l2, py)));
    const dz = v128.and(free, f64x2.sub(f64x2.sub(f64x2.mul(v128.load(R, 32), over), f64x2.mul(l1, zz)), f64x2.mul(l2, pz)));
    const was = pair(a0, a1), wasY = pair(a0 + 8, a1 + 8), wasZ = pair(a0 + 16, a1 + 16);
    put(a0, a1, v128.bitselect(f64x2.add(was, dx), was, free));
    put(a0 + 8, a1 + 8, v128.bitselect(f64x2.add(wasY, dy), wasY, free));
    put(a0 + 16, a1 + 16, v128.bitselect(f64x2.add(wasZ, dz), wasZ, free));
    l1 = v128.load(F); l2 = next; next = v128.load(F, 32);
    px = zx; py = zy; pz = zz; zx = dx; zy = dy; zz = dz;
  }
}
