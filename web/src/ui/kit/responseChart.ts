import type { Feel } from '@oscillum/core/measure';

/** What is read off the answer to a quick turn. */
export type Readout = 'lag' | 'overshoot' | 'settle';

/** Size of the drawing and its margin, in its own units. */
export const WIDTH = 268;
export const HEIGHT = 92;
export const MARGIN = 9;

/** Time the standard turn takes, s: see core/measure. */
const TURN_TIME = 1 / 6;

/** The answers of parts to the standard turn as lines, and where their handles stand. */
export interface ResponseChart {
  /** Frames shown. */
  readonly span: number;
  /** The turn that is answered. */
  readonly turn: string;
  /** A line through an answer's values, rounded at each frame. */
  path(feel: Feel): string;
  /** Where the handle of each readout stands on the first answer; null without one. */
  readonly places: Readonly<Record<Readout, readonly [number, number]>> | null;
  /** What a place in the drawing asks of a readout: frames, or % of overshoot; never below what can be asked. */
  reading(key: Readout, x: number, y: number): number;
}

/** Draws feels at `fps` frames a second. */
export function responseChart(feels: readonly Feel[], fps: number): ResponseChart {
  const first = feels[0];
  const turn = TURN_TIME * fps;
  const settle = first && Number.isFinite(first.settle) ? first.settle : 4 * turn;
  const span = Math.max(3 * turn, Math.min(240, 1.25 * (turn + settle)));
  const most = Math.max(1.25, ...feels.map((f) => 1.12 + f.overshoot / 100));
  const least = Math.min(-0.05, ...feels.flatMap((f) => Array.from(f.curve)));
  const x = (frame: number) => MARGIN + (Math.min(frame, span) / span) * (WIDTH - 2 * MARGIN);
  const y = (share: number) => HEIGHT - MARGIN - ((share - least) / (most - least)) * (HEIGHT - 2 * MARGIN);
  return {
    span,
    turn: `M${x(0)} ${y(0)}L${x(turn / 2)} ${y(0.5)}L${x(turn)} ${y(1)}L${x(span)} ${y(1)}`,
    path: ({ curve }) =>
      roundedPath(Array.from(curve.subarray(0, Math.ceil(span) + 1), (v, k) => [x(k), y(v)] as const)),
    places: first
      ? {
          lag: [x(turn / 2 + Math.min(span, first.lag)), y(0.5)],
          overshoot: [x(first.curve.indexOf(Math.max(...first.curve))), y(1 + first.overshoot / 100)],
          settle: [x(turn + settle), y(1)],
        }
      : null,
    reading: (key, px, py) => {
      const frame = ((px - MARGIN) / (WIDTH - 2 * MARGIN)) * span;
      const share = ((HEIGHT - MARGIN - py) / (HEIGHT - 2 * MARGIN)) * (most - least) + least;
      const v = key === 'lag' ? frame - turn / 2 : key === 'settle' ? frame - turn : (share - 1) * 100;
      return Math.max(key === 'overshoot' ? 0 : 0.2, Number(v.toFixed(1)));
    },
  };
}

/** A line through points that turns at each in a curve. */
function roundedPath(points: readonly (readonly [number, number])[]): string {
  const said = (x: number, y: number) => `${x.toFixed(1)} ${y.toFixed(1)}`;
  return points
    .map(([x, y], k) => {
      if (k === 0) return `M${said(x, y)}`;
      const next = points[k + 1];
      return next ? `Q${said(x, y)} ${said((x + next[0]) / 2, (y + next[1]) / 2)}` : `L${said(x, y)}`;
    })
    .join('');
}

/**
 * How much faster and more damped settings must be for a readout to come to a wanted value, roughly: times go with the
 * period, overshoot falls with damping as the decay of a half swing does.
 */
export function roughly(key: Readout, wanted: number, feel: Feel): { faster: number; damped: number } {
  if (key !== 'overshoot') return { faster: feel[key] / Math.max(0.05, wanted), damped: 1 };
  const decay = (percent: number) => Math.log(100 / Math.min(99, Math.max(0.1, percent)));
  return { faster: 1, damped: decay(wanted) / decay(feel.overshoot) };
}

/** The mean of a readout over parts; null when they differ by more than 5 %, or none has it. */
export function commonReadout(feels: readonly Feel[], key: Readout): number | null {
  const all = feels.map((f) => f[key]).filter(Number.isFinite);
  const m = all.reduce((a, b) => a + b, 0) / all.length;
  return all.length > 0 && all.every((v) => Math.abs(v - m) < 0.05 * m + 0.05) ? m : null;
}
