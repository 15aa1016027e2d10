import { keysOf, plainFrame, readSlope, type Curves, type Ground } from '@oscillum/core/refine';
import { xOf, yOf, type DrawnCurve, type Scale, type SlopeHandle } from './draw';

/** Handles of slopes are drawn this far from their key, as a share of the way to the next one, or px. */
const REACH = 1 / 3;
const SHORTEST = 26;
/** Of more curves or keys than this they could not be told apart. */
const MOST_CURVES = 3;
const MOST_KEYS = 4;

/** Where the slopes of chosen keys are drawn. */
export function handlesOf(
  curves: readonly DrawnCurve[],
  now: Curves,
  shown: readonly boolean[],
  scale: Scale,
  ground: Ground,
): SlopeHandle[] {
  if (curves.length > MOST_CURVES) return [];
  return curves.flatMap(({ key, now: read, chosen }) => {
    const c = now.get(key);
    if (c?.interpolation !== 'CUBICSPLINE' || chosen.size === 0 || chosen.size > MOST_KEYS) return [];
    const keys = keysOf(c, ground);
    const rest = ground.character.nodes[c.node]!.r;
    return keys.flatMap((k, i) => {
      const frame = plainFrame(k.frame);
      const n = read.keys.indexOf(frame);
      if (!chosen.has(frame) || n < 0) return [];
      return (['in', 'out'] as const).flatMap((side) => {
        const beside = keys[side === 'in' ? i - 1 : i + 1];
        if (!beside) return [];
        // Never so short that it would lie on its key.
        const long = (SHORTEST / scale.width) * (scale.to - scale.from);
        const way = Math.max(REACH * Math.abs(beside.frame - frame), long) * (side === 'in' ? -1 : 1);
        const slopes = readSlope(k, side === 'in' ? 0 : 1, c.path, rest, ground.fps);
        return shown.flatMap((visible, component): SlopeHandle[] => {
          if (!visible) return [];
          const value = read.values[3 * n + component]!;
          return [
            {
              ...{ key, frame, side, component },
              ...{ atX: xOf(scale, frame), atY: yOf(scale, value) },
              ...{ x: xOf(scale, frame + way), y: yOf(scale, value + way * slopes[component]!) },
            },
          ];
        });
      });
    });
  });
}
