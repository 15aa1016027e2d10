import type { Touchable } from '../kind';
import type { Spring } from './document';

/** Springs between two chains: to be pulled once both have stepped. */
export interface Springs {
  begin(): void;
  /** Pushes both chains by equal and opposite forces, which act in their next steps. */
  pull(): void;
  /** Rest lengths in the step before, m. */
  readonly memory: Float64Array;
}

/** Springs that a point may hang in at once: one to either side. */
const SIDES = 2;

/**
 * Springs between the points of like number of two chains, from the first joint below the root on. Their rest lengths
 * are the source's of the moment; a step is h seconds. Each is a damped spring taken implicitly on the reduced mass of
 * its two points, F = −(k C + (c + h k) Ċ) / (1 + S h (c + h k) / μ), so that it is stable however stiff (S = 2: a
 * point may hang in two). Forces on the two are equal and opposite: momentum is kept.
 */
export function makeSprings(a: Touchable, b: Touchable, spring: Spring, h: number): Springs {
  const count = Math.min(a.mass.length, b.mass.length);
  const memory = new Float64Array(count);
  const omega = 2 * Math.PI * spring.stiffness;
  const lengthAt = (list: 'x' | 'source', p: number): number =>
    Math.sqrt(
      (b[list][p]! - a[list][p]!) ** 2 +
        (b[list][p + 1]! - a[list][p + 1]!) ** 2 +
        (b[list][p + 2]! - a[list][p + 2]!) ** 2,
    );
  const rest = () => {
    for (let i = 0; i < count; i++) memory[i] = lengthAt('source', 3 * i + 3);
  };
  return {
    memory,
    begin: rest,
    pull: () => {
      for (let i = 0; i < count; i++) {
        const p = 3 * i + 3;
        const length = lengthAt('x', p);
        const wanted = lengthAt('source', p);
        const grows = (wanted - memory[i]!) / h;
        memory[i] = wanted;
        if (length < 1e-12) continue;
        const [ma, mb] = [a.mass[i]! + a.hung[i]!, b.mass[i]! + b.hung[i]!];
        const reduced = 1 / (1 / ma + 1 / mb);
        const k = reduced * omega * omega;
        const c = 2 * spring.damping * reduced * omega;
        let speed = -grows;
        for (let x = 0; x < 3; x++)
          speed += ((b.v[p + x]! - a.v[p + x]!) * (b.x[p + x]! - a.x[p + x]!)) / length;
        const force =
          -(k * (length - wanted) + (c + h * k) * speed) / (1 + (SIDES * h * (c + h * k)) / reduced);
        for (let x = 0; x < 3; x++) {
          const along = (force * (b.x[p + x]! - a.x[p + x]!)) / length;
          a.push[3 * i + x]! -= along / ma;
          b.push[3 * i + x]! += along / mb;
        }
      }
      a.pushed();
      b.pushed();
    },
  };
}
