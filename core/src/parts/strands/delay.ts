import { quatConjugate, quatMultiply, quatNormalise, quatRotate } from '../../math/index';
import type { StrandShape, Strands } from '../../solver/strands/index';
import type { PartTrack } from '../kind';
import { rowAt } from '../rows';
import type { StrandsLayout } from './layout';
import type { StrandsSource } from './source';

/** Times between the root's and the tip's at which the turns of the groom are looked up. */
const STEPS = 16;

/** Lets strands follow their roots later toward the tip: their links are held to where the groom was by then. */
export class Delay {
  private readonly row: Float64Array;
  private readonly turns: Float64Array;
  private readonly aim: Float64Array;

  constructor(
    private readonly strands: Strands,
    private readonly shapes: readonly StrandShape[],
    private readonly track: PartTrack<StrandsLayout, StrandsSource>,
    private readonly loop: { readonly period: number; readonly travel: Float64Array } | null,
  ) {
    const guides = track.layout.shapes.length;
    this.row = new Float64Array(7 * guides);
    this.turns = new Float64Array(4 * guides * (STEPS + 1));
    this.aim = new Float64Array(3 * Math.max(1, ...shapes.map((s) => s.lengths.length)));
  }

  /** Aims all links for the end of a step, which is at a share of the way from a row to the next; `late` is frames. */
  hold(row: number, share: number, late: number): void {
    const { strands, shapes, track, turns, aim } = this;
    const guides = track.layout.shapes.length;
    for (let n = 0; n <= STEPS; n++) this.rowOf(n, row + share - (late * n) / STEPS);
    const [now, rel, then] = [new Float64Array(4), new Float64Array(4), new Float64Array(4)];
    shapes.forEach(({ lengths, directions }, k) => {
      const g = track.layout.moved[k]!;
      quatConjugate(now, 0, turns, 4 * g);
      let whole = 0;
      for (let i = 0; i < lengths.length; i++) whole += lengths[i]!;
      let along = 0;
      for (let i = 0; i < lengths.length; i++) {
        const at = (STEPS * (along + lengths[i]! / 2)) / whole;
        along += lengths[i]!;
        const n = Math.min(STEPS - 1, Math.floor(at));
        const [a, b] = [4 * (n * guides + g), 4 * ((n + 1) * guides + g)];
        for (let q = 0; q < 4; q++) then[q] = turns[a + q]! + (at - n) * (turns[b + q]! - turns[a + q]!);
        quatNormalise(then, 0);
        quatMultiply(rel, 0, now, 0, then, 0);
        quatRotate(aim, 3 * i, rel, 0, directions, 3 * i);
      }
      strands.aim(k, aim);
    });
  }

  /** The turns of all roots at a time, in rows: in a loop before its beginning as at its end, carried back. */
  private rowOf(n: number, time: number): void {
    const { track, row, turns, loop } = this;
    const { roots } = track.source;
    const rows = roots.length / row.length;
    let [at, laps] = [time, 0];
    for (; loop && at < 1; laps++) at += loop.period;
    at = Math.max(loop ? 1 : Math.min(time, 1), at);
    const from = Math.min(rows - 1, Math.floor(Math.max(0, at)));
    rowAt(row, roots, row.length, from, Math.max(0, at) - from);
    const back = new Float64Array(4);
    if (loop) quatConjugate(back, 0, loop.travel, 3);
    const guides = row.length / 7;
    for (let g = 0; g < guides; g++) {
      const o = 4 * (n * guides + g);
      turns.set(row.subarray(7 * g + 3, 7 * g + 7), o);
      quatNormalise(turns, o);
      for (let lap = 0; lap < laps; lap++) quatMultiply(turns, o, back, 0, turns, o);
      if (n === 0) continue;
      // Of both signs the one nearer to what is later.
      const before = o - 4 * guides;
      let dot = 0;
      for (let q = 0; q < 4; q++) dot += turns[o + q]! * turns[before + q]!;
      if (dot < 0) for (let q = 0; q < 4; q++) turns[o + q] = -turns[o + q]!;
    }
  }
}
