import type { StrandStep } from '../../kernel/strands/fields';
import { turnOut } from '../../kernel/strands/vectors';

/**
 * From tip to root: what keeps the points beyond each link from going where they would by themselves, along it; and all
 * that roots give for that.
 */
export function pullsOf(
  fields: StrandStep,
  H: number,
  out: Float64Array | null,
  roots: Float64Array | null = null,
): void {
  const { first, mass, at, yn, dn, cn, load } = fields;
  for (let k = 0; k + 1 < first.length; k++) {
    let [x, y, z] = [0, 0, 0];
    for (let i = first[k + 1]! - 1; i >= first[k]!; i--) {
      const o = 3 * i;
      x += mass[i]! * (yn[o]! - at[o]!) - load[i]! * cn[o]!;
      y += mass[i]! * (yn[o + 1]! - at[o + 1]!) - load[i]! * cn[o + 1]!;
      z += mass[i]! * (yn[o + 2]! - at[o + 2]!) - load[i]! * cn[o + 2]!;
      if (out) out[i] = -(dn[o]! * x + dn[o + 1]! * y + dn[o + 2]! * z) / H;
    }
    if (roots) {
      roots.set([x / H, y / H, z / H], 3 * k);
      turnOut(roots, 3 * k, fields.turn, 9 * k, roots, 3 * k);
    }
  }
}
