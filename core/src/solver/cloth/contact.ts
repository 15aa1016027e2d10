import type { ClothStep } from '../../kernel/cloth/fields';
import { SheetBody } from '../../kernel/touch/fields';
import {
  findTouches,
  finishTouches,
  measureTouches,
  pushOut,
  reactTouches,
  startInside,
} from '../../kernel/touch/touch';
import { numberAt, type Arena, type ClothKernels } from '../arena';
import { SHAPE, sizesOf } from '../shapes';
import type { Make } from './setup';
import type { StepBody } from './stepBody';
import { surfaceFields, surfaceNumbers } from './surfaceFields';

/** How a sheet's points touch bodies. Arrays are one number a point. */
export interface SheetSkin {
  /** m: points keep this distance from bodies. */
  readonly thickness: number;
  /** Coulomb μ: what acts is the geometric mean of it and the body's. */
  readonly friction: number;
}

/** What came of the contacts of a step. */
export interface SheetTouches {
  /** Deepest a point stands inside a body's thickness at the end of the step, m; which one, and in which body. */
  depth: number;
  deepest: number;
  deepIn: number;
  /** Points that press, and the fastest any slides, m/s. */
  pressing: number;
  slip: number;
}

/** How deep a point is inside a body where a sheet begins, m, and in which (−1 for none). */
export interface SheetStart {
  readonly depth: number;
  readonly deepIn: number;
}

export interface SheetContacts {
  /** Finds which points may touch which bodies in the coming step; `turn` is 0 in one frame and 1 in the next. */
  find(fresh: boolean, turn: number): void;
  /** Pushes points out, with friction: called twice a step, and carries on what it pushed before. */
  solve(): void;
  finish(): SheetTouches;
  /** Gives bodies that move freely what they get back of the points they pushed since the last time. */
  react(fall: number): void;
  /** What is inside at the start may stay so, and is let out at this many m/s without gaining speed. */
  allowInside(): SheetStart;
  letOut(): void;
  /** All that it remembers from step to step. */
  readonly memory: readonly Float64Array[];
}

/** Speed at which what begins inside a body comes out of it, m/s. */
export const OUT_SPEED = 0.5;

const REFERENCE = { findTouches, finishTouches, measureTouches, pushOut, reactTouches, startInside };
const empty = new SheetBody();
/** Where the numbers that are told in each step, and those that are said back, stand. */
const TOLD = ['fresh', 'turn', 'from', 'to', 'bound', 'fixed', 'thickness', 'friction', 'h'] as const;
const SAID = ['depth', 'deepest', 'pressing', 'slip', 'used'] as const;
const PLACE = Object.fromEntries([...TOLD, ...SAID].map((k) => [k, numberAt(empty, k)]));

/** Numbers that a body takes of an arena at most, for so many points. */
export const bodyNumbers = (points: number, { shape }: StepBody): number =>
  16 * points + 260 + (shape.kind === 'mesh' ? surfaceNumbers(shape.surface) : 0);

/** What the contacts of a sheet share with its own step. */
type Shared = Pick<
  ClothStep,
  ('x' | 'old' | 'older' | 'v' | 'w' | 'touched' | 'own' | 'gone' | 'seen' | 'h') | ('skinFrom' | 'skinTo')
>;

/** One body as points touch it, and its slots: one for each point that may. */
export class BodyContacts {
  readonly memory: readonly Float64Array[];
  readonly fields: SheetBody;
  private readonly placed: ReturnType<Arena['place']> | undefined;

  constructor(
    private readonly body: StepBody,
    shared: Shared & { allowed: Float64Array; outward: Float64Array },
    make: Make,
    private readonly arena: Arena | null,
  ) {
    const { shape } = body;
    const points = shared.w.length;
    const [sizeP, sizeQ, sizeR] = sizesOf(shape);
    const { x, old, v, w, touched, own, gone, seen, allowed, outward, skinFrom, skinTo } = shared;
    const mesh = shape.kind === 'mesh';
    const few = ['normal', 'carried', 'local', 'was', 'face', 'segment', 'nearest'] as const;
    const stands = ['before', 'now', 'wholeBefore', 'wholeNow'] as const;
    this.fields = Object.assign(new SheetBody(), {
      ...{ points, kind: SHAPE[shape.kind], sizeP, sizeQ, sizeR, h: shared.h },
      ...{ x, old, v, w, touched, own, gone, seen, allowed, outward, skinFrom, skinTo },
      clear: make.numbers(points),
      ...{ slot: make.ints(points), far: make.numbers(points), push: make.numbers(points) },
      ...{ rub: make.numbers(3 * points), slide: make.numbers(points) },
      ...{ given: make.numbers(3 * points), back: make.numbers(13) },
      ...Object.fromEntries(few.map((k) => [k, make.numbers(6)])),
      ...Object.fromEntries(stands.map((k) => [k, make.numbers(7)])),
      ...(mesh ? surfaceFields(shape.surface, make) : {}),
      ...(mesh ? { at: make.numbers(points).fill(-1), asked: make.numbers(3 * points) } : {}),
    });
    this.placed = arena?.place(this.fields);
    const { clear, at, asked } = this.fields;
    this.memory = mesh ? [clear, at, asked] : [clear];
  }

  run(name: keyof typeof REFERENCE & keyof ClothKernels): void {
    if (this.placed) this.arena!.cloth[name](this.placed.at);
    else REFERENCE[name](this.fields);
  }

  get free(): boolean {
    return this.body.free !== null;
  }

