// pose.ts two numbers at a time.
import { Floats, Index } from '../numbers';
import { matrixOf } from './matrix';

export function placeAll(out: Floats, placed: Floats, list: Floats, count: Index, by: Floats): void {
  matrixOf(by, placed);
  const ax = f64x2.replace_lane(f64x2.splat(by[0]), 1, by[1]), ay = f64x2.replace_lane(f64x2.splat(by[3]), 1, by[4]);
  const az = f64x2.replace_lane(f64x2.splat(by[6]), 1, by[7]), at = f64x2.replace_lane(f64x2.splat(by[9]), 1, by[10]);
  const bx = by[2], by_ = by[5], bz = by[8], bt = by[11];
  let p = changetype<usize>(list), o = changetype<usize>(out);
  for (let k = 0; k < count; k++, p += 24, o += 24) {
    const x = load<f64>(p), y = load<f64>(p, 8), z = load<f64>(p, 16);
    const xy = f64x2.add(f64x2.mul(ax, f64x2.splat(x)), f64x2.mul(ay, f64x2.splat(y)));
    v128.store(o, f64x2.add(f64x2.add(xy, f64x2.mul(az, f64x2.splat(z))), at));
    store<f64>(o, bx * x + by_ * y + bz * z + bt, 16);
  }
}

export function blendAll(out: Floats, a: Floats, b: Floats, share: f64, count: Index): void {
  const s = f64x2.splat(share);
  let o = changetype<usize>(out), p = changetype<usize>(a), q = changetype<usize>(b);
  const end = o + (<usize>(count & ~1) << 3);
  for (; o < end; o += 16, p += 16, q += 16) {
    const from = v128.load(p);
    v128.store(o, f64x2.add(from, f64x2.mul(s, f64x2.sub(v128.load(q), from))));
  }
  if (count & 1) store<f64>(o, load<f64>(p) + share * (load<f64>(q) - load<f64>(p)));
}
