import type { Middleware } from 'koa';
import type { Logger } from 'pino';
import { OscillumError } from '@oscillum/core/model';
import { AppError, isDatabaseLost, rootOf } from '../errors';

const STATUS: Partial<Record<OscillumError['code'], number>> = { 'file.too-large': 413, 'edit.invalid': 409 };

/** PostgreSQL's code for a write while it takes none. */
const READ_ONLY = '25006';
/** PostgreSQL and file system codes that mean there is no room. */
const FULL = /^(53100|ENOSPC)$/;

/**
 * The one place where errors become answers. Anything not meant to be shown is logged and answered as a fault of ours.
 */
export function mapErrors(log: Logger): Middleware {
  return async (ctx, next) => {
    try {
      await next();
      if (ctx.status === 404 && ctx.body === undefined)
        throw new AppError(
          404,
          'not-found',
          `There is nothing at ${ctx.path.slice(0, 200)}.`,
          'Check the address.',
        );
    } catch (e) {
      const shown = toShown(e);
      if (shown.status >= 500) log.error({ err: e, path: ctx.path }, 'request failed');
      // A body that was refused unread would be taken for the next request on this connection.
      if (!ctx.req.complete) ctx.set('Connection', 'close');
      ctx.status = shown.status;
      ctx.body = { error: { code: shown.code, message: shown.message, remedy: shown.remedy } };
    }
  };
}

/** What Koa and its packages say of a bad path, query or range: the caller's fault, not ours. */
const isRefusal = (e: unknown): e is { status: number } => {
  const { status, expose } = (e ?? {}) as { status?: unknown; expose?: unknown };
  return typeof status === 'number' && status >= 400 && status < 500 && expose === true;
};

function toShown(e: unknown): AppError {
  if (e instanceof AppError) return e;
  if (e instanceof OscillumError) {
    const where = e.place ? ` (at ${e.place})` : '';
    return new AppError(STATUS[e.code] ?? 422, e.code, `${e.message.replace(/\.$/, '')}${where}.`, e.remedy);
  }
  if (isRefusal(e))
    return new AppError(
      e.status,
      'request.invalid',
      'This request cannot be read.',
      'Check its address and headers.',
    );
  if (isDatabaseLost(e)) {
    return new AppError(
      503,
      'database.lost',
      'The database does not answer.',
      'Your work is kept in this browser and sent when it is back. If it stays away, restart npm start.',
    );
  }
  if (FULL.test(rootOf(e).code))
    return new AppError(
      507,
      'disk.full',
      'The disk of the server is full, so this was not saved.',
      'Free some space; your work is kept in this browser until then.',
    );
  if (rootOf(e).code === READ_ONLY)
    return new AppError(
      503,
      'database.read-only',
      'The database takes no changes now, so this was not saved.',
      'Your work is kept in this browser. Whoever looks after the database can let it be written again.',
    );
  return new AppError(
    500,
    'fault',
    'Something went wrong on the server; it has been logged.',
    'Try again; if it happens again, restart npm start and look at its log.',
  );
}
