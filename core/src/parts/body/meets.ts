import { quatNormalise } from '../../math/index';
import { wholeStep, type StepBody } from '../../solver/cloth/index';
import { finishBody, type Body } from '../../solver/index';

/** Bodies as a soft body meets them, whose steps are longer or shorter than the shot's. */
export class Meets {
  readonly bodies: readonly StepBody[];

  constructor(readonly pushed: readonly Body[]) {
    this.bodies = pushed.map((b) => {
      const places = Float64Array.from(b.places);
      return wholeStep({ ...b, places, before: places.subarray(0, 7), now: places.subarray(7) });
    });
  }

  /** Puts them where they stand, at rest. */
  begin(): void {
    this.go(1);
    for (const { before, now } of this.bodies) before.set(now);
  }

  /** They go from where they were to a share of the way that the shot's step takes them. */
  go(share: number): void {
    this.bodies.forEach((own, k) => {
      const { before, now, bound, fixed } = this.pushed[k]!;
      own.before.set(own.now);
      own.whole.bound = own.bound = bound;
      own.fixed = fixed;
      let sign = 0;
      for (let a = 3; a < 7; a++) sign += before[a]! * now[a]!;
      for (let a = 0; a < 7; a++) {
        const to = a > 2 && sign < 0 ? -now[a]! : now[a]!;
        own.now[a] = share === 1 ? now[a]! : before[a]! + share * (to - before[a]!);
      }
      quatNormalise(own.now, 3);
    });
  }

  /** Gives what moves freely what it got in a step. */
  finish(): void {
    for (const b of this.pushed) if (b.free) finishBody(b, 0);
  }

  get state(): readonly Float64Array[] {
    return this.bodies.map((b) => b.now);
  }
}
