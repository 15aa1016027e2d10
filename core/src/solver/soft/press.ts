import type { BodyStep } from '../../kernel/soft/bodyFields';
import { sumNormals } from '../../sheets/index';
import { givesWay, pushBody, type Body } from '../bodies';
import { BodyContacts, OUT_SPEED, type SheetStart, type SheetTouches } from '../cloth/contact';
import type { Make } from '../cloth/setup';
import type { Arena } from '../arena';
import type { StepBody } from '../cloth/stepBody';
import { beforeBall, standsAgainst } from './facing';
import { boxOf, carryPoints, type BodySkin } from './skin';
import { writeString, type BodyString } from './strings';

/** How a body is where it touches. */
export interface PressHow {
  /** Distance the surface keeps (m), in which it presses, and Coulomb's μ. */
  readonly thickness: number;
  readonly friction: number;
  /** Pa per m/s: density times the speed of sound in it; and kg, all of it. */
  readonly impedance: number;
  readonly mass: number;
}

/** How a body touches others. */
export interface PressNeeds {
  readonly skin: BodySkin;
  /** Others, each where it is over a step of this body; and what gets the pushes of it. */
  readonly bodies: readonly StepBody[];
  readonly pushed: readonly Body[];
  /** Strings that it hangs on. */
  readonly strings: readonly BodyString[];
  /** What it is like at the moment. */
  readonly how: () => PressHow;
  /** The speed of a hard blow, m/s. */
  readonly blow: number;
  readonly h: number;
}

/** The contacts of a soft body. */
export interface Press {
  begin(): SheetStart;
  /** Finds what may be touched in the coming step, with the nodes where they are looked for first. Returns how many. */
  look(fresh: boolean): number;
  /** Gives others their pushes, and says what came of the step. */
  done(): SheetTouches;
  /** The way out of each point that stands inside of something at the end of the step, m, 3 numbers. */
  readonly out: Float64Array;
  /** Forgets where friction holds it. */
  forget(): void;
  /**
   * Nodes beside a touch that has just begun, and its row: they are as fast as they went, or second order throws them
   * back.
   */
  readonly begun: ReadonlyMap<number, number>;
  /** Gives what a row touches an impulse, N s. */
  give(row: number, x: number, y: number, z: number): void;
  readonly memory: readonly Float64Array[];
}

/** A touch is looked for that is farther than this share of the layer, or of what the point goes. */
const BESIDE = 1.5;
/** Other soft bodies are looked at that are nearer than this share of its width. */
const NEARBY = 0.1;
/** A body that moves freely is pushed at most so hard that it leaves the layer within a step. */
const SAFE = 0.5;

/** Rows of touches that a body can have at once. */
export const mostTouches = ({ skin, strings }: Pick<PressNeeds, 'skin' | 'strings'>): number =>
  2 * skin.points + strings.length + 8;

/** What of the fields of a body's step its touches are written to. */
export const touchFields = (needs: PressNeeds, make: Make): Partial<BodyStep> => {
  const rows = mostTouches(needs);
  return {
    ...{ rowNode: make.ints(8 * rows), rowShare: make.numbers(8 * rows), plane: make.numbers(4 * rows) },
    ...{ stiffness: make.numbers(rows), rub: make.numbers(rows), anchor: make.numbers(3 * rows) },
    ...{ held: make.numbers(rows), loads: make.numbers(rows), hard: make.numbers(rows) },
    ...{ sticks: make.numbers(rows), pushes: make.numbers(3 * rows), place: make.numbers(3) },
  };
};

/** Numbers of an arena that the touches of a body take, beside those of what it touches. */
export const touchNumbers = (needs: PressNeeds): number =>
  25 * mostTouches(needs) + 20 * needs.skin.points + 40;

class Pressing implements Press {
  readonly memory: readonly Float64Array[];
  readonly begun = new Map<number, number>();
  readonly out: Float64Array;
  private readonly all: readonly BodyContacts[];
  private readonly at: Float64Array;
  private readonly old: Float64Array;
  private readonly own: Float64Array;
  private readonly gone: Float64Array;
  private readonly seen: Float64Array;
  private readonly touched: Float64Array;
  private readonly allowed: Float64Array;
  private readonly outward: Float64Array;
  /** By body and point: whether friction holds it, and where. */
  private readonly holds: readonly Float64Array[];
  /** By row: its body, or −1 and less for a string, and its point. */
  private readonly rows: Int32Array;
  /** 1 for each string that was taut in the last step. */
  private readonly taut: Float64Array;
  /** 1 for each point that may touch the body that is looked at. */
  private readonly near: Uint8Array;
  /** Normals at its points, where something small and fast may overtake it. */
  private readonly facing: Float64Array;
  private used = 0;
  /** Rows of each body that pressed in the last step. */
  private readonly many: Float64Array;
  /** The box about its points, and 1 for each body that is too far to be looked at. */
  private readonly box = new Float64Array(6);
  private readonly away: Float64Array;
  private readonly clock = new Float64Array(1);
  private readonly said: SheetTouches = { depth: 0, deepest: -1, deepIn: -1, pressing: 0, slip: 0 };

