/** One npm start for a data folder: who holds it, and at which address it serves. Node's own modules only. */
import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { dirname } from 'node:path';
import { SetupError } from './postgres.mjs';

/** Whether the process is still there and is a start command, and not another one that was given its number. */
function isStarter(pid) {
  try {
    return /start\.mjs/.test(readFileSync(`/proc/${pid}/cmdline`, 'utf8'));
  } catch {
    return false;
  }
}

/**
 * Takes the lock file for this process. Returns null when it was free, or `{pid, address}` of the running start
 * command that holds it; its address is null until it serves. Throws SetupError when the folder cannot be written.
 */
export function takeLock(file) {
  try {
    mkdirSync(dirname(file), { recursive: true });
    for (;;) {
      try {
        writeFileSync(file, JSON.stringify({ pid: process.pid, address: null }), { flag: 'wx' });
        return null;
      } catch (e) {
        if (e.code !== 'EEXIST') throw e;
      }
      const holder = readLock(file);
      if (holder && holder.pid !== process.pid && isStarter(holder.pid)) return holder;
      // Left behind by one that was killed.
      rmSync(file, { force: true });
    }
  } catch (e) {
    throw new SetupError(
      `The data folder ${dirname(file)} cannot be written (${e.code}). Make it writable, or choose another: OSCILLUM_DATA=/some/folder npm start`,
    );
  }
}

/** What the lock file says, or null when there is none. */
export function readLock(file) {
  try {
    return JSON.parse(readFileSync(file, 'utf8'));
  } catch {
    return null;
  }
}

/** Tells others at which address this process serves. */
export function tellAddress(file, address) {
  writeFileSync(file, JSON.stringify({ pid: process.pid, address }));
}

export function dropLock(file) {
  if (readLock(file)?.pid === process.pid) rmSync(file, { force: true });
}
