import { z } from 'zod';

/**
 * A profile: points (place along the chain 0..1, multiplier), root to tip, places rising. Between points a monotone
 * cubic, outside them constant. No points is 1 everywhere.
 */
export const Profile = z
  .array(
    z.tuple([
      z
        .number()
        .min(0, { error: 'A profile runs from 0 to 1' })
        .max(1, { error: 'A profile runs from 0 to 1' }),
      z
        .number()
        .min(0, { error: 'A profile scales by 0 or more' })
        .max(10, { error: 'A profile scales by at most 10' }),
    ]),
  )
  .max(32, { error: 'A profile may have at most 32 points' })
  .refine((p) => p.every((q, i) => i === 0 || q[0] > p[i - 1]![0]), {
    error: 'The points of a profile must stand in order from root to tip',
  });
export type Profile = z.infer<typeof Profile>;

/** A key of a value in time. Its kind says how the value goes on to the next key. */
const ValueKey = z.strictObject({
  frame: z.int().min(-100_000).max(1_000_000),
  value: z.number().min(-1e6).max(1e6),
  kind: z.enum(['stepped', 'linear', 'smooth']).default('smooth'),
});
export type ValueKey = z.infer<typeof ValueKey>;

export const ValueKeys = z
  .array(ValueKey)
  .max(5000)
  .refine((keys) => new Set(keys.map((k) => k.frame)).size === keys.length, {
    error: 'Two keys of one setting stand on the same frame',
  });
export type ValueKeys = z.infer<typeof ValueKeys>;

/** The keys with one more, or another value, on a frame; in order. */
export function withKey(keys: ValueKeys, frame: number, value: number): ValueKeys {
  const old = keys.find((k) => k.frame === frame);
  return [...keys.filter((k) => k !== old), { frame, value, kind: old?.kind ?? ('smooth' as const) }].sort(
    (a, b) => a.frame - b.frame,
  );
}

/**
 * Slopes of the monotone cubic through points (x rising): the weighted harmonic mean of the neighbouring slopes, 0 at
 * an extreme, so that the curve never leaves the range of its points (Fritsch and Butland 1984).
 */
function monotoneSlope(x: readonly number[], y: readonly number[], i: number): number {
  if (i === 0 || i === x.length - 1) return 0;
  const a = (y[i]! - y[i - 1]!) / (x[i]! - x[i - 1]!);
  const b = (y[i + 1]! - y[i]!) / (x[i + 1]! - x[i]!);
  if (a * b <= 0) return 0;
  const wa = 2 * x[i + 1]! - x[i]! - x[i - 1]!;
  const wb = x[i + 1]! + x[i]! - 2 * x[i - 1]!;
  return (3 * (x[i + 1]! - x[i - 1]!)) / (wa / b + wb / a);
}

function hermite(x: readonly number[], y: readonly number[], i: number, at: number): number {
  const width = x[i + 1]! - x[i]!;
  const t = (at - x[i]!) / width;
  const m0 = monotoneSlope(x, y, i) * width;
  const m1 = monotoneSlope(x, y, i + 1) * width;
  const t2 = t * t;
  const t3 = t2 * t;
  return (
    (2 * t3 - 3 * t2 + 1) * y[i]! + (t3 - 2 * t2 + t) * m0 + (3 * t2 - 2 * t3) * y[i + 1]! + (t3 - t2) * m1
  );
}

/** The multiplier of a profile at a place along the chain, 0 root to 1 tip. */
export function profileAt(profile: Profile | undefined, place: number): number {
  if (!profile || profile.length === 0) return 1;
  const x = profile.map((p) => p[0]);
  const y = profile.map((p) => p[1]);
  if (place <= x[0]!) return y[0]!;
  for (let i = 0; i + 1 < x.length; i++) if (place <= x[i + 1]!) return hermite(x, y, i, place);
  return y[y.length - 1]!;
}

/**
 * The integral of a keyed value from frame 0 to any frame, in value · frames. It is counted from the first key on,
 * whose value holds before it, so that a change of a later key leaves it as it was up to there. Exact: between keys the
 * curve is at most a cubic, which Simpson's rule integrates without error.
 */
export function makeValueIntegral(keys: ValueKeys): (frame: number) => number {
  const value = makeValueCurve(keys);
  const sorted = [...keys].sort((a, b) => a.frame - b.frame);
  const x = sorted.map((k) => k.frame);
  const y = sorted.map((k) => k.value);
  const last = x.length - 1;
  // A stepped key holds its value up to the next, where the curve itself has the next one's already.
  const piece = (i: number, to: number): number => {
    const width = to - x[i]!;
    if (sorted[i]!.kind === 'stepped') return y[i]! * width;
    const end = to === x[i + 1] ? y[i + 1]! : value(to);
    return (width * (y[i]! + 4 * value((x[i]! + to) / 2) + end)) / 6;
  };
  const before = [x[0]! * y[0]!];
  for (let i = 0; i < last; i++) before.push(before[i]! + piece(i, x[i + 1]!));
  return (frame) => {
    if (frame <= x[0]!) return frame * y[0]!;
    for (let i = 0; i < last; i++) if (frame < x[i + 1]!) return before[i]! + piece(i, frame);
    return before[last]! + (frame - x[last]!) * y[last]!;
  };
}

/** A keyed value ready to be read at any frame; the order of its keys in the document is of no account. */
export function makeValueCurve(keys: ValueKeys): (frame: number) => number {
  const sorted = [...keys].sort((a, b) => a.frame - b.frame);
  const x = sorted.map((k) => k.frame);
  const y = sorted.map((k) => k.value);
  return (frame) => {
    if (frame <= x[0]!) return y[0]!;
    for (let i = 0; i + 1 < x.length; i++) {
      if (frame >= x[i + 1]!) continue;
      if (sorted[i]!.kind === 'stepped') return y[i]!;
      if (sorted[i]!.kind === 'linear')
        return y[i]! + ((y[i + 1]! - y[i]!) * (frame - x[i]!)) / (x[i + 1]! - x[i]!);
      return hermite(x, y, i, frame);
    }
    return y[y.length - 1]!;
  };
}
