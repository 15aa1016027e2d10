import type { StrandsPart } from '@oscillum/core/strands';
import type { StagePart } from '../kind';

/** Strands are drawn as hair; of the chosen ones the guides are drawn in ink. */
export const strandsInk: StagePart<StrandsPart> = {
  ...{ line: () => [], dots: () => [] },
  guides: (part, { posed }) => {
    const places = posed.curves.get(part.id);
    if (!places) return new Float64Array(0);
    const out: number[] = [];
    let from = 0;
    for (const n of part.groom.points) {
      for (let i = from; i + 1 < from + n; i++) out.push(...places.subarray(3 * i, 3 * i + 6));
      from += n;
    }
    return Float64Array.from(out);
  },
};
