import type { Field } from '../../solver/index';
import type { Strands } from '../../solver/strands/index';

const felt = new Float64Array(6);

/** Pushes points of strands by the air across their links, and by what attracts them; see `Strands.blow`. */
export function blowStrands(
  strands: Strands,
  field: Field | null,
  { per, lift }: { readonly per: number; readonly lift: number },
): void {
  const { first, x, roots, push, wind } = strands;
  if (field)
    for (let k = 0; k + 1 < first.length; k++)
      for (let o = 3 * first[k]!; o < 3 * first[k + 1]!; o += 3) {
        felt.fill(0);
        field(felt, x[o]! + roots[7 * k]!, x[o + 1]! + roots[7 * k + 1]!, x[o + 2]! + roots[7 * k + 2]!);
        for (let a = 0; a < 3; a++) {
          wind[o + a] = felt[a]!;
          push[o + a]! += felt[3 + a]!;
        }
      }
  if (per > 0 || lift > 0) strands.blow(per, lift);
}
