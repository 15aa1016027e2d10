import type { Field } from '../../solver/index';
import type { Strands } from '../../solver/strands/index';

/** Air takes no more than this share of the speed against it in a step. */
const MOST = 0.5;
const felt = new Float64Array(6);

/**
 * Pushes points of strands by the air across their links, and by what attracts them. `per` is 1/m: what air of a speed
 * across it slows a link by is per / 2 times the square of that speed (a rod across a stream).
 */
export function blowStrands(
  { first, x, way, went, roots, push, fields }: Strands,
  h: number,
  field: Field | null,
  { per }: { readonly per: number },
): void {
  if (!(per > 0) && !field) return;
  const { turn, d } = fields;
  for (let k = 0; k + 1 < first.length; k++) {
    const m = 9 * k;
    for (let i = first[k]!; i < first[k + 1]!; i++) {
      const o = 3 * i;
      felt.fill(0);
      field?.(felt, x[o]! + roots[7 * k]!, x[o + 1]! + roots[7 * k + 1]!, x[o + 2]! + roots[7 * k + 2]!);
      for (let a = 0; a < 3; a++) push[o + a]! += felt[3 + a]!;
      if (!(per > 0)) continue;
      let [along, size] = [0, 0];
      const [u, l] = [
        [0, 0, 0],
        [0, 0, 0],
      ];
      for (let a = 0; a < 3; a++) {
        l[a] = turn[m + 3 * a]! * d[o]! + turn[m + 3 * a + 1]! * d[o + 1]! + turn[m + 3 * a + 2]! * d[o + 2]!;
        u[a] = felt[a]! - (way[o + a]! + went[3 * k + a]!) / h;
        along += u[a]! * l[a]!;
      }
      for (let a = 0; a < 3; a++) {
        u[a]! -= along * l[a]!;
        size += u[a]! * u[a]!;
      }
      const by = Math.min((per / 2) * Math.sqrt(size), MOST / h);
      for (let a = 0; a < 3; a++) push[o + a]! += by * u[a]!;
    }
  }
}
