/** A ball that is found on the wrong side of a surface by more than this (cosine) is put back to where it came from. */
const WRONG = 0.2;

/**
 * The way out of a ball for a point of a surface that the ball has overtaken: it would be pushed outwards, and let the
 * ball through. It is pushed inwards instead, before the ball. Writes the normal into `normal` (3 numbers at `o`) and
 * returns how far the point is from the ball along it (m); null where the ball is on the right side.
 */
export function beforeBall(
  normal: Float64Array,
  o: number,
  ball: { readonly at: ArrayLike<number>; readonly radius: number },
  place: ArrayLike<number>,
  facing: Float64Array,
  p: number,
): number | null {
  const long = Math.sqrt(facing[p]! ** 2 + facing[p + 1]! ** 2 + facing[p + 2]! ** 2);
  if (!(long > 0)) return null;
  let out = 0;
  for (let a = 0; a < 3; a++) out += (normal[o + a]! * facing[p + a]!) / long;
  if (out <= WRONG) return null;
  let far = -ball.radius;
  for (let a = 0; a < 3; a++) {
    normal[o + a] = -facing[p + a]! / long;
    far += normal[o + a]! * (place[p + a]! - ball.at[a]!);
  }
  return far;
}

/** A ball is fast that goes farther in a step than this share of its radius. */
const FAST = 0.1;

/**
 * How far a touch (its normal at `o`) stands in the way of a ball that goes fast, by how far that is carried in a step
 * there (m): the square of a cosine; 0 where it is slow, or goes away.
 */
export function standsAgainst(
  normal: Float64Array,
  carried: Float64Array,
  o: number,
  radius: number,
): number {
  let [along, way] = [0, 0];
  for (let a = o; a < o + 3; a++) {
    along += normal[a]! * carried[a]!;
    way += carried[a]! ** 2;
  }
  return along > 0 && way > (FAST * radius) ** 2 ? (along * along) / way : 0;
}
