/**
 * Runs `end` once, when this process is told to end or (as a child) when the one that started it is gone; then exits.
 */
export function onEnd(end: () => Promise<void>): void {
  let ending = false;
  const run = async () => {
    if (ending) return;
    ending = true;
    await end();
    process.exit(0);
  };
  process.on('SIGINT', () => void run());
  process.on('SIGTERM', () => void run());
  if (process.env.OSCILLUM_CHILD) {
    // Our starter holds the other end of stdin: when it is gone, so are we.
    process.stdin.on('end', () => void run());
    process.stdin.resume();
  }
}
