import { makeRow, rowShot, type RootMotion } from '../truth/rig';
import type { ChainPart, ChainSettings } from '../src/parts/chain/shared';
import { editShot, type Shot } from '../src/shot/index';
import type { Frames } from '../src/frames/index';

export const still: RootMotion = () => ({ place: [0, 0, 0], turn: 0 });
export const swing: RootMotion = (t) => ({ place: [0, 0, 0], turn: 0.8 * Math.sin(5 * t) });
export const level = { direction: [1, 0, 0] as const };

/** A shot of one row with its part changed. */
export function shotOf(
  character: ReturnType<typeof makeRow>,
  settings: Partial<ChainSettings>,
  recipe: (part: ChainPart, shot: Shot) => void = () => undefined,
): Shot {
  return editShot(rowShot(character, settings), 'test-0001', 'Change', (d) =>
    recipe(d.parts.p as ChainPart, d as Shot),
  ).shot;
}
export const tip = (f: Frames, k: number, chain = 0) =>
  [0, 1, 2].map((a) => f.tips[3 * (k * f.parts.length + chain) + a]!);
export const mean = (list: ArrayLike<number>) => Array.from(list).reduce((a, b) => a + b, 0) / list.length;
