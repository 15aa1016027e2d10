import { plainFrame } from '@oscillum/core/refine';
import { xOf, yOf, type DrawnCurve, type Scale, type SlopeHandle } from './draw';
import type { Chosen } from './refineDesk';

/** How near a press must be to what it takes, px. */
export const NEAR = 7;

/** The key nearest to a point (px), if one is near, of the shown components. */
export function keyNear(
  curves: readonly DrawnCurve[],
  shown: readonly boolean[],
  scale: Scale,
  x: number,
  y: number,
): { key: string; frame: number; component: number } | null {
  let best = NEAR;
  let found: { key: string; frame: number; component: number } | null = null;
  for (const { key, now: c } of curves)
    for (let k = 0; k < c.keys.length; k++) {
      const dx = Math.abs(xOf(scale, c.keys[k]!) - x);
      if (dx > best) continue;
      for (let component = 0; component < 3; component++) {
        if (!shown[component]) continue;
        const d = Math.max(dx, Math.abs(yOf(scale, c.values[3 * k + component]!) - y));
        if (d < best) {
          best = d;
          found = { key, frame: c.keys[k]!, component };
        }
      }
    }
  return found;
}

/** The keys in a box (px) by any shown component, beside those that are chosen already. */
export function keysInBox(
  curves: readonly DrawnCurve[],
  shown: readonly boolean[],
  scale: Scale,
  box: { left: number; top: number; width: number; height: number },
  beside: Chosen,
): Chosen {
  const inside: Record<string, number[]> = Object.fromEntries(
    Object.entries(beside).map(([k, list]) => [k, [...list]]),
  );
  for (const { key, now: c } of curves)
    c.keys.forEach((f, k) => {
      const x = xOf(scale, f) - box.left;
      if (x < 0 || x > box.width) return;
      const hit = shown.some((visible, component) => {
        const y = yOf(scale, c.values[3 * k + component]!) - box.top;
        return visible && y >= 0 && y <= box.height;
      });
      if (hit && !inside[key]?.includes(f)) (inside[key] ??= []).push(f);
    });
  return inside;
}

/** The slope (value per frame) of a handle that is held at a point (px); it stays on its own side of the key. */
export function slopeAt(h: SlopeHandle, scale: Scale, x: number, y: number): number {
  const way = h.side === 'out' ? 1 : -1;
  const frames = (Math.max(2, way * (x - h.atX)) / scale.width) * (scale.to - scale.from);
  const rise = (-(y - h.atY) / scale.height) * (scale.high - scale.low);
  return (way * rise) / frames;
}

/** Chosen keys so many frames on. */
export const shifted = (chosen: Chosen, by: number): Chosen =>
  Object.fromEntries(Object.entries(chosen).map(([key, list]) => [key, list.map((f) => plainFrame(f + by))]));

/** What is chosen after a press on a key: that one alone, or with Shift that one more or less. */
export function chosenBy(
  chosen: Chosen,
  { key, frame }: { key: string; frame: number },
  more: boolean,
): Chosen {
  const was = chosen[key] ?? [];
  const already = was.includes(frame);
  if (more) return { ...chosen, [key]: already ? was.filter((f) => f !== frame) : [...was, frame] };
  return already ? chosen : { [key]: [frame] };
}

/** The box between two points (px). */
export const boxOf = (a: { x: number; y: number }, b: { x: number; y: number }) => ({
  left: Math.min(a.x, b.x),
  top: Math.min(a.y, b.y),
  width: Math.abs(a.x - b.x),
  height: Math.abs(a.y - b.y),
});
