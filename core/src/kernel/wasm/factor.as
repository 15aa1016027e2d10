// factor.ts two numbers at a time: the same products and differences, so the same bits.
import { Floats } from './numbers';

export const PAD8: i32 = 8;

@inline function pair(at: usize, m: v128, l: f64): void {
  v128.store(at, f64x2.sub(v128.load(at), f64x2.mul(m, f64x2.splat(l))));
}
@inline function single(at: usize, m: f64, l: f64): void {
  store<f64>(at, load<f64>(at) - m * l);
}
export function bandFactor8(a: Floats, n: i32): void {
  let c = changetype<usize>(a);
  const end = c + <usize>(n * 72);
  for (; c < end; c += 72) {
    const d = load<f64>(c);
    const inverse = 1 / (d > 1e-300 ? d : 1e-300);
    const l12 = v128.load(c, 8), l34 = v128.load(c, 24), l56 = v128.load(c, 40), l78 = v128.load(c, 56);
    const by = f64x2.splat(inverse);
    const m12 = f64x2.mul(l12, by), m34 = f64x2.mul(l34, by), m56 = f64x2.mul(l56, by), m78 = f64x2.mul(l78, by);
    const m23 = v128.shuffle<f64>(m12, m34, 1, 2), m45 = v128.shuffle<f64>(m34, m56, 1, 2), m67 = v128.shuffle<f64>(m56, m78, 1, 2);
    const m8 = f64x2.extract_lane(m78, 1);
    let l = f64x2.extract_lane(l12, 0);
    pair(c + 72, m12, l); pair(c + 88, m34, l); pair(c + 104, m56, l); pair(c + 120, m78, l);
    l = f64x2.extract_lane(l12, 1);
    pair(c + 144, m23, l); pair(c + 160, m45, l); pair(c + 176, m67, l); single(c + 192, m8, l);
    l = f64x2.extract_lane(l34, 0);
    pair(c + 216, m34, l); pair(c + 232, m56, l); pair(c + 248, m78, l);
    l = f64x2.extract_lane(l34, 1);
    pair(c + 288, m45, l); pair(c + 304, m67, l); single(c + 320, m8, l);
    l = f64x2.extract_lane(l56, 0);
    pair(c + 360, m56, l); pair(c + 376, m78, l);
    l = f64x2.extract_lane(l56, 1);
    pair(c + 432, m67, l); single(c + 448, m8, l);
    l = f64x2.extract_lane(l78, 0);
    pair(c + 504, m78, l);
    l = f64x2.extract_lane(l78, 1);
    single(c + 576, m8, l);
    store<f64>(c, inverse);
    v128.store(c, m12, 8); v128.store(c, m34, 24); v128.store(c, m56, 40); v128.store(c, m78, 56);
  }
}
