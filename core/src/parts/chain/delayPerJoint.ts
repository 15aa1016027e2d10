import { quatConjugate, quatMultiply, quatNormalise, quatRotate } from '../../math/index';
import type { SourceRows } from '../../solver/index';
import type { SourceTrack } from '../kind';
import { rowAt } from '../rows';
import type { ChainTuning } from './tuning';

/**
 * The source rows a chain of n links chases under a delay per joint: link i points where its source pointed
 * `i · delay` frames earlier, or the sum of the delays of the links down to it where they differ. Before the first row
 * it is the first row; in a loop it is the end of the loop, carried back by its travel. Returns the track's own rows
 * when nothing is delayed.
 */
export function delayedRows(c: SourceRows, n: number, track: SourceTrack, tuning: ChainTuning): SourceRows {
  const pointSize = 3 * (n + 1);
  const rows = c.points.length / pointSize;
  const frameOf = (k: number) => track.from - 1 + k;
  const delays = Float64Array.from({ length: rows }, (_, k) =>
    Math.max(0, tuning.value('delayPerJoint', frameOf(k))),
  );
  if (delays.every((d) => d === 0)) return c;
  const points = track.arena.alloc(c.points.length);
  const turns = track.arena.alloc(c.turns.length);
  const pointRow = new Float64Array(pointSize);
  const turnRow = new Float64Array(4 * n);
  const back = new Float64Array(4);
  const way = new Float64Array(3);
  if (track.loop) quatConjugate(back, 0, track.loop.travel, 3);
  for (let k = 0; k < rows; k++) {
    for (let a = 0; a < 3; a++) points[k * pointSize + a] = c.points[k * pointSize + a]!;
    const each = tuning.varies('delayPerJoint') ? tuning.links('delayPerJoint', frameOf(k)) : null;
    let late = 0;
    for (let i = 0; i < n; i++) {
      late = each ? late + (i > 0 ? each[i]! : 0) : i * delays[k]!;
      let at = k - late;
      let laps = 0;
      for (; track.loop && at < 1; laps++) at += track.loop.period;
      at = Math.max(track.loop ? 1 : Math.min(k, 1), at);
      const row = Math.min(rows - 1, Math.floor(at));
      rowAt(pointRow, c.points, pointSize, row, at - row);
      rowAt(turnRow, c.turns, 4 * n, row, at - row);
      quatNormalise(turnRow, 4 * i);
      let own = 0;
      let old = 0;
      for (let a = 0; a < 3; a++) {
        const o = k * pointSize + 3 * i + a;
        way[a] = pointRow[3 * i + 3 + a]! - pointRow[3 * i + a]!;
        own += (c.points[o + 3]! - c.points[o]!) ** 2;
        old += way[a]! ** 2;
      }
      for (let lap = 0; lap < laps; lap++) {
        quatRotate(way, 0, back, 0, way, 0);
        quatMultiply(turnRow, 4 * i, back, 0, turnRow, 4 * i);
      }
      const per = old > 0 ? Math.sqrt(own / old) : 0;
      for (let a = 0; a < 3; a++) {
        const o = k * pointSize + 3 * i + a;
        points[o + 3] = points[o]! + per * way[a]!;
      }
      // Signs stay continuous in time.
      const q = 4 * (k * n + i);
      let dot = 1;
      if (k > 0) {
        dot = 0;
        for (let a = 0; a < 4; a++) dot += turnRow[4 * i + a]! * turns[q - 4 * n + a]!;
      }
      for (let a = 0; a < 4; a++) turns[q + a] = dot < 0 ? -turnRow[4 * i + a]! : turnRow[4 * i + a]!;
    }
  }
  return { points, turns };
}
