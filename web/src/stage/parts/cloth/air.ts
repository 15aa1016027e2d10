import type { ClothPart } from '@oscillum/core/cloth';
import { settingAt } from '../../../state/settingAt';
import { airPush, forceField } from '@oscillum/core/simulate';
import { inOrder } from '@oscillum/core/model';
import { framesAt } from '../../../sim/picture';
import type { Seen, Standing } from '../kind';
import { facing, ofPoints, wornOn, type Worn } from './skin';

/** Strokes on a cloth at most; how long one is, m for each Pa of push; how short it may be. */
const MOST = 260;
const LONG = 2.5e-3;
const LEAST = 2e-3;

const felt = new Float64Array(6);

/** What the air does to a cloth: strokes from its points the way it pushes them, longer where it pushes harder. */
export function airStrokes(part: ClothPart, at: Seen): Float64Array {
  const worn = wornOn(part, at);
  const { shot, frame } = at;
  if (!worn || shot.airDensity === 0) return new Float64Array(0);
  const { sheet } = worn;
  const x = ofPoints(worn, worn.now);
  const past = speedsOf(worn, x, at).map((v) => -v);
  for (const force of inOrder(shot.forces)) {
    if (force.muted || (force.parts !== 'all' && !force.parts.some((id) => id === part.id))) continue;
    const field = forceField(force, shot.fps);
    field.at(frame);
    for (let o = 0; o < x.length; o += 3) {
      felt.fill(0);
      field.add(felt, x[o]!, x[o + 1]!, x[o + 2]!);
      for (let a = 0; a < 3; a++) past[o + a]! += felt[a]!;
    }
  }
  const sail = {
    drag: settingAt(part, 'drag', frame),
    lift: settingAt(part, 'lift', frame),
    density: shot.airDensity,
  };
  const push = airPush(x, past, sheet.triangles, sail);
  const every = Math.max(1, Math.ceil(sheet.points / MOST));
  const by = LONG / shot.character.metresPerUnit ** 2;
  const out: number[] = [];
  const faces = facing(worn, x, at.toward);
  for (let p = 0; p < sheet.points; p += every) {
    if (!faces[p]) continue;
    const way = [0, 1, 2].map((a) => (push[3 * p + a]! / Math.max(sheet.area[p]!, 1e-12)) * by);
    if (Math.hypot(...way) < LEAST) continue;
    const from = [0, 1, 2].map((a) => x[3 * p + a]!);
    out.push(...from, ...from.map((v, a) => v + way[a]!));
  }
  return Float64Array.from(out);
}

/** How fast its points are, m/s: by where they were a frame before. */
function speedsOf(
  { node, vertexOf }: Worn,
  x: Float64Array,
  { shot, picture, frame }: Standing,
): Float64Array {
  const f = Math.round(frame) - (picture.frames?.first ?? 0);
  const rows = framesAt(picture, f);
  const out = new Float64Array(x.length);
  if (!rows || f < 1) return out;
  const column = rows.pointed.findIndex((p) => p.node === node && !p.picked && !p.curves);
  const before = rows.pointed.slice(0, Math.max(0, column)).reduce((n, p) => n + p.vertices, 0);
  const wide = rows.pointed.reduce((n, p) => n + p.vertices, 0);
  if (column < 0) return out;
  vertexOf.forEach((v, p) => {
    for (let a = 0; a < 3; a++) {
      const there = (k: number) => rows.points[3 * (k * wide + before + v) + a]!;
      out[3 * p + a] = (there(f) - there(f - 1)) * shot.fps;
    }
  });
  return out;
}
