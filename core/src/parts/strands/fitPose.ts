import type { Character } from '../../character/index';
import { rootMatrix } from '../../character/index';
import { atan2, quatRotate } from '../../math/index';
import { makeStrands } from '../../solver/strands/index';
import type { Posed } from '../kind';
import type { StrandsPart } from './document';
import { readGroom, type Groom } from './groom';
import type { StrandsLayout } from './layout';
import { makeStrandsSource } from './source';
import { factorsAlong, valuesOf } from './values';

/** s a step; steps in which it comes to rest at most; and its ways in a step, as a share of the length, at rest. */
const H = 1 / 120;
const MOST_STEPS = 600;
const STILL = 2e-6;
/** Guides that are looked at. */
const FEW = 12;
/** Hz: least and most of hold and bend, and the finest change of both, as a factor. */
const RANGE = { hold: [0.05, 30], bend: [0.05, 60] } as const;
const FINEST = 1.02;

/** A hold and a bend with which hair hangs as it is combed, and how far it is off before and after, degrees. */
export interface FittedPose {
  readonly hold: number;
  readonly bend: number;
  readonly before: number;
  readonly after: number;
}

/**
 * Finds the hold and the bend (Hz) with which hair, hanging still in a pose, comes nearest to a combed example of it:
 * the mean angle between its links and those of the example, by length, is made as small as it can be (pattern search
 * on factors of both). Null when the example was combed with other guides.
 */
export function fitPose(
  character: Character,
  part: StrandsPart,
  layout: StrandsLayout,
  { posed, gravity, upAxis, frame }: PoseNeeds,
  example: Groom,
): FittedPose | null {
  if (example.points.join() !== part.groom.points.join() || layout.guides.length === 0) return null;
  const off = hangs(character, part, layout, { posed, gravity, upAxis, frame }, example);
  const value = valuesOf(part);
  const clamp = (key: 'hold' | 'bend', x: number) => Math.min(RANGE[key][1], Math.max(RANGE[key][0], x));
  let best = { hold: clamp('hold', value('hold', frame)), bend: clamp('bend', value('bend', frame)) };
  const before = off(value('hold', frame), value('bend', frame));
  let least = off(best.hold, best.bend);
  for (let by = 2; by > FINEST;) {
    const tries = [
      { ...best, hold: best.hold * by },
      { ...best, hold: best.hold / by },
      { ...best, bend: best.bend * by },
      { ...best, bend: best.bend / by },
    ].map((t) => ({ hold: clamp('hold', t.hold), bend: clamp('bend', t.bend) }));
    const found = tries.map((t) => off(t.hold, t.bend));
    const k = found.indexOf(Math.min(...found));
    if (found[k]! < least * (1 - 1e-4)) [best, least] = [tries[k]!, found[k]!];
    else by = Math.sqrt(by);
  }
  const round = (x: number) => Number(x.toPrecision(3));
  const [hold, bend] = [round(best.hold), round(best.bend)];
  return { hold, bend, before, after: off(hold, bend) };
}

/** The pose that hair hangs in, m/s² on the shot, which axis of its file is up, and the frame its settings are of. */
export interface PoseNeeds {
  readonly posed: Posed;
  readonly gravity: readonly number[];
  readonly upAxis: 'Y' | 'Z';
  readonly frame: number;
}

/** By hold and bend: how far hair that hangs still is off an example, degrees on the mean. */
function hangs(
  character: Character,
  part: StrandsPart,
  layout: StrandsLayout,
  { posed, gravity, upAxis, frame }: PoseNeeds,
  example: Groom,
): (hold: number, bend: number) => number {
  const source = makeStrandsSource(layout, character, 1);
  source.write(0, posed);
  const step = Math.max(1, Math.floor(layout.guides.length / FEW));
  const picked = Array.from(layout.guides.keys()).filter((g) => g % step === 0);
  const shapes = picked.map((g) => layout.shapes[g]!);
  const roots = Float64Array.from(picked.flatMap((g) => Array.from(source.roots.subarray(7 * g, 7 * g + 7))));
  const wanted = readGroom(example);
  const strands = makeStrands(shapes, H, null);
  const value = valuesOf(part);
  const g = value('gravity', frame);
  const up = rootMatrix(1, upAxis);
  const rest = [0, 1, 2].map((a) => g * [0, 1, 2].reduce((sum, r) => sum + up[4 * a + r]! * gravity[r]!, 0));
  const pull = gravity.map((x) => g * x);
  return (hold, bend) => {
    shapes.forEach(({ lengths }, k) => {
      const of = (key: 'hold' | 'bend') => layout.shares[key]?.[picked[k]!] ?? 1;
      strands.tune(k, {
        ...{ hold, bend, damping: 1, weight: value('weight', frame) / 1000 },
        gravity: rest as [number, number, number],
        keeps: part.keepsGroom ? 1 - value('droop', frame) / 100 : 0,
        ...factorsAlong(part, value('root', frame), lengths, { hold: of('hold'), bend: of('bend') }),
      });
    });
    strands.begin(roots, roots);
    for (let n = 0; n < MOST_STEPS; n++) {
      strands.predict(roots, pull, 1, 1);
      strands.solve(0);
      if (n > 10 && strands.way.every((d) => Math.abs(d) < STILL * layout.length)) break;
    }
    let [sum, whole] = [0, 0];
    const way = new Float64Array(3);
    shapes.forEach(({ lengths }, k) => {
      const guide = wanted[layout.picked[picked[k]!]!]!;
      if (guide.length !== 3 * (lengths.length + 1)) return;
      lengths.forEach((l, i) => {
        const o = 3 * (strands.first[k]! + i);
        for (let a = 0; a < 3; a++) way[a] = guide[3 * i + 3 + a]! - guide[3 * i + a]!;
        quatRotate(way, 0, roots, 7 * k + 3, way, 0);
        const is = [0, 1, 2].map((a) => strands.x[o + a]! - (i > 0 ? strands.x[o + a - 3]! : 0));
        const dot = is.reduce((s, x, a) => s + x * way[a]!, 0);
        const cross = [
          is[1]! * way[2]! - is[2]! * way[1]!,
          is[2]! * way[0]! - is[0]! * way[2]!,
          is[0]! * way[1]! - is[1]! * way[0]!,
        ];
        sum += l * atan2(Math.sqrt(cross.reduce((s, x) => s + x * x, 0)), dot);
        whole += l;
      });
    });
    return whole > 0 ? ((180 / Math.PI) * sum) / whole : 0;
  };
}
