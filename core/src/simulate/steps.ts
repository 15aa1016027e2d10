/**
 * Steps a second that a simulation takes at least. Below, the path of a tip driven hard depends on the rate by more
 * than 1 % of its length (row 7 of the truth table), and a chain struck by a free collider loses more than 0.1 % of the
 * momentum (row 11).
 */
const LEAST_RATE = 120;
const LEAST_RATE_FREE = 240;

/**
 * Steps a frame is cut into: the shot's substeps, or more where frames are long; `free` is whether colliders move
 * freely.
 */
export function stepsAFrame(fps: number, substeps: number, free: boolean): number {
  return Math.max(substeps, Math.ceil((free ? LEAST_RATE_FREE : LEAST_RATE) / fps - 1e-9));
}
