import type { Cloth } from '../../solver/cloth/index';
import type { Env, Slip } from '../kind';
import type { ClothPull } from './document';
import type { SheetLayout } from './layout';
import type { Riding } from './riding';

/** A hand that holds a patch of a cloth: its points, the one it grabbed first, and how firmly each is held, 0..1. */
interface Grip {
  readonly pull: ClothPull;
  readonly points: Int32Array;
  readonly shares: Float64Array;
  /** Whether it has slipped off: 0 or 1. */
  readonly slip: Slip;
}

const place = new Float64Array(3);
/** m/s²: a hand that is far away pulls no harder than this, so that it does not tear what cannot follow. */
const HARDEST = 300;

/**
 * Hands that pull at a cloth along recorded paths: all points within a reach of the one that was grabbed are drawn the
 * same way, less firmly farther out, each as a spring of the hand's frequency that is critically damped. A hand is
 * stronger than a leash.
 */
export class Pulls {
  readonly slips: readonly Slip[];
  private readonly grips: readonly Grip[];
  /** 1 for points that were pulled in the step before: remembered with all else. */
  readonly pulled: Uint8Array;

  constructor(
    pulls: readonly ClothPull[],
    { sheet, detail }: Pick<SheetLayout, 'sheet' | 'detail'>,
    private readonly env: Env,
  ) {
    const whole = detail?.sheet ?? sheet;
    this.pulled = new Uint8Array(pulls.length > 0 ? sheet.points : 0);
    this.grips = pulls.map((pull) => {
      const grabbed = 3 * whole.pointOf[Math.min(pull.vertex, whole.pointOf.length - 1)]!;
      const far = Array.from({ length: sheet.points }, (_, p) => {
        const [x, y, z] = [0, 1, 2].map((a) => sheet.rest[3 * p + a]! - whole.rest[grabbed + a]!);
        return Math.sqrt(x! * x! + y! * y! + z! * z!) * env.metresPerUnit;
      });
      const nearest = far.indexOf(Math.min(...far));
      const points = [...far.keys()].filter((p) => p !== nearest && far[p]! < pull.reach);
      return {
        pull,
        points: Int32Array.from([nearest, ...points]),
        shares: Float64Array.from([1, ...points.map((p) => 1 - far[p]! / pull.reach)]),
        slip: { id: pull.id, memory: new Uint8Array(1) },
      };
    });
    this.slips = this.grips.map((g) => g.slip);
  }

  get any(): boolean {
    return this.grips.length > 0;
  }

  /** Gives points that were pulled back to the skin, before it moves on. */
  restore(now: Float64Array, own: Float64Array): void {
    this.pulled.forEach((on, p) => on && now.set(own.subarray(3 * p, 3 * p + 3), 3 * p));
    this.pulled.fill(0);
  }

  /** Draws what is held on a frame to where the hand is: by the pull to the animation, which stands there instead. */
  apply(cloth: Cloth, before: Float64Array, now: Float64Array, riding: Riding, frame: number): void {
    for (const { pull, points, shares, slip } of this.grips) {
      const at = frame - pull.first;
      if (at < 0 || at > pull.path.length - 1 || slip.memory[0]) continue;
      this.handAt(pull, at, riding);
      const o = 3 * points[0]!;
      const away = [0, 1, 2].map((a) => place[a]! - cloth.x[o + a]!);
      const far = Math.sqrt(away.reduce((sum, d) => sum + d * d, 0));
      if (far > pull.slip) {
        slip.memory[0] = 1;
        continue;
      }
      const omega = 2 * Math.PI * pull.strength;
      const most = HARDEST / (omega * omega);
      const way = far > most ? away.map((d) => (d * most) / far) : away;
      const to = Float64Array.from(place);
      this.handAt(pull, Math.max(0, at - 1 / this.env.substeps), riding);
      points.forEach((p, k) => {
        const held = omega * shares[k]!;
        cloth.pull[p] = held * held;
        cloth.damp[p] = 2 * held;
        cloth.leash[p] = cloth.inner[p] = Infinity;
        for (let a = 0; a < 3; a++) {
          now[3 * p + a] = cloth.x[3 * p + a]! + way[a]!;
          before[3 * p + a] = now[3 * p + a]! - (to[a]! - place[a]!);
        }
        this.pulled[p] = 1;
      });
    }
  }

  /** Where a hand is, in the space the sheet moves in: between two frames on the straight way. */
  private handAt({ path }: ClothPull, at: number, riding: Riding): void {
    const i = Math.min(path.length - 1, Math.floor(at));
    const next = path[Math.min(path.length - 1, i + 1)]!;
    for (let a = 0; a < 3; a++) place[a] = path[i]![a]! + (at - i) * (next[a]! - path[i]![a]!);
    if (riding.apart) riding.into(place, place);
  }
}
