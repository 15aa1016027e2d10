import type { Field } from '../../solver/index';
import type { Strands } from '../../solver/strands/index';

/** Air takes no more than this share of the speed against it in a step. */
const MOST = 0.5;
const felt = new Float64Array(6);

/**
 * Pushes points of strands by the air across their links, and by what attracts them. `per` is 1/m: what air of a speed
 * across it slows a link by is per / 2 times the square of that speed (a rod across a stream). `lift` is that share of
 * it across the stream, in the plane of stream and link, where the link stands aslant.
 */
export function blowStrands(
  { first, x, way, went, roots, push, fields }: Strands,
  h: number,
  field: Field | null,
  { per, lift }: { readonly per: number; readonly lift: number },
): void {
  if (!(per > 0) && !(lift > 0) && !field) return;
  const { turn, d } = fields;
  if (!field) felt.fill(0);
  for (let k = 0; k + 1 < first.length; k++) {
    const m = 9 * k,
      r = 3 * k;
    for (let o = 3 * first[k]!; o < 3 * first[k + 1]!; o += 3) {
      if (field) {
        felt.fill(0);
        field(felt, x[o]! + roots[7 * k]!, x[o + 1]! + roots[7 * k + 1]!, x[o + 2]! + roots[7 * k + 2]!);
        for (let a = 0; a < 3; a++) push[o + a]! += felt[3 + a]!;
      }
      if (!(per > 0) && !(lift > 0)) continue;
      const dx = d[o]!,
        dy = d[o + 1]!,
        dz = d[o + 2]!;
      const lx = turn[m]! * dx + turn[m + 1]! * dy + turn[m + 2]! * dz,
        ly = turn[m + 3]! * dx + turn[m + 4]! * dy + turn[m + 5]! * dz,
        lz = turn[m + 6]! * dx + turn[m + 7]! * dy + turn[m + 8]! * dz;
      let ux = felt[0]! - (way[o]! + went[r]!) / h,
        uy = felt[1]! - (way[o + 1]! + went[r + 1]!) / h,
        uz = felt[2]! - (way[o + 2]! + went[r + 2]!) / h;
      const along = ux * lx + uy * ly + uz * lz;
      const speed = lift > 0 ? Math.sqrt(ux * ux + uy * uy + uz * uz) : 0;
      if (speed > 1e-9) {
        // What hangs is lifted into the stream: −(l − (l·û) û)(l·û), as chains are.
        const c = along / speed;
        const q = Math.min((lift / 2) * speed, MOST / h) * c;
        push[o] = push[o]! - q * (lx * speed - c * ux);
        push[o + 1] = push[o + 1]! - q * (ly * speed - c * uy);
        push[o + 2] = push[o + 2]! - q * (lz * speed - c * uz);
      }
      ux -= along * lx;
      uy -= along * ly;
      uz -= along * lz;
      const by = Math.min((per / 2) * Math.sqrt(ux * ux + uy * uy + uz * uz), MOST / h);
      push[o] = push[o]! + by * ux;
      push[o + 1] = push[o + 1]! + by * uy;
      push[o + 2] = push[o + 2]! + by * uz;
    }
  }
}
