import { quatNormalise } from '../../math/index';
import type { Sheet } from '../../sheets/index';
import type { Cloth } from '../../solver/cloth/index';
import type { Anchor, Env, PartRun, PartTrack, Touchable } from '../kind';
import { rowAt } from '../rows';
import { anchorsOf, carryPlace } from '../borne';
import type { Tie } from './document';
import type { SheetLayout } from './layout';
import { carried, type Riding } from './riding';
import type { TiedPoints } from './tiedPoints';

/** Seconds in which a tie to another cloth closes its gap. */
const CLOSES = 0.5;

/** What a tie leads to: says where each of its points should be, and takes what it is pulled by. */
interface Target {
  /** Writes the places (3 numbers a point of the tie, m, in the world) at a share of the way from a row to the next. */
  at(out: Float64Array, row: number, share: number): void;
  /** kg that moves where point k is tied; Infinity for what nothing moves. */
  mass(k: number): number;
  /** An impulse (N s, in the world, at `o` of a list) where point k is tied. */
  pull(k: number, impulse: Float64Array, o: number): void;
}

const FIRM = { mass: () => Infinity, pull: () => undefined };

/** What a joint of a chain is moved by when it is pulled: the end of its link, or itself where links follow. */
function pulled(points: Touchable | null, link: number, h: number): Pick<Target, 'mass' | 'pull'> {
  const i = points ? Math.max(1, link === points.mass.length - 1 ? link + 1 : link) - 1 : -1;
  if (!points || i < 0) return FIRM;
  return {
    mass: () => points.mass[i]! + points.hung[i]!,
    pull: (_, impulse, o) => {
      for (let a = 0; a < 3; a++) points.push[3 * i + a]! += impulse[o + a]! / (points.mass[i]! * h);
      points.pushed();
    },
  };
}

function toJoint(
  { tie, local, points }: TiedPoints,
  { track, h, metresPerUnit }: Env,
  own: Pick<PartTrack, 'bearers'>,
  runs: readonly PartRun[],
): Target {
  const { node } = (tie.to as Extract<Tie['to'], { by: 'joint' }>).joint;
  const rows = track.joints.get(node)!;
  const anchors: readonly Anchor[] = anchorsOf(own, runs).get(node) ?? [];
  const owner = own.bearers.find((b) => b.joint === node)?.links.at(-1);
  const placed = new Float64Array(7);
  const here = local.map((x) => x * metresPerUnit);
  return {
    at: (out, row, share) => {
      rowAt(placed, rows, 7, row, share);
      quatNormalise(placed, 3);
      carried(out, here, placed);
      for (let k = 0; k < points.length; k++) carryPlace(out.subarray(3 * k, 3 * k + 3), anchors);
    },
    ...(tie.pulls && owner ? pulled(runs[owner.part]!.points, owner.link, h) : FIRM),
  };
}

/** Rings of neighbours that a pull at a point of a sheet is spread over: one point alone is too light to carry. */
const RINGS = 2;

/** A sheet in motion that others may be tied to. */
export interface Tieable {
  /** Its points at rest, file units. */
  readonly rest: Float64Array;
  /** Where they are, m, in the world. */
  places(): Float64Array;
  /** What moves some of its points: each with the patch of the sheet that is nearest to it. */
  patches(points: Int32Array): Pick<Target, 'mass' | 'pull'>;
}

