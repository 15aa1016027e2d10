import { pointSpans, sizesOf, type Frames } from '../frames/index';
import type { BakedCurves } from '../formats/gltf/index';
import { kindOf } from '../parts/index';
import type { Shot } from '../shot/index';
import type { BakeOptions } from './options';

/** Strands of the chosen parts on every simulated frame; `inside` has the moments that are written. */
export function curvesOf(
  shot: Shot,
  frames: Frames,
  inside: readonly { readonly frame: number; readonly row: unknown }[],
  o: Pick<BakeOptions, 'parts'>,
  shift: number,
): BakedCurves[] {
  const whole = inside.flatMap(({ frame, row }) => (typeof row === 'number' ? [{ frame, row }] : []));
  const wide = sizesOf(frames).points;
  return frames.parts.flatMap((c, p) => {
    const part = shot.parts[c.partId];
    const look = part && kindOf(part).curveLook?.(part);
    if (!look || (o.parts && !o.parts.includes(c.partId))) return [];
    return pointSpans(frames, p).flatMap(({ curves, from, to, node }): BakedCurves[] => {
      if (!curves) return [];
      const size = 3 * (to - from);
      const values = new Float64Array(size * whole.length);
      whole.forEach(({ row }, k) =>
        values.set(frames.points.subarray(3 * (row * wide + from), 3 * (row * wide + to)), size * k),
      );
      const times = Float64Array.from(whole, (m) => m.frame / shot.fps + shift);
      return [{ part: part.id, name: part.name, node, counts: curves.counts, ...look, times, values }];
    });
  });
}
