import { Link, useRouteError } from 'react-router';

/** An address that leads nowhere, or a screen that failed. */
export function Lost() {
  const error = useRouteError();
  return (
    <div className="waiting" role="alert">
      <div>
        <h1>{error ? 'This screen failed' : 'There is nothing at this address'}</h1>
        <p className="muted">
          {error instanceof Error
            ? `${error.message}. Your work is saved; reload the page to go on.`
            : 'The shot may have been deleted, or the address mistyped.'}
        </p>
        <Link to="/">To the library</Link>
      </div>
    </div>
  );
}