export function makeTieable(
  { x, mass, moving }: Cloth,
  riding: Riding,
  { sheet, held }: Pick<SheetLayout, 'sheet' | 'held'>,
  ties: Ties,
  released: boolean,
): Tieable {
  const world = new Float64Array(x.length);
  const way = new Float64Array(3);
  const speeds = moving.slice(2);
  const firm = (p: number) => ties.holds[p] || (held[p] && !released);
  return {
    rest: sheet.rest,
    places: () => {
      if (!riding.apart) return x;
      riding.out(world, x);
      return world;
    },
    patches: (points) => {
      const patch = patchesOf(sheet, points);
      const own = Array.from(points, (p) => [...patch.keys()].filter((q) => patch[q] === p && !firm(q)));
      const weighs = own.map((list) => list.reduce((sum, q) => sum + mass[q]!, 0));
      // Where several are tied to one point they share its patch.
      const shared = Array.from(points, (p) => points.filter((q) => q === p).length);
      return {
        mass: (k) => (firm(points[k]!) ? Infinity : weighs[k]! / shared[k]!),
        pull: (k, impulse, o) => {
          if (firm(points[k]!)) return;
          way.set(impulse.subarray(o, o + 3));
          if (riding.apart) riding.turnedInto(way, way);
          for (const q of own[k]!)
            for (let a = 0; a < 3; a++) for (const list of speeds) list[3 * q + a]! += way[a]! / weighs[k]!;
        },
      };
    },
  };
}

/** For each point of a sheet the nearest of some, by edges, where it is within a few of them; else −1. */
function patchesOf({ points, edges }: Sheet, seeds: Int32Array): Int32Array {
  const out = new Int32Array(points).fill(-1);
  for (const p of seeds) out[p] = p;
  for (let ring = 0; ring < RINGS; ring++) {
    const before = out.slice();
    for (let e = 0; e < edges.length; e += 2)
      for (const [from, to] of [
        [edges[e]!, edges[e + 1]!],
        [edges[e + 1]!, edges[e]!],
      ] as const)
        if (before[from]! >= 0 && out[to]! < 0) out[to] = before[from]!;
  }
  return out;
}

function toSheet({ points, tie }: TiedPoints, sheet: Sheet, other: Tieable): Target {
  const nearest = Int32Array.from(points, (p) =>
    nearestTo(other.rest, sheet.rest.subarray(3 * p, 3 * p + 3)),
  );
  return {
    at: (out) => {
      const places = other.places();
      nearest.forEach((q, k) => out.set(places.subarray(3 * q, 3 * q + 3), 3 * k));
    },
    ...(tie.pulls ? other.patches(nearest) : FIRM),
  };
}

function nearestTo(rest: Float64Array, place: Float64Array): number {
  let [best, least] = [0, Infinity];
  for (let q = 0; q < rest.length / 3; q++) {
    let d = 0;
    for (let a = 0; a < 3; a++) d += (rest[3 * q + a]! - place[a]!) ** 2;
    if (d < least) [best, least] = [q, d];
  }
  return best;
}

/** One tie in motion. */
class TieRun {
  /** Where its points should be, in the space of the sheet: now, at the start of the shot's step, and at first. */
  readonly now: Float64Array;
  readonly before: Float64Array;
  readonly gap: Float64Array;
  /** What its target has been given in the shot's step: impulse, and how far that has moved it by now. */
  private readonly given: Float64Array;
  private readonly gone: Float64Array;

  constructor(
    readonly needs: TiedPoints,
    private readonly target: Target,
  ) {
    const size = needs.local.length;
    [this.now, this.before, this.gap, this.given, this.gone] = Array.from(
      { length: 5 },
      () => new Float64Array(size),
    ) as [Float64Array, Float64Array, Float64Array, Float64Array, Float64Array];
  }

  /** Whether it holds its points rather than pulling at both ends. */
  get holds(): boolean {
    return !this.needs.tie.pulls;
  }

  aim(riding: Riding, row: number, share: number): void {
    this.before.set(this.now);
    this.target.at(this.now, row, share);
    if (riding.apart) riding.into(this.now, this.now);
    for (const list of [this.given, this.gone]) list.fill(0);
  }

