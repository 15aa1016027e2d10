import { quatConjugate, quatMultiply, quatNormalise, quatRotate } from '../../math/index';
import { anchorsOf, bearing, type Bear } from '../borne';
import type { Anchor, Env, PartRun, PartTrack } from '../kind';
import { rowAt } from '../rows';
import type { RegionLayout } from './layout';
import type { RegionSource } from './source';

/** Nearer than this two moments are one, rows. */
export const SAME = 1e-9;

const back = new Float64Array(4);
const place = new Float64Array(3);
const turned = new Float64Array(3);

/** How the skin of a region moves, step by step: places m, 3 numbers a point. A moment is a row, or part of one. */
export class SkinMotion {
  /** Where its source has it now and one step before, and one step ahead. */
  private readonly now: Float64Array;
  private readonly before: Float64Array;
  private readonly ahead: Float64Array;
  /** Where the skin is as other parts carry it. */
  readonly borne: Float64Array;
  /** How far those carry it from its source now, and one and two steps before; empty where none does. */
  private readonly off: readonly [Float64Array, Float64Array, Float64Array];
  /** Turn of what carries it, now and one and two steps before: 4 numbers each. */
  private readonly turns = Float64Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0, 1);
  /** Place and turn of what carries it, before, now and ahead. */
  private readonly carried = new Float64Array(21);
  private readonly bears: readonly Bear[];
  private readonly carriers: readonly Anchor[];
  /** The moment it stands at, and 1 where it stood still until now. */
  private readonly clock = new Float64Array(2);

  constructor(
    private readonly track: PartTrack<RegionLayout, RegionSource>,
    env: Env,
    runs: readonly PartRun[],
    /** Rows: one step. */
    private readonly step: number,
  ) {
    const { points, pieces, carrier } = track.layout;
    const places = () => new Float64Array(3 * points);
    this.bears = pieces.flatMap((p) => bearing(env.character, p.node, p.pointOf, track, runs) ?? []);
    this.carriers = anchorsOf(track, runs).get(carrier) ?? [];
    [this.now, this.before, this.ahead] = [places(), places(), places()];
    this.borne = this.bears.length > 0 ? places() : this.now;
    const apart = () => new Float64Array(this.bears.length > 0 ? 3 * points : 0);
    this.off = [apart(), apart(), apart()];
  }

  get state(): readonly Float64Array[] {
    return [this.now, this.before, this.borne, ...this.off, this.turns, this.clock];
  }

  /** Puts it at a moment: moving as its source does, or, when `still`, as though it had stood there. */
  begin(moment: number, still: boolean): void {
    const earlier = still ? moment : Math.max(0, moment - this.step);
    for (const at of [earlier, earlier, moment]) this.take(at);
    this.clock.set([moment, still ? 1 : 0]);
  }

  /** Goes on to a moment. Returns whether its source stands still there. */
  go(moment: number): boolean {
    const stands = Math.abs(moment - this.clock[0]!) < SAME;
    this.take(moment);
    return stands;
  }

  /** After a step: notes where it stands. */
  done(moment: number, stood: boolean): void {
    this.clock.set([moment, stood ? 1 : 0]);
  }

  private take(moment: number): void {
    const { now, before, ahead, borne, off, turns, carried, step } = this;
    const { skin, carried: rows } = this.track.source;
    const at = (out: Float64Array, list: Float64Array, width: number, when: number) => {
      const row = Math.floor(when + SAME);
      rowAt(out, list, width, row, Math.max(0, when - row));
    };
    before.set(now);
    at(now, skin, now.length, moment);
    at(ahead, skin, now.length, moment + step);
    if (this.bears.length > 0) {
      off[2].set(off[1]);
      off[1].set(off[0]);
      borne.set(now);
      for (const bear of this.bears) bear(borne);
      for (let o = 0; o < borne.length; o++) off[0][o] = borne[o]! - now[o]!;
    }
    for (let k = 0; k < 3; k++)
      at(carried.subarray(7 * k, 7 * k + 7), rows, 7, Math.max(0, moment + (k - 1) * step));
    turns.copyWithin(4, 0, 8);
    turns.set(carried.subarray(10, 14), 0);
    quatNormalise(turns, 0);
    for (const { turn } of this.carriers) quatMultiply(turns, 0, turn, 0, turns, 0);
  }

  /** Turns of what carries it since one step and since two, 8 numbers. */
  turnsSince(out: Float64Array): void {
    for (let k = 0; k < 2; k++) {
      quatConjugate(back, 0, this.turns, 4 * k + 4);
      quatMultiply(out, 4 * k, this.turns, 0, back, 0);
    }
  }

  /**
   * The skin's own acceleration at its first points, times the step squared: central, one step ahead, where its source
   * is known; `travel` and `turn` are the shares of the carrier's that are felt. What other parts do to it is known up
   * to now.
   */
  accelerations(out: Float64Array, felt: { readonly travel: number; readonly turn: number }): void {
    const { now, before, ahead, off, carried } = this;
    // What stood still until now had no speed.
    const began = this.clock[1]!;
    for (let o = 0; o < out.length; o++)
      out[o] = ahead[o]! - 2 * now[o]! + before[o]! + began * (now[o]! - before[o]!);
    if (off[0].length > 0)
      for (let o = 0; o < out.length; o++) out[o]! += off[0][o]! - 2 * off[1][o]! + off[2][o]!;
    const travel = 1 - felt.travel;
    if (travel !== 0)
      for (let o = 0; o < out.length; o++) {
        const a = o % 3;
        out[o]! -= travel * (carried[14 + a]! - 2 * carried[7 + a]! + carried[a]!);
      }
    if (felt.turn !== 1) this.lessTurn(out, 1 - felt.turn);
  }

  /** Takes away a share of how each point would be swung if it turned with its carrier as it stands now. */
  private lessTurn(out: Float64Array, share: number): void {
    const { carried, now } = this;
    quatConjugate(back, 0, carried, 10);
    for (let o = 0; o < out.length; o += 3) {
      for (let a = 0; a < 3; a++) place[a] = now[o + a]! - carried[7 + a]!;
      for (let a = 0; a < 3; a++) out[o + a]! += 2 * share * place[a]!;
      quatRotate(place, 0, back, 0, place, 0);
      for (const k of [3, 17]) {
        quatRotate(turned, 0, carried, k, place, 0);
        for (let a = 0; a < 3; a++) out[o + a]! -= share * turned[a]!;
      }
    }
  }

  /** Carries all of it by a rigid travel: place and turn, 7 numbers. */
  travel(by: Float64Array): void {
    for (const list of new Set([this.now, this.before, this.borne]))
      for (let o = 0; o < list.length; o += 3) {
        quatRotate(list, o, by, 3, list, o);
        for (let a = 0; a < 3; a++) list[o + a]! += by[a]!;
      }
    for (const list of this.off) for (let o = 0; o < list.length; o += 3) quatRotate(list, o, by, 3, list, o);
    for (let k = 0; k < 12; k += 4) quatMultiply(this.turns, k, by, 3, this.turns, k);
  }
}
