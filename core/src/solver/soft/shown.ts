import type { Body } from '../bodies';
import { BodyContacts, type SheetSkin } from '../cloth/contact';
import { wholeStep } from '../cloth/stepBody';

/** What stands inside of others when it is shown is pushed out of them: asked once a frame, of places of a mesh. */
export class ShownOut {
  /** The way out of each place, m, 3 numbers each. */
  readonly out: Float64Array;
  private readonly at: Float64Array;
  private readonly seen: Float64Array;
  private readonly touched: Float64Array;
  private readonly bodies;

  constructor(
    points: number,
    private readonly pushed: readonly Body[],
    private readonly how: () => SheetSkin,
  ) {
    const numbers = (n: number) => new Float64Array(n);
    const make = { numbers, ints: (n: number) => new Int32Array(n) };
    const three = () => numbers(3 * points);
    [this.out, this.at, this.seen, this.touched] = [three(), three(), three(), numbers(points)];
    const { at, seen, touched } = this;
    const none = three();
    const shared = {
      ...{ x: at, old: at, older: at, v: none, w: numbers(points).fill(1), touched, seen, h: 1 },
      ...{ own: numbers(points), gone: numbers(points), skinFrom: at, skinTo: at },
      ...{ allowed: numbers(points), outward: none },
    };
    this.bodies = pushed.map((b) => {
      const [places, whole] = [Float64Array.from(b.places), Float64Array.from(b.places)];
      const step = {
        ...wholeStep({ ...b, places: whole, before: whole.subarray(0, 7), now: whole.subarray(7) }),
        ...{ places, before: places.subarray(0, 7), now: places.subarray(7) },
      };
      return { step, contacts: new BodyContacts(step, shared, make, null) };
    });
  }

  /** Finds the way out of each place. */
  find(places: Float64Array): void {
    const { at, seen, out, touched, pushed } = this;
    at.set(places);
    seen.set(places);
    touched.fill(0);
    out.fill(0);
    const how = this.how();
    this.bodies.forEach(({ step, contacts }, k) => {
      const { now, bound, fixed } = pushed[k]!;
      for (const to of [step.before, step.now, step.whole.before, step.whole.now]) to.set(now);
      step.whole.bound = step.bound = bound;
      step.fixed = fixed;
      contacts.fields.clear.fill(0);
      contacts.tell(true, 0, how);
      contacts.run('findTouches');
      contacts.run('measureTouches');
      const { slot, far, rub } = contacts.fields;
      for (let s = 0; s < contacts.used; s++) {
        const depth = -far[s]! - how.thickness;
        const o = 3 * slot[s]!;
        if (!(depth > 0) || depth * depth <= out[o]! ** 2 + out[o + 1]! ** 2 + out[o + 2]! ** 2) continue;
        for (let a = 0; a < 3; a++) out[o + a] = depth * rub[3 * s + a]!;
      }
    });
  }
}
