/** An error that may be shown: stable code, HTTP status, what is wrong, what to do. */
export class AppError extends Error {
  override readonly name = 'AppError';
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly remedy: string,
  ) {
    super(message);
  }
}

export const notFound = (what: string) =>
  new AppError(
    404,
    'not-found',
    `There is no such ${what}.`,
    'It may have been deleted; go back to the library.',
  );

/** PostgreSQL and socket codes that mean the database is not there. */
const LOST = /^(ECONNREFUSED|ECONNRESET|EPIPE|ETIMEDOUT|57P0[1-3]|08...)$/;

/** Code and message of the failure at the bottom: what a query failed of, and not the query. */
export function rootOf(e: unknown): { code: string; message: string } {
  const cause = e instanceof Error && e.cause instanceof Error ? e.cause : e;
  return {
    code: String((cause as { code?: unknown } | null)?.code ?? ''),
    message: cause instanceof Error ? cause.message : String(cause),
  };
}

/** Whether the database was away. A message that merely speaks of a timeout does not say so. */
export function isDatabaseLost(e: unknown): boolean {
  const { code, message } = rootOf(e);
  return LOST.test(code) || /^Connection terminated|timeout exceeded when trying to connect/.test(message);
}