  constructor(
    private readonly needs: PressNeeds,
    private readonly fields: BodyStep,
    /** Nodes at the start of the step. */
    private readonly before: Float64Array,
    make: Make,
    arena: Arena | null,
  ) {
    const { points } = needs.skin;
    const three = () => make.numbers(3 * points);
    [this.at, this.old, this.seen, this.outward] = [three(), three(), three(), three()];
    [this.own, this.gone] = [make.numbers(points), make.numbers(points)];
    [this.touched, this.allowed] = [make.numbers(points), make.numbers(points)];
    const shared = {
      ...{ x: this.at, old: this.old, older: this.old, v: this.outward, w: make.numbers(points).fill(1) },
      ...{ touched: this.touched, own: this.own, gone: this.gone, seen: this.seen, h: needs.h },
      ...{ skinFrom: this.old, skinTo: this.at, allowed: this.allowed, outward: this.outward },
    };
    this.all = needs.bodies.map((b) => new BodyContacts(b, shared, make, arena));
    this.holds = this.all.map(() => new Float64Array(4 * points));
    this.rows = new Int32Array(2 * mostTouches(needs));
    this.taut = new Float64Array(needs.strings.length);
    this.many = new Float64Array(this.all.length);
    this.away = new Float64Array(this.all.length);
    this.near = new Uint8Array(points);
    this.facing = new Float64Array(needs.pushed.some((b) => b.free) ? 3 * points : 0);
    this.out = new Float64Array(3 * points);
    this.memory = [
      ...[this.touched, this.allowed, this.outward, this.seen, this.many, this.away, this.clock],
      ...this.holds,
      this.taut,
      ...this.all.flatMap((b) => b.memory),
    ];
  }

  forget(): void {
    for (const hold of this.holds) hold.fill(0);
  }

  begin(): SheetStart {
    const start = { depth: 0, deepIn: -1 };
    for (const list of [this.allowed, this.touched, this.many, this.out, this.taut]) list.fill(0);
    this.forget();
    carryPoints(this.at, this.needs.skin, this.fields.x);
    this.seen.set(this.at);
    this.old.set(this.at);
    for (const [k, b] of this.all.entries()) {
      b.tell(true, 0, this.needs.how());
      b.run('startInside');
      const depth = b.said('depth');
      if (depth > start.depth) Object.assign(start, { depth, deepIn: k });
    }
    return start;
  }

  look(fresh: boolean): number {
    const { needs, fields, at, old, own, gone, seen, touched, allowed, clock } = this;
    const { skin, h } = needs;
    carryPoints(old, skin, this.before);
    carryPoints(at, skin, fields.x);
    for (let i = 0; i < skin.points; i++) {
      const t = touched[i]!;
      touched[i] = (t >= 4 ? 2 : 0) + ((t >= 4 ? t - 4 : t) >= 2 ? 1 : 0);
      const o = 3 * i;
      own[i] = apartAt(at, old, o);
      gone[i] = apartAt(at, seen, o);
      if (allowed[i]! > 0) allowed[i] = Math.max(0, allowed[i]! - OUT_SPEED * h);
    }
    seen.set(at);
    if (fresh) clock[0] = 1 - clock[0]!;
    this.used = 0;
    this.pull();
    if (this.facing.length > 0) sumNormals(this.facing, at, skin.triangles);
    boxOf(this.box, at);
    const farthest = own.reduce((m, x) => Math.max(m, x), 0);
    for (const [k, b] of this.all.entries()) {
      const was = this.away[k]!;
      // Within a step of the shot what is away stays so: where others go is told at its start.
      const { from, to } = needs.bodies[k]!;
      if (from === 0) this.away[k] = Number(this.isAway(k, farthest / (to - from)));
      if (this.away[k] === 1) {
        this.holds[k]!.fill(0);
        continue;
      }
      // What comes near is looked for anew.
      if (was === 1) b.fields.clear.fill(0);
      b.tell(fresh || was === 1, clock[0]!, needs.how());
      b.run('findTouches');
      b.run('measureTouches');
      this.take(k);
    }
    return this.used;
  }

