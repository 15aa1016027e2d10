import type { Shot } from '../shot/index';

/** What keeps a part from moving as one would like, where, and what would cure it. */
export interface Diagnosis {
  /** A few words that name it; each kind of part has its own. */
  readonly cause: string;
  readonly partId: string;
  /** Frames it concerns, first and last. */
  readonly frames: readonly [number, number];
  readonly sentence: string;
  readonly remedy: Remedy;
}

/** One change to the shot, as data: what to press, and what it sets. */
export interface Remedy {
  readonly says: string;
  readonly change:
    | { readonly kind: 'setting'; readonly key: string; readonly value: number }
    /** Fields of the part's document. */
    | { readonly kind: 'part'; readonly set: Readonly<Record<string, unknown>> }
    | { readonly kind: 'shot'; readonly set: Partial<Pick<Shot, 'start' | 'substeps' | 'fps'>> }
    | { readonly kind: 'unmute' }
    /** A light wind on this part, and a thickness (m) for it to take hold of where there is none. */
    | { readonly kind: 'breeze'; readonly thickness: number }
    /** What one unit of the file is, m. */
    | { readonly kind: 'unit'; readonly metres: number }
    /** The joint it hangs from (a node and its name) swings a little, once a time, about an axis of its own. */
    | {
        readonly kind: 'swing';
        readonly joint: { readonly node: number; readonly name: string };
        readonly axis: readonly [number, number, number];
      }
    | { readonly kind: 'leave out'; readonly colliders: readonly string[] };
}

/** How a part answers one quick turn: what an animator reads, in frames of the shot. */
export interface Feel {
  /** Frames from the body passing half of the turn to the part passing half of it. */
  readonly lag: number;
  /** How far the part goes past the turn, in % of it. */
  readonly overshoot: number;
  /** Frames from the body's stop until the part stays within 5 % of the turn. */
  readonly settle: number;
  /** The answer itself: share of the turn at each frame from the start of the turn, for drawing. */
  readonly curve: Float64Array;
  /** Degrees by which its tip, seen from its root, rests below its source under the shot's gravity, where it can. */
  readonly droop?: number;
}

/** What a feel should be; what is not said may be anything. */
export interface AskedFeel {
  readonly lag?: number;
  readonly overshoot?: number;
  readonly settle?: number;
  /** Asked by itself. */
  readonly droop?: number;
}

export interface FittedFeel {
  /** Settings of the part that give it. */
  readonly settings: Readonly<Record<string, number>>;
  readonly feel: Feel;
  /** Why what was asked could not be had, or ''. */
  readonly why: string;
}

/** Lag, overshoot and settle of a part on the shot itself, beside those on the standard quick turn. */
export interface ShotFeel {
  /** Frame of the largest stray, and its size: degrees, or what stands for it in a kind. */
  readonly frame: number;
  readonly swing: number;
  /**
   * Frames after it until the stray stays within 5 % of the swing above where it ends up; Infinity when it does not.
   */
  readonly settle: number;
  /** Frames by which the part trails its source, where the two agree best; NaN when the source hardly moves. */
  readonly lag: number;
  /** How far it goes past the source's largest turn from one reversal or stop to the next, in % of that turn. */
  readonly overshoot: number;
}

/** A fit is good when what is asked is met to this share (and this much of a frame or of a %). */
const GOOD = 0.05;
const GOOD_LEAST = 0.05;

/** Says which of the asked readouts a feel misses, and by what; '' when it misses none. */
export function missed(asked: AskedFeel, feel: Feel): string {
  const why: string[] = [];
  for (const key of ['lag', 'overshoot', 'settle'] as const) {
    const want = asked[key];
    if (want === undefined) continue;
    const got = feel[key];
    if (Math.abs(got - want) <= Math.max(GOOD * want, GOOD_LEAST)) continue;
    const unit = key === 'overshoot' ? '%' : 'frames';
    why.push(`${key} comes out at ${got.toFixed(1)} ${unit}, not ${want}`);
  }
  return why.join('; ');
}
