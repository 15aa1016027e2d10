import { quatNormalise } from '../../math/index';
import { wholeStep, type StepBody } from '../../solver/cloth/index';
import { finishBody, type Body } from '../../solver/index';

/** Bodies as a soft body meets them, whose steps are longer or shorter than the shot's. */
export class Meets {
  readonly bodies: readonly StepBody[];
  /** How much of the shot's step is over. */
  private over = 1;

  constructor(readonly pushed: readonly Body[]) {
    this.bodies = pushed.map((b) => {
      const [whole, own] = [Float64Array.from(b.places), Float64Array.from(b.places)];
      return {
        ...wholeStep({ ...b, places: whole, before: whole.subarray(0, 7), now: whole.subarray(7) }),
        ...{ places: own, before: own.subarray(0, 7), now: own.subarray(7) },
      };
    });
  }

  /** Puts them where they stand, at rest. */
  begin(): void {
    this.over = 1;
    this.go(1);
    for (const { before, now, whole } of this.bodies) {
      before.set(now);
      whole.before.set(now);
    }
  }

  /** They go from where they were to a share of the way that the shot's step takes them. */
  go(share: number): void {
    const from = this.over === 1 ? 0 : this.over;
    this.over = share;
    this.bodies.forEach((own, k) => {
      const { now, bound, fixed } = this.pushed[k]!;
      const { whole } = own;
      if (from === 0) {
        whole.before.set(whole.now);
        whole.now.set(now);
      }
      Object.assign(own, { from, to: share, fixed });
      own.before.set(own.now);
      whole.bound = own.bound = bound;
      let sign = 0;
      for (let a = 3; a < 7; a++) sign += whole.before[a]! * whole.now[a]!;
      for (let a = 0; a < 7; a++) {
        const to = a > 2 && sign < 0 ? -whole.now[a]! : whole.now[a]!;
        own.now[a] = share === 1 ? whole.now[a]! : whole.before[a]! + share * (to - whole.before[a]!);
      }
      quatNormalise(own.now, 3);
    });
  }

  /** Gives what moves freely what it got in a step. */
  finish(): void {
    for (const b of this.pushed) if (b.free) finishBody(b, 0);
  }

  get state(): readonly Float64Array[] {
    return this.bodies.flatMap((b) => [b.now, b.whole.now]);
  }
}