  /** Writes the rows of the strings. */
  private pull(): void {
    const { needs, fields, at, rows } = this;
    const { thickness, mass } = needs.how();
    needs.strings.forEach((s, k) => {
      if (writeString(s, this.used, { skin: needs.skin, fields, at, mass, layer: thickness }))
        rows.set([-1 - k, s.point], 2 * this.used++);
      else this.taut[k] = 0;
    });
  }

  /** Whether another soft body is too far to be touched in this step. */
  private isAway(k: number, farthest: number): boolean {
    const box = this.needs.pushed[k]!.soft?.box;
    if (!box) return false;
    const reach = this.needs.how().thickness + 2 * farthest + NEARBY * (this.box[3]! - this.box[0]!);
    for (let a = 0; a < 3; a++)
      if (box[a]! - reach > this.box[3 + a]! || box[3 + a]! + reach < this.box[a]!) return true;
    return false;
  }

  /** Writes the rows of one body. */
  private take(k: number): void {
    const { needs, fields, at, own, holds, rows, near } = this;
    const { skin, blow, h } = needs;
    const { thickness, friction, impedance } = needs.how();
    const c = this.all[k]!;
    const { slot, far, rub, given } = c.fields;
    const hold = holds[k]!;
    const per = (2 * impedance * blow) / thickness;
    const both = Math.sqrt(friction * needs.bodies[k]!.friction);
    const most = mostTouches(needs);
    const { free, shape } = needs.pushed[k]!;
    const ball = free && shape.kind === 'sphere' ? { at: needs.bodies[k]!.now, radius: shape.radius } : null;
    near.fill(0);
    let [inside, against] = [0, 0];
    for (let s = 0; s < c.used; s++) {
      const i = slot[s]!;
      if (ball && far[s]! < 0) far[s] = beforeBall(rub, 3 * s, ball, at, this.facing, 3 * i) ?? far[s]!;
      if (!free || !(far[s]! < 0)) continue;
      inside++;
      if (ball) against += standsAgainst(rub, given, 3 * s, ball.radius);
    }
    // What stops something fast is shared by how far each point stands in its way.
    const many = Math.max(1, against > 0 ? against : Math.max(this.many[k]!, inside));
    for (let s = 0; s < c.used; s++) {
      const i = slot[s]!;
      const gap = far[s]!;
      if (gap > BESIDE * Math.max(thickness, own[i]!) || this.used >= most) continue;
      near[i] = 1;
      const row = this.used++;
      rows.set([k, i], 2 * row);
      let along = 0;
      for (let a = 0; a < 3; a++) {
        const n = rub[3 * s + a]!;
        fields.plane[4 * row + a] = n;
        along += n * (at[3 * i + a]! - skin.off[3 * i + a]!);
        // What friction holds goes along with the body.
        if (hold[4 * i] === 1) hold[4 * i + 1 + a]! += given[3 * s + a]!;
        fields.anchor[3 * row + a] = hold[4 * i + 1 + a]!;
      }
      fields.plane[4 * row + 3] = along - gap;
      for (let j = 0; j < 8; j++) {
        fields.rowNode[8 * row + j] = skin.nodes[8 * i + j]!;
        fields.rowShare[8 * row + j] = skin.shares[8 * i + j]!;
      }
      fields.held[row] = hold[4 * i]!;
      fields.rub[row] = both;
      const wanted = per * skin.area[i]!;
      const gives = this.givesAt(k, i, s) * (needs.pushed[k]!.soft ? 1 : many);
      const now = wanted * Math.max(0.02, -gap / thickness);
      // It may be stopped, and pushed out of the layer.
      const comes = ball ? this.comes(k, i, s) : 0;
      const safe = SAFE * Math.max(1e-9, -gap) + 2 * comes;
      fields.stiffness[row] =
        gives > 0 ? wanted / (1 + (now * h * h * gives * Math.max(1e-9, -gap)) / safe) : wanted;
    }
    // What has gone away is held by friction no more.
    for (let i = 0; i < skin.points; i++) if (near[i] === 0) hold[4 * i] = 0;
  }

