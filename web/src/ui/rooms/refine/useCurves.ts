import { useMemo } from 'react';
import type { Channel } from '@oscillum/core/character';
import { channelKey, readCurve, type Curves, type Ground, type ReadCurve } from '@oscillum/core/refine';
import { useDesk } from '../../kit/desk';
import type { DrawnCurve } from './draw';
import type { Chosen, RefineDesk } from './refineDesk';

/** Up to so many joints the bake and the source are drawn beside; and curves are read twice a frame. */
const FEW = 8;

const NONE: ReadonlySet<number> = new Set();

/** The shown joints' curves as they are drawn. What was read of a channel is kept for as long as it is the same one. */
export function useCurves(desk: RefineDesk, chosen: Chosen): DrawnCurve[] {
  const { character } = useDesk();
  const { nodes, path, now, base, every, ground, range, untouched, nameOf } = desk;
  const few = nodes.length <= FEW;
  const { first, last } = range;
  const read = useMemo(() => {
    const known = new WeakMap<Channel, ReadCurve>();
    return (c: Channel | undefined): ReadCurve | null => {
      if (!c) return null;
      let found = known.get(c);
      if (!found) known.set(c, (found = readCurve(c, character, first, last, few ? 2 : 1, ground)));
      return found;
    };
  }, [character, first, last, few, ground]);
  const sources = useMemo(() => {
    const known = new Map<number, Channel>();
    return (node: number) => {
      let c = known.get(node);
      if (!c) known.set(node, (c = sourceChannel(node, path, first, last, ground)));
      return c;
    };
  }, [path, first, last, ground]);
  const sets = useMemo(
    () => new Map(Object.entries(chosen).map(([key, frames]) => [key, new Set(frames)])),
    [chosen],
  );
  return useMemo(
    () =>
      nodes.flatMap((node): DrawnCurve[] => {
        const key = channelKey(node, path);
        const mine = read((untouched ? base : now).get(key));
        if (!mine) return [];
        const changed = now.get(key) !== base.get(key);
        return [
          {
            ...{ key, name: nameOf(node), now: mine },
            bake: few && changed && !untouched ? read(base.get(key)) : null,
            every: few && every ? read(every.get(key)) : null,
            source: few ? read(sources(node)) : null,
            chosen: sets.get(key) ?? NONE,
          },
        ];
      }),
    // nameOf is made anew each time and says the same.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [nodes, path, now, base, every, untouched, few, read, sources, sets],
  );
}

/** The source's motion as a channel with a key on every frame. */
function sourceChannel(
  node: number,
  path: 'rotation' | 'translation',
  first: number,
  last: number,
  ground: Ground,
): Channel {
  const size = path === 'rotation' ? 4 : 3;
  const count = last - first + 1;
  const values = new Float64Array(size * count);
  for (let f = 0; f < count; f++) values.set(Array.from(ground.source(node, path, first + f)), size * f);
  const times = Float64Array.from({ length: count }, (_, f) => (first + f) / ground.fps + ground.shift);
  return { node, path, interpolation: 'LINEAR', times, values };
}

/** Lowest and highest of the values that are shown, with room round them. */
export function valueRange(
  curves: readonly DrawnCurve[],
  shown: readonly boolean[],
  least: number,
): { low: number; high: number } {
  let low = Infinity;
  let high = -Infinity;
  for (const { now } of curves)
    for (let i = 0; i < now.samples.length; i++)
      if (shown[i % 3]) {
        low = Math.min(low, now.samples[i]!);
        high = Math.max(high, now.samples[i]!);
      }
  if (!(high >= low)) return { low: -least, high: least };
  const room = Math.max(least - (high - low), 0.24 * (high - low)) / 2;
  return { low: low - room, high: high + room };
}

/** Keys of the shown joints between two frames. */
export function keysBetween(
  nodes: readonly number[],
  path: 'rotation' | 'translation',
  curves: Curves,
  frames: (c: Channel) => readonly number[],
  first: number,
  last: number,
): Chosen {
  return Object.fromEntries(
    nodes.flatMap((node): [string, number[]][] => {
      const key = channelKey(node, path);
      const c = curves.get(key);
      const inside = c ? frames(c).filter((f) => f >= first && f <= last) : [];
      return inside.length > 0 ? [[key, inside]] : [];
    }),
  );
}
