import { alongEdges } from './paths';
import type { Sheet } from './sheet';

/** How far a cloth reaches from what holds it, m: along its edges; or its size when nothing holds it. */
export function lengthOf(sheet: Sheet, held: Uint8Array): number {
  const reach = alongEdges(sheet, held).reduce((m, d) => (d < Infinity ? Math.max(m, d) : m), 0);
  return reach > 0 ? reach : Math.sqrt(sheet.area.reduce((a, b) => a + b, 0)) || 1;
}
