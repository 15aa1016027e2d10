// rows.ts two numbers at a time.
import { Floats } from './numbers';

export function blendRows(out: Floats, rows: Floats, width: i32, last: i32, entry: i32, share: f64): void {
  const t = share, t2 = t * t, t3 = t2 * t;
  const wa = (-t3 + 2 * t2 - t) / 2, wb = (3 * t3 - 5 * t2 + 2) / 2, wc = (-3 * t3 + 4 * t2 + t) / 2, wd = (t3 - t2) / 2;
  const bytes = 8 * width;
  const before = entry > 0 ? entry - 1 : 0, after = entry < last ? entry + 1 : last, then = entry + 2 <= last ? entry + 2 : last;
  let a = changetype<usize>(rows) + <usize>(before * bytes);
  let b = changetype<usize>(rows) + <usize>(entry * bytes);
  let c = changetype<usize>(rows) + <usize>(after * bytes);
  let d = changetype<usize>(rows) + <usize>(then * bytes);
  let to = changetype<usize>(out);
  const va = f64x2.splat(wa), vb = f64x2.splat(wb), vc = f64x2.splat(wc), vd = f64x2.splat(wd);
  const end = to + <usize>(bytes & ~15);
  for (; to < end; to += 16, a += 16, b += 16, c += 16, d += 16) {
    const ab = f64x2.add(f64x2.mul(va, v128.load(a)), f64x2.mul(vb, v128.load(b)));
    v128.store(to, f64x2.add(f64x2.add(ab, f64x2.mul(vc, v128.load(c))), f64x2.mul(vd, v128.load(d))));
  }
  if (bytes & 15) store<f64>(to, wa * load<f64>(a) + wb * load<f64>(b) + wc * load<f64>(c) + wd * load<f64>(d));
}
