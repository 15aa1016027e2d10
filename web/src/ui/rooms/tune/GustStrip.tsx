import { useMemo } from 'react';
import type { Force } from '@oscillum/core/model';
import { forceField } from '@oscillum/core/simulate';
import { selectShot, useAppSelector } from '../../../state/store';

const WIDTH = 240;
const HEIGHT = 44;

/** Speed of a wind over the frames of the shot, gusts and keys included, and where the frame is. */
export function GustStrip({ wind }: { wind: Extract<Force, { kind: 'wind' }> }) {
  const { range, fps } = useAppSelector(selectShot)!;
  const frame = useAppSelector((s) => s.view.frame);
  const { path, most } = useMemo(() => {
    const field = forceField({ ...wind, turbulence: 0 }, fps);
    const out = new Float64Array(6);
    const count = Math.min(WIDTH, range.last - range.first) || 1;
    const speeds = Array.from({ length: count + 1 }, (_, k) => {
      field.at(range.first + (k / count) * (range.last - range.first));
      out.fill(0);
      field.add(out, 0, 0, 0);
      return Math.hypot(out[0]!, out[1]!, out[2]!);
    });
    const top = Math.max(1, ...speeds);
    const points = speeds.map(
      (v, k) => `${((k / count) * WIDTH).toFixed(1)},${(HEIGHT - 2 - (v / top) * (HEIGHT - 6)).toFixed(1)}`,
    );
    return { path: `M${points.join('L')}`, most: Math.max(...speeds) };
  }, [wind, fps, range.first, range.last]);
  const at = ((frame - range.first) / Math.max(1, range.last - range.first)) * WIDTH;
  return (
    <figure className="strip">
      <svg
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        preserveAspectRatio="none"
        role="img"
        aria-label={`Speed of ${wind.name} over the shot, at most ${most.toFixed(1)} m/s`}
      >
        <path d={`${path}L${WIDTH},${HEIGHT}L0,${HEIGHT}Z`} className="area" />
        <path d={path} className="curve" />
        <line x1={at} x2={at} y1={0} y2={HEIGHT} className="now" />
      </svg>
      <figcaption className="muted small">over the shot, up to {most.toFixed(1)} m/s</figcaption>
    </figure>
  );
}
