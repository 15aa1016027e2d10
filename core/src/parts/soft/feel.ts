import { makeRegion } from '../../solver/soft/index';
import type { AskedFeel, Feel, FittedFeel } from '../diagnosis';
import { fitTo } from '../fitting';
import { watchTurn } from '../quickTurn';
import type { RegionPart } from './document';
import { matterOf, valuesOf, type RegionValues } from './values';

/** Steps a second of the measurement, and how long it watches at most, s. */
const WATCH = { rate: 480, longest: 20, quiet: 1.5 } as const;
const MOST_HOLD = 30;

/** How a place that is painted full answers when its skin is moved quickly to the side, as a share of that way. */
export function regionFeel(value: RegionValues, fps: number, frame: number): Feel {
  const matter = { ...matterOf(value, frame), spread: 0, along: 1, volume: 0 };
  const one = () => Float64Array.of(1);
  const region = makeRegion(
    {
      ...{ points: 1, area: one(), share: one(), sums: new Float64Array(1) },
      ...{ from: new Int32Array(2), beside: new Int32Array(0), cotangents: new Float64Array(0) },
    },
    1 / WATCH.rate,
    null,
  );
  const driven = region.driven(matter);
  let [before, earlier] = [0, 0];
  const next = (turned: number) => {
    region.drive[0] = driven * WATCH.rate * WATCH.rate * (turned - 2 * before + earlier);
    region.step(matter);
    [before, earlier] = [turned, before];
    return turned + region.u[0]!;
  };
  return watchTurn(next, WATCH, fps);
}

/** A hold and a damping that give an asked feel. */
export function fitRegion(part: RegionPart, fps: number, frame: number, asked: AskedFeel): FittedFeel {
  const value = valuesOf(part);
  const hold = value('hold', frame);
  const set = (scale: number, damping: number) => ({ hold: Math.max(0.2, hold * scale), damping });
  return fitTo(asked, Math.max(0.01, value('damping', frame)), MOST_HOLD / hold, set, (s) =>
    regionFeel((key, f) => (key in s ? s[key as keyof typeof s] : value(key, f)), fps, frame),
  );
}
