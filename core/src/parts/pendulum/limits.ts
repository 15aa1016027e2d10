/** Share of the way to a limit up to which nothing is held back, and the least room (in any unit) in which it is. */
const FREE = 0.7;
const LEAST_ROOM = 1e-3;

/**
 * Keeps a value between limits: as it is well within them, then ever slower, never past; two derivatives go over
 * smoothly.
 */
export function softly(x: number, low: number | null, high: number | null): number {
  const reach =
    low !== null && high !== null ? (high - low) / 2 : Math.max(LEAST_ROOM, Math.abs(high ?? low ?? 0));
  const room = (1 - FREE) * reach;
  if (high !== null && high - x < room) return high - left(high - x, room);
  if (low !== null && x - low < room) return low + left(x - low, room);
  return x;
}

/** What is left of the room before a limit when without it so much were left (which may be below 0). */
function left(without: number, room: number): number {
  const t = (room - without) / room;
  // room · (1 − t / √(1 + t²)), in a form that stays above 0.
  const s = Math.sqrt(1 + t * t);
  return room / (s * (s + t));
}
