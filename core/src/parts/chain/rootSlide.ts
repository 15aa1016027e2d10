/** Hz below which a shifting root does not sink, however small its hold. */
const LEAST_HZ = 0.5;

const was = new Float64Array(3);

/**
 * The root of a chain gives way on a damped spring of the chain's own hold, up to `slide` m. `slid` holds its place
 * and speed off its source, `speeds` the source root's speed in the step before; `before` and `now` are the source
 * root's places at both ends of the step of h seconds, `pull` the acceleration it feels.
 */
export function sink(
  slid: Float64Array,
  speeds: Float64Array,
  before: Float64Array,
  now: Float64Array,
  pull: Float64Array,
  how: { readonly hold: number; readonly damping: number; readonly slide: number; readonly h: number },
): void {
  const { h, slide } = how;
  const omega = 2 * Math.PI * Math.max(LEAST_HZ, how.hold);
  const zeta = Math.max(0.05, how.damping);
  for (let a = 0; a < 3; a++) was[a] = slid[a]!;
  // Seen from the source's root, which moves on by `way`, the place falls back by as much.
  for (let a = 0; a < 3; a++) {
    const way = now[a]! - before[a]!;
    const rootSpeed = way / h;
    const drive = (rootSpeed - speeds[a]!) / h;
    speeds[a] = rootSpeed;
    // Trapezoidal rule for o″ = −ω² o − 2ζω o′ − a.
    const k = omega * omega;
    const d = 2 * zeta * omega;
    const g = pull[a]! - drive;
    const speed =
      (slid[3 + a]! * (1 - (h / 2) * d - (h * h * k) / 4) + h * (g - k * was[a]!)) /
      (1 + (h / 2) * d + (h * h * k) / 4);
    slid[a] = was[a]! + (h / 2) * (speed + slid[3 + a]!);
    slid[3 + a] = speed;
  }
  const l = Math.sqrt(slid[0]! ** 2 + slid[1]! ** 2 + slid[2]! ** 2);
  if (l > slide) {
    for (let a = 0; a < 3; a++) slid[a]! *= slide / l;
    slid.fill(0, 3, 6);
  }
}
