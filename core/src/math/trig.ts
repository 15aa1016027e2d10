/**
 * Sine, cosine, arctangent and exponential that give the same bits on every engine.
 *
 * ECMAScript leaves Math.sin, Math.exp and the like unspecified in the last bit, so nothing that reaches the
 * simulation state may use them. Square roots and the four operations are exact in IEEE 754 and stay as they are.
 * Polynomials: the fdlibm kernels (Sun Microsystems, 1993), good to about one unit in the last place.
 */

const PIO2_HI = 1.5707963267341256;
const PIO2_MID = 6.0771005063039659766e-11;
const PIO2_LO = 2.0222662487959506e-21;
const TWO_OVER_PI = 0.6366197723675814;

function kernelSin(x: number): number {
  const z = x * x;
  const r =
    8.33333333332248946124e-3 +
    z *
      (-1.98412698298579493134e-4 +
        z * (2.75573137070700676789e-6 + z * (-2.50507602534068634195e-8 + z * 1.58969099521155010221e-10)));
  return x + z * x * (-1.66666666666666324348e-1 + z * r);
}

function kernelCos(x: number): number {
  const z = x * x;
  const r =
    z *
    (4.16666666666666019037e-2 +
      z *
        (-1.38888888888741095749e-3 +
          z *
            (2.48015872894767294178e-5 +
              z *
                (-2.75573143513906633035e-7 +
                  z * (2.0875723212981748279e-9 + z * -1.13596475577881948265e-11)))));
  return 1 - (0.5 * z - z * r);
}

/** Sine of x radians; accurate to 1e-15 for |x| below 1e5 and never outside [-1, 1]. */
export function sin(x: number): number {
  const n = Math.round(x * TWO_OVER_PI);
  const y = x - n * PIO2_HI - n * PIO2_MID - n * PIO2_LO;
  switch (((n % 4) + 4) % 4) {
    case 0:
      return kernelSin(y);
    case 1:
      return kernelCos(y);
    case 2:
      return -kernelSin(y);
    default:
      return -kernelCos(y);
  }
}

/** Cosine of x radians; see {@link sin}. */
export function cos(x: number): number {
  const n = Math.round(x * TWO_OVER_PI);
  const y = x - n * PIO2_HI - n * PIO2_MID - n * PIO2_LO;
  switch (((n % 4) + 4) % 4) {
    case 0:
      return kernelCos(y);
    case 1:
      return -kernelSin(y);
    case 2:
      return -kernelCos(y);
    default:
      return kernelSin(y);
  }
}

const ATAN_C = [
  3.33333333333329318027e-1, -1.99999999998764832476e-1, 1.42857142725034663711e-1, -1.1111110405462355788e-1,
  9.09088713343650656196e-2, -7.69187620504482999495e-2, 6.66107313738753120669e-2,
  -5.83357013379057348645e-2, 4.97687799461593236017e-2, -3.6531572744216915527e-2, 1.62858201153657823623e-2,
] as const;

function atanPositive(x: number): number {
  let hi = 0;
  let t = x;
  if (x >= 2.4375) {
    hi = 1.5707963267948966;
    t = -1 / x;
  } else if (x >= 1.1875) {
    hi = 0.982793723247329;
    t = (x - 1.5) / (1 + 1.5 * x);
  } else if (x >= 0.6875) {
    hi = 0.7853981633974483;
    t = (x - 1) / (x + 1);
  } else if (x >= 0.4375) {
    hi = 0.4636476090008061;
    t = (2 * x - 1) / (2 + x);
  }
  const z = t * t;
  const w = z * z;
  const s1 =
    z * (ATAN_C[0] + w * (ATAN_C[2] + w * (ATAN_C[4] + w * (ATAN_C[6] + w * (ATAN_C[8] + w * ATAN_C[10])))));
  const s2 = w * (ATAN_C[1] + w * (ATAN_C[3] + w * (ATAN_C[5] + w * (ATAN_C[7] + w * ATAN_C[9]))));
  return hi + (t - t * (s1 + s2));
}

/** Angle of the vector (x, y) in radians, in (-π, π]; 0 for the zero vector. */
export function atan2(y: number, x: number): number {
  if (x === 0 && y === 0) return 0;
  const ay = y < 0 ? -y : y;
  const a = x === 0 ? Math.PI / 2 : atanPositive(ay / (x < 0 ? -x : x));
  const b = x < 0 ? Math.PI - a : a;
  return y < 0 ? -b : b;
}

/** e to the power x; 0 below -745, Infinity above 709.78. */
export function exp(x: number): number {
  if (x !== x) return x;
  if (x > 709.78) return Infinity;
  if (x < -745) return 0;
  const k = Math.round(x * 1.4426950408889634);
  const hi = x - k * 6.9314718036912381649e-1;
  const lo = k * 1.90821492927058770002e-10;
  const r = hi - lo;
  const t = r * r;
  const c =
    r -
    t *
      (1.66666666666666019037e-1 +
        t *
          (-2.77777777770155933842e-3 +
            t *
              (6.61375632143793436117e-5 + t * (-1.6533902205465251539e-6 + t * 4.13813679705723846039e-8))));
  let y = 1 - (lo - (r * c) / (2 - c) - hi);
  // Powers of two are exact, so scaling by halves stays exact in the normal range.
  let n = k;
  while (n > 0) {
    const step = n > 1000 ? 1000 : n;
    y *= 2 ** step;
    n -= step;
  }
  while (n < 0) {
    const step = n < -1000 ? 1000 : -n;
    y /= 2 ** step;
    n += step;
  }
  return y;
}

/** Arc cosine for x in [-1, 1] (clamped), in radians. */
export function acos(x: number): number {
  const c = x > 1 ? 1 : x < -1 ? -1 : x;
  return atan2(Math.sqrt((1 - c) * (1 + c)), c);
}
