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
