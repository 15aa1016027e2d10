import type { Cloth } from '../../solver/cloth/index';
import type { SheetPart } from './document';
import type { SheetLayout } from './layout';
import type { Ties } from './ties';
import { dampingOf, pullOf, type valuesOf } from './values';

/** What is tuned by the settings of a frame. */
interface Tuned {
  readonly cloth: Cloth;
  readonly values: ReturnType<typeof valuesOf>;
  readonly layout: SheetLayout;
  readonly part: SheetPart;
  readonly ties: Ties;
  /** How far it reaches from what holds it, m. */
  readonly length: number;
  /** Whether it is damped at least critically. */
  readonly calmed: boolean;
}

/** Takes up the settings of a frame at every point, and what its release lets go by then. */
export function tuneSheet({ cloth, values, layout, part, ties, length, calmed }: Tuned, frame: number): void {
  const { value } = values;
  const { hold, damping, leash, inner } = layout.shares;
  const [pull, far, deep] = [pullOf(value, frame), value('leash', frame), value('inner', frame)];
  const least = calmed ? 1 : 0;
  for (let p = 0; p < cloth.pull.length; p++) {
    const held = hold ? hold[p]! : 1;
    cloth.pull[p] = pull * held * held;
    cloth.damp[p] = dampingOf(value, frame, length, least, held, damping ? damping[p]! : 1);
    cloth.leash[p] = leash ? far * leash[p]! : far;
    cloth.inner[p] = inner ? deep * inner[p]! : deep;
  }
  // What nothing holds any more swings about nothing: its damping is that of its hold alone.
  if (part.release && !letGo(cloth, layout, part.release, ties, frame))
    cloth.damp.fill(dampingOf(value, frame, Infinity, least));
}

/**
 * What is held is let go when its frame has come; a leash of 0 holds it no more then. Returns whether anything is held.
 */
function letGo(
  cloth: Cloth,
  { held, shares }: SheetLayout,
  { first, last }: NonNullable<SheetPart['release']>,
  ties: Ties,
  frame: number,
): boolean {
  let any = ties.any;
  for (let p = 0; p < held.length; p++) {
    if (!held[p] || ties.holds[p]) continue;
    const on = frame < first + (shares.release ? shares.release[p]! * (last - first) : 0);
    cloth.hold(p, on);
    if (!on) cloth.leash[p] = cloth.inner[p] = Infinity;
    any ||= on;
  }
  return any;
}
