import type { Frames, Rows } from '@oscillum/core/frames';
import type { Advice, Trouble } from './messages';

/** What is known of the simulated shot: fresh up to `frames.done`, beyond it what the settings before had (`stale`). */
export interface Picture {
  readonly frames: Frames | null;
  readonly stale: Frames | null;
  /** Whether those are a coarse answer with the settings of now. */
  readonly rough: boolean;
  readonly running: boolean;
  /** Number of the run whose rows came last. */
  readonly version: number;
  /** Time the workers took for the last whole run, from the first that began to the last that sent, ms. */
  readonly ms: number;
  readonly trouble: Trouble | null;
  /** What is known beyond the frames, of the last run that was looked at; null before the first. */
  readonly advice: Advice | null;
}

/** Before anything is simulated. */
export const NOTHING: Picture = {
  frames: null,
  stale: null,
  rough: false,
  running: false,
  version: 0,
  ms: 0,
  trouble: null,
  advice: null,
};

/** What is said of all shares together, in the order of the parts. */
export function joinAdvice(all: readonly Advice[], order: readonly string[]): Advice {
  return {
    diagnoses: all
      .flatMap((a) => a.diagnoses)
      .sort((a, b) => order.indexOf(a.partId) - order.indexOf(b.partId)),
    feels: Object.assign({}, ...all.map((a) => a.feels)) as Advice['feels'],
    shots: Object.assign({}, ...all.map((a) => a.shots)) as Advice['shots'],
  };
}

/** Frees rows that have been taken up at once, rather than when they are collected, where the browser can. */
export function letGo(rows: Rows): void {
  for (const a of Object.values(rows) as unknown[])
    if (ArrayBuffer.isView(a)) (a.buffer as { transfer?(size: number): unknown }).transfer?.(0);
}

export function sameLayout(a: Frames, b: Frames): boolean {
  return (
    a.first === b.first &&
    a.count === b.count &&
    a.joints.length === b.joints.length &&
    a.joints.every((j, i) => j === b.joints[i])
  );
}

/** Those of two frames that reach farther, the first when both do. */
export const farther = (a: Frames | null, b: Frames | null): Frames | null =>
  a && a.done > 0 && (!b || a.done >= b.done) ? a : b;

/** The frames that hold row f: fresh ones, else those of the settings before. */
export function framesAt(picture: Picture, f: number): Frames | null {
  const { frames, stale } = picture;
  if (frames && f < frames.done) return frames;
  return stale && f < stale.done ? stale : null;
}

/** The whole range with the settings of now, if only coarsely; null while the answer is not there yet. */
export const answered = ({ running, rough, frames, stale }: Picture): Frames | null =>
  rough ? stale : running ? null : frames;
