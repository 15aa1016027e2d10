/** How one motion trails another, both sampled a frame apart. */

/** Correlations this near are alike. */
const ABOUT_AS_GOOD = 0.05;
/** A turn ends where the source has gone back by this share of its whole range, or stands still. */
const REVERSAL = 0.02;

/**
 * The shift (frames, with a fraction by a parabola through the best three) at which x follows s best: the first that is
 * about as good as any, since a motion that repeats agrees again one period on.
 */
export function lagOf(s: Float64Array, x: Float64Array, longest: number): number {
  const score = (shift: number) => {
    let [xs, xx, ss] = [0, 0, 0];
    for (let f = Math.max(0, shift); f < s.length + Math.min(0, shift); f++) {
      xs += x[f]! * s[f - shift]!;
      xx += x[f]! ** 2;
      ss += s[f - shift]! ** 2;
    }
    return xs / Math.sqrt(xx * ss || 1);
  };
  const most = Math.min(longest, s.length >> 1);
  const scores = Array.from({ length: most + 2 }, (_, k) => score(k - 1));
  const good = Math.max(...scores) - ABOUT_AS_GOOD;
  const peak = scores.findIndex(
    (v, k) => k > 0 && v >= good && v >= scores[k - 1]! && v >= (scores[k + 1] ?? -1),
  );
  if (peak <= 0 || peak === scores.length - 1) return Math.max(0, scores.indexOf(Math.max(...scores)) - 1);
  const [a, b, d] = [scores[peak - 1]!, scores[peak]!, scores[peak + 1]!];
  return Math.max(0, peak - 1 + (a - d) / (2 * (a - 2 * b + d) || 1));
}

/** How far x passes the end of the largest turn of s, in % of that turn. */
export function overshootOf(s: Float64Array, x: Float64Array, range: number): number {
  // Ends of turns: frames from which s goes back by more than a little.
  const ends = [0];
  let way = 0;
  let best = 0;
  for (let f = 1; f < s.length; f++) {
    const gone = (s[f]! - s[best]!) * (way || 1);
    if (way === 0) {
      if (Math.abs(s[f]! - s[0]!) > REVERSAL * range) [way, best] = [Math.sign(s[f]! - s[0]!), f];
    } else if (gone > 1e-3 * range) best = f;
    else if (gone < -REVERSAL * range) {
      ends.push(best);
      way = -way;
      best = f;
    }
  }
  ends.push(best);
  // Where the chain hangs beside its source most of the time is sag, not overshoot.
  const sag = Array.from(x, (v, f) => v - s[f]!).sort((a, b) => a - b)[x.length >> 1]!;
  let most = 0;
  let over = 0;
  for (let k = 1; k < ends.length; k++) {
    const [from, to] = [ends[k - 1]!, ends[k]!];
    const turn = s[to]! - s[from]!;
    if (Math.abs(turn) <= most) continue;
    most = Math.abs(turn);
    over = 0;
    // Until the source's next turn ends, the chain still answers this one.
    for (let f = to; f < (ends[k + 1] ?? s.length); f++) over = Math.max(over, (x[f]! - sag - s[to]!) / turn);
  }
  return 100 * over;
}
