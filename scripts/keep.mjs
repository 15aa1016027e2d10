/** Begins again what died, a little later each time, and gives up after five times within a short while. */

const TRIES = 5;
/** After this long without a death, earlier ones no longer count, ms. */
const STEADY_MS = 60_000;

/** How long to wait before the next beginning, ms; or null when there were too many. */
export function makeTries(now = Date.now) {
  let tries = 0;
  let last = 0;
  return () => {
    if (now() - last > STEADY_MS) tries = 0;
    last = now();
    return ++tries > TRIES ? null : 250 * 2 ** (tries - 1);
  };
}