  /** How far what is touched comes on to a point in a step, m, along the way out of it. */
  private comes(k: number, i: number, s: number): number {
    const { at, old } = this;
    const { rub, given } = this.all[k]!.fields;
    let sum = 0;
    for (let a = 0; a < 3; a++)
      sum += rub[3 * s + a]! * (given[3 * s + a]! - (at[3 * i + a]! - old[3 * i + a]!));
    return Math.max(0, sum);
  }

  /** How readily what a row touches gives way, 1/kg. */
  private givesAt(k: number, i: number, s: number): number {
    const body = this.needs.pushed[k]!;
    if (!body.free && !body.link && !body.soft) return 0;
    const { at } = this;
    const { rub } = this.all[k]!.fields;
    const o = 3 * i;
    const n = 3 * s;
    return givesWay(body, at[o]!, at[o + 1]!, at[o + 2]!, rub[n]!, rub[n + 1]!, rub[n + 2]!);
  }

  done(): SheetTouches {
    const { needs, fields, at, touched, holds, rows, said, many, out } = this;
    const { skin, h } = needs;
    const { thickness } = needs.how();
    Object.assign(said, { depth: 0, deepest: -1, deepIn: -1, pressing: 0, slip: 0 });
    many.fill(0);
    this.begun.clear();
    out.fill(0);
    carryPoints(at, skin, fields.x);
    for (let row = 0; row < this.used; row++) {
      const [k, i] = [rows[2 * row]!, rows[2 * row + 1]!];
      if (k < 0) {
        this.pulled(row, -1 - k, i);
        continue;
      }
      const hold = holds[k]!;
      hold[4 * i] = fields.held[row]!;
      if (!(fields.loads[row]! > 0)) continue;
      if (touched[i]! < 4) touched[i]! += 4;
      said.pressing++;
      many[k]!++;
      let gap = -fields.plane[4 * row + 3]!;
      let slip = 0;
      for (let a = 0; a < 3; a++) {
        gap += fields.plane[4 * row + a]! * (at[3 * i + a]! - skin.off[3 * i + a]!);
        slip += (fields.anchor[3 * row + a]! - hold[4 * i + 1 + a]!) ** 2;
        hold[4 * i + 1 + a] = fields.anchor[3 * row + a]!;
      }
      const age = touched[i]!;
      // Where it begins its anchor was nowhere.
      if (age >= 6) said.slip = Math.max(said.slip, Math.sqrt(slip) / h);
      this.showOut(row, i, -gap - thickness);
      if (-gap - thickness > said.depth)
        Object.assign(said, { depth: -gap - thickness, deepest: i, deepIn: k });
      if (age < 7) this.beginAt(row, i);
      const o = 3 * row;
      const { pushes } = fields;
      this.give(row, -h * pushes[o]!, -h * pushes[o + 1]!, -h * pushes[o + 2]!);
    }
    return said;
  }

  /** Nodes that a point of the surface hangs on go no faster than they went. */
  private beginAt(row: number, i: number): void {
    const { nodes, shares } = this.needs.skin;
    for (let j = 8 * i; j < 8 * i + 8; j++) if (shares[j]! > 0.01) this.begun.set(nodes[j]!, row);
  }

  /** Takes note of whether a string is taut. */
  private pulled(row: number, string: number, i: number): void {
    const now = this.fields.loads[row]! > 0;
    if (now && this.taut[string] === 0) this.beginAt(row, i);
    this.taut[string] = now ? 1 : 0;
  }

  give(row: number, x: number, y: number, z: number): void {
    const { at, rows, needs } = this;
    // What a string hangs on does not give way.
    if (rows[2 * row]! < 0) return;
    const o = 3 * rows[2 * row + 1]!;
    pushBody(needs.pushed[rows[2 * row]!]!, at[o]!, at[o + 1]!, at[o + 2]!, x, y, z);
  }

  /** Notes the way out of the deepest of what a point stands inside of. */
  private showOut(row: number, i: number, depth: number): void {
    const { out, fields } = this;
    const known = out[3 * i]! ** 2 + out[3 * i + 1]! ** 2 + out[3 * i + 2]! ** 2;
    if (!(depth > 0 && depth * depth > known)) return;
    for (let a = 0; a < 3; a++) out[3 * i + a] = depth * fields.plane[4 * row + a]!;
  }
}

function apartAt(a: Float64Array, b: Float64Array, o: number): number {
  const x = a[o]! - b[o]!,
    y = a[o + 1]! - b[o + 1]!,
    z = a[o + 2]! - b[o + 2]!;
  return Math.sqrt(x * x + y * y + z * z);
}

export const makePress = (...args: ConstructorParameters<typeof Pressing>): Press => new Pressing(...args);
