import type { StrandsPart } from '@oscillum/core/strands';
import type { StagePart } from '../kind';

/** Strands are drawn as hair; of the chosen ones the guides are drawn in ink. */
export const strandsInk: StagePart<StrandsPart> = {
  ...{ line: () => [], dots: () => [] },
  guides: (part, { posed }) => {
    const curves = posed.curves.get(part.id);
    if (!curves) return new Float64Array(0);
    const { places, counts } = curves;
    const out: number[] = [];
    let from = 0;
    for (const n of counts) {
      for (let i = from; i + 1 < from + n; i++) out.push(...places.subarray(3 * i, 3 * i + 6));
      from += n;
    }
    return Float64Array.from(out);
  },
};