  /** Gives a soft body what it gets back of the points it pushed and rubbed in this step, each where it is. */
  pushSoft(): void {
    const { soft } = this.body;
    if (!soft) return;
    const { slot, push, given, w, x, touched, h } = this.fields;
    for (let k = 0; k < this.used; k++) {
      const i = slot[k]!;
      if (push[k] === 0 || !(w[i]! > 0)) continue;
      // As in the kernel's reactTouches.
      const begins = touched[i]! >= 4 && touched[i]! < 7;
      const per = -(begins ? 1 / h : 9 / (4 * h)) / w[i]!;
      const [o, d] = [3 * i, 3 * k];
      const [px, py, pz] = [per * given[d]!, per * given[d + 1]!, per * given[d + 2]!];
      // Where it begins, at most as fast as it came on.
      const most = begins ? w[i]! * Math.sqrt(px * px + py * py + pz * pz) : 0;
      soft.lean(x[o]!, x[o + 1]!, x[o + 2]!, px, py, pz, most);
    }
  }

  /** Slots in use. */
  get used(): number {
    return this.said('used');
  }

  /** A number that the kernel says. */
  said(name: (typeof SAID)[number]): number {
    return this.placed ? this.placed.numbers[PLACE[name]!]! : this.fields[name];
  }

  /**
   * Gives a body that moves freely what it gets back of the points it pushed since the last time. Sheets hardly
   * lengthen, so a body that meets a taut one is not made faster against it than the points it pushes and their
   * animation are, but for the speed that gravity gives in the time (`fall`, m/s).
   */
  react(fall: number): void {
    const { free } = this.body;
    const { back } = this.fields;
    if (!free || back[12] === 0) return;
    const size = Math.sqrt(back[0]! ** 2 + back[1]! ** 2 + back[2]! ** 2);
    const along = (list: ArrayLike<number>, at: number) =>
      (list[at]! * back[0]! + list[at + 1]! * back[1]! + list[at + 2]! * back[2]!) / size;
    const most = Math.max(along(back, 6), along(back, 9)) / back[12]! + fall;
    const gains = size / free.mass;
    const share = size > 0 ? Math.min(1, Math.max(0, (most - along(free.velocity, 0)) / gains)) : 0;
    for (let a = 0; a < 3; a++) {
      free.impulse[a]! += share * back[a]!;
      free.twist[a]! += share * back[3 + a]!;
    }
    back.fill(0);
  }

  /** Takes up where the body stands in the step, and how points touch it. */
  tell(fresh: boolean, turn: number, { thickness, friction }: SheetSkin): void {
    const { body, fields, placed } = this;
    const { whole, from, to } = body;
    const told = {
      ...{ fresh: Number(fresh), turn, from, to, bound: whole.bound, fixed: Number(body.fixed), thickness },
      ...{ friction: Math.sqrt(friction * body.friction), h: fields.h },
    };
    for (const k of TOLD) {
      if (placed) placed.numbers[PLACE[k]!] = told[k];
      else fields[k] = told[k];
    }
    fields.before.set(body.before);
    fields.now.set(body.now);
    if (body.shape.kind !== 'mesh' || from !== 0) return;
    fields.wholeBefore.set(whole.before);
    fields.wholeNow.set(whole.now);
    // Within a frame a step begins where the one before it ended.
    if (fresh) fields.earlier.set(body.shape.surface.earlier);
    fields.later.set(body.shape.surface.vertices);
  }
}

/**
 * Contacts of a sheet with bodies. `touched` says of each point when it pressed on something: 4 in this step, 2 in the
 * last, 1 in the one before, added up. The work is core/src/kernel/touch.
 */
export function makeSheetContacts(
  bodies: readonly StepBody[],
  shared: Shared,
  skin: () => SheetSkin,
  make: Make,
  arena: Arena | null,
): SheetContacts {
  const { x, older, w, seen, h } = shared;
  const points = w.length;
  const [allowed, outward] = [make.numbers(points), make.numbers(3 * points)];
  const all = bodies.map((b) => new BodyContacts(b, { ...shared, allowed, outward }, make, arena));
  const touches: SheetTouches = { depth: 0, deepest: -1, deepIn: -1, pressing: 0, slip: 0 };
  return {
    find: (fresh, turn) => {
      const how = skin();
      for (const b of all) {
        b.tell(fresh, turn, how);
        b.run('findTouches');
      }
    },
    solve: () => all.forEach((b) => b.run('pushOut')),
    finish: () => {
      Object.assign(touches, { depth: 0, deepest: -1, deepIn: -1, pressing: 0, slip: 0 });
      for (const [k, b] of all.entries()) {
        b.run('finishTouches');
        if (b.free) b.run('reactTouches');
        b.pushSoft();
        touches.pressing += b.said('pressing');
        touches.slip = Math.max(touches.slip, b.said('slip'));
        const depth = b.said('depth');
        if (depth > touches.depth) Object.assign(touches, { depth, deepest: b.said('deepest'), deepIn: k });
      }
      return touches;
    },
    react: (fall) => all.forEach((b) => b.react(fall)),
    allowInside: () => {
      const start = { depth: 0, deepIn: -1 };
      allowed.fill(0);
      seen.set(x);
      for (const [k, b] of all.entries()) {
        b.tell(true, 0, skin());
        b.run('startInside');
        const depth = b.said('depth');
        if (depth > start.depth) Object.assign(start, { depth, deepIn: k });
      }
      return start;
    },
    letOut: () => {
      for (let i = 0; i < points; i++) {
        if (allowed[i] === 0) continue;
        const by = Math.min(allowed[i]!, OUT_SPEED * h);
        allowed[i]! -= by;
        for (let a = 0; a < 3; a++) {
          x[3 * i + a]! += by * outward[3 * i + a]!;
          older[3 * i + a]! += by * outward[3 * i + a]!;
        }
      }
    },
    memory: [allowed, outward, seen, ...all.flatMap((b) => b.memory)],
  };
}
