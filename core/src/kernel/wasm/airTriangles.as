// airTriangles.ts with two triangles at once.
import { int, pair } from '../numbers';
import { ClothStep } from './fields';

@inline function dot(ax: v128, ay: v128, az: v128, bx: v128, by: v128, bz: v128): v128 {
  return f64x2.add(f64x2.add(f64x2.mul(ax, bx), f64x2.mul(ay, by)), f64x2.mul(az, bz));
}
@inline function three(list: usize, i: usize, j: usize, k: usize, p: usize, q: usize, r: usize): v128 {
  return f64x2.add(f64x2.add(pair(list + i, list + p), pair(list + j, list + q)), pair(list + k, list + r));
}
@inline function push(at: usize, x: f64, y: f64, z: f64): void {
  store<f64>(at, load<f64>(at) + x);
  store<f64>(at, load<f64>(at, 8) + y, 8);
  store<f64>(at, load<f64>(at, 16) + z, 16);
}

export function blowTriangles(step: ClothStep): void {
  const triangles = int(step.triangles);
  const X = changetype<usize>(step.x), U = changetype<usize>(step.past), P = changetype<usize>(step.push);
  const third = f64x2.splat(1.0 / 3.0), zero = f64x2.splat(0);
  const twelfth = f64x2.splat(step.density / 12), drags = f64x2.splat(step.drag - step.lift), lifts = f64x2.splat(step.lift);
  let t = changetype<usize>(step.triangle);
  for (let n = 0; n < triangles; n += 2, t += 24) {
    // Without a second one the first is taken twice, and pushes once.
    const two = n + 1 < triangles, s = two ? t + 12 : t;
    const i = 24 * <usize>load<i32>(t), j = 24 * <usize>load<i32>(t, 4), k = 24 * <usize>load<i32>(t, 8);
    const p = 24 * <usize>load<i32>(s), q = 24 * <usize>load<i32>(s, 4), r = 24 * <usize>load<i32>(s, 8);
    const ux = f64x2.mul(three(U, i, j, k, p, q, r), third);
    const uy = f64x2.mul(three(U + 8, i, j, k, p, q, r), third);
    const uz = f64x2.mul(three(U + 16, i, j, k, p, q, r), third);
    const px = pair(X + i, X + p), py = pair(X + i + 8, X + p + 8), pz = pair(X + i + 16, X + p + 16);
    const bx = f64x2.sub(pair(X + j, X + q), px), by = f64x2.sub(pair(X + j + 8, X + q + 8), py), bz = f64x2.sub(pair(X + j + 16, X + q + 16), pz);
    const cx = f64x2.sub(pair(X + k, X + r), px), cy = f64x2.sub(pair(X + k + 8, X + r + 8), py), cz = f64x2.sub(pair(X + k + 16, X + r + 16), pz);
    const nx = f64x2.sub(f64x2.mul(by, cz), f64x2.mul(bz, cy));
    const ny = f64x2.sub(f64x2.mul(bz, cx), f64x2.mul(bx, cz));
    const nz = f64x2.sub(f64x2.mul(bx, cy), f64x2.mul(by, cx));
    const nn = dot(nx, ny, nz, nx, ny, nz);
    const flux = dot(ux, uy, uz, nx, ny, nz);
    const f = f64x2.mul(twelfth, f64x2.abs(flux));
    const lifted = f64x2.mul(f64x2.mul(lifts, f), f64x2.sqrt(f64x2.div(dot(ux, uy, uz, ux, uy, uz), nn)));
    const fd = f64x2.mul(f, drags), fl = v128.bitselect(f64x2.neg(lifted), lifted, f64x2.lt(flux, zero));
    const some = f64x2.gt(nn, zero);
    const fx = v128.and(some, f64x2.add(f64x2.mul(fd, ux), f64x2.mul(fl, nx)));
    const fy = v128.and(some, f64x2.add(f64x2.mul(fd, uy), f64x2.mul(fl, ny)));
    const fz = v128.and(some, f64x2.add(f64x2.mul(fd, uz), f64x2.mul(fl, nz)));
    const x0 = f64x2.extract_lane(fx, 0), y0 = f64x2.extract_lane(fy, 0), z0 = f64x2.extract_lane(fz, 0);
    push(P + i, x0, y0, z0); push(P + j, x0, y0, z0); push(P + k, x0, y0, z0);
    if (!two) break;
    const x1 = f64x2.extract_lane(fx, 1), y1 = f64x2.extract_lane(fy, 1), z1 = f64x2.extract_lane(fz, 1);
    push(P + p, x1, y1, z1); push(P + q, x1, y1, z1); push(P + r, x1, y1, z1);
  }
}