  /** Draws both ends together after a step of h seconds, to a share of the shot's step. */
  draw({ x, mass, moving }: Cloth, share: number, h: number, open: number): void {
    const [, older, v, vOld] = moving as [Float64Array, Float64Array, Float64Array, Float64Array];
    const { now, before, gap, given, gone, target, needs } = this;
    needs.points.forEach((p, k) => {
      const [wp, wq] = [1 / mass[p]!, 1 / target.mass(k)];
      for (let a = 0; a < 3; a++) {
        const [i, o] = [3 * p + a, 3 * k + a];
        gone[o]! += given[o]! * wq * h;
        const goal = before[o]! + share * (now[o]! - before[o]!) + gone[o]! + open * gap[o]!;
        const push = (x[i]! - goal) / (wp + wq);
        // What came before is moved along: a step by BDF2 reads two.
        for (const places of [x, older]) places[i]! -= wp * push;
        for (const speeds of [v, vOld]) speeds[i]! -= (wp * push) / h;
        gone[o]! += wq * push;
        given[o]! += push / h;
      }
    });
  }

  /** Gives the target what it was pulled by. */
  finish(riding: Riding): void {
    if (this.holds) return;
    if (riding.apart) riding.turnedOut(this.given);
    this.needs.points.forEach((_, k) => this.target.pull(k, this.given, 3 * k));
  }
}

/** All ties of a sheet. */
export class Ties {
  private readonly all: readonly TieRun[];
  /** 1 for points that are held by a tie. */
  readonly holds: Uint8Array;
  private frame = 0;

  constructor(
    { ties, sheet }: Pick<SheetLayout, 'ties' | 'sheet'>,
    private readonly env: Env,
    own: Pick<PartTrack, 'bearers'>,
    runs: readonly (PartRun & { readonly tieable?: Tieable })[],
  ) {
    this.all = ties.flatMap((needs) => {
      const { to } = needs.tie;
      if (needs.points.length === 0) return [];
      if (to.by === 'joint') return [new TieRun(needs, toJoint(needs, env, own, runs))];
      const other = runs.find((r) => env.track.parts[r.index]!.layout.part.id === to.part);
      return other?.tieable ? [new TieRun(needs, toSheet(needs, sheet, other.tieable))] : [];
    });
    this.holds = new Uint8Array(sheet.points);
    for (const { holds, needs } of this.all) if (holds) for (const p of needs.points) this.holds[p] = 1;
  }

  get any(): boolean {
    return this.all.length > 0;
  }

  /** Says where its points should be, and how far the sheet’s skin is from that at first. */
  begin(skin: Float64Array, riding: Riding, row: number, frame: number): void {
    for (const t of this.all) {
      t.aim(riding, row, 0);
      t.before.set(t.now);
      t.needs.points.forEach((p, k) => {
        for (let a = 0; a < 3; a++) t.gap[3 * k + a] = skin[3 * p + a]! - t.now[3 * k + a]!;
      });
    }
    this.frame = frame;
  }

  aim(riding: Riding, row: number, share: number, frame: number): void {
    for (const t of this.all) t.aim(riding, row, share);
    this.frame = frame;
  }

  /** Puts the points that are held where they should be. */
  hold(now: Float64Array): void {
    const open = this.open(1);
    for (const { holds, needs, now: goal, gap } of this.all)
      if (holds)
        needs.points.forEach((p, k) => {
          for (let a = 0; a < 3; a++) now[3 * p + a] = goal[3 * k + a]! + open * gap[3 * k + a]!;
        });
  }

  draw(cloth: Cloth, share: number, h: number): void {
    for (const t of this.all) if (!t.holds) t.draw(cloth, share, h, this.open(share));
  }

  finish(riding: Riding): void {
    for (const t of this.all) t.finish(riding);
  }

  asides(): Float64Array[] {
    return this.all.flatMap((t) => [t.now, t.gap]);
  }

  carry(riding: Riding, by: Float64Array): void {
    for (const t of this.all) {
      if (riding.apart) riding.out(t.now, t.now);
      carried(t.now, t.now, by);
    }
  }

  /** Share of the first gap that is still there, at a share of the shot's step. */
  private open(share: number): number {
    const { fps, substeps, track, looping } = this.env;
    if (looping) return 0;
    const at = this.frame - (1 - share) / substeps;
    return Math.min(1, Math.max(0, 1 - (at - track.from) / (CLOSES * fps)));
  }
}
