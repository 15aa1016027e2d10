import { ApiError, ENDPOINTS, type EndpointName } from '@oscillum/core/contract';
import { z } from 'zod';

const PASSING: ReadonlySet<string> = new Set(['server.lost', 'database.lost', 'disk.full', 'fault']);

/** A failed call: what the server said, or that it did not answer. `code` is 'server.lost' when there was no answer. */
export class CallError extends Error {
  override readonly name = 'CallError';
  constructor(
    readonly code: string,
    message: string,
    readonly remedy: string,
  ) {
    super(message);
  }
  /** Whether trying again later may help: the server or its database was away, or it stumbled. */
  get passing(): boolean {
    return PASSING.has(this.code);
  }
}

type Answer<N extends EndpointName> = (typeof ENDPOINTS)[N]['response'] extends infer R
  ? R extends z.ZodType
    ? z.infer<R>
    : Response
  : never;

interface Call {
  params?: Record<string, string>;
  query?: Record<string, string>;
  /** JSON, or a file to upload. */
  body?: unknown;
  /** Whether it goes on when the page is left; its body must be small then. */
  keepalive?: boolean;
}

/** The address of an endpoint. */
export function addressOf(name: EndpointName, { params = {}, query = {} }: Call = {}): string {
  const path = ENDPOINTS[name].path
    .replace(/\?.*$/, '')
    .replace(/:(\w+)/g, (_, key: string) => encodeURIComponent(params[key] ?? ''));
  const search = new URLSearchParams(query).toString();
  return search ? `${path}?${search}` : path;
}

/** Calls an endpoint of the contract. Throws CallError. */
export async function call<N extends EndpointName>(name: N, options: Call = {}): Promise<Answer<N>> {
  const endpoint = ENDPOINTS[name];
  const upload = options.body instanceof Blob;
  let response: Response;
  try {
    response = await fetch(addressOf(name, options), {
      method: endpoint.method,
      keepalive: options.keepalive ?? false,
      body:
        options.body === undefined
          ? undefined
          : upload
            ? (options.body as Blob)
            : JSON.stringify(options.body),
      headers:
        options.body === undefined
          ? {}
          : { 'Content-Type': upload ? 'application/octet-stream' : 'application/json' },
    });
  } catch {
    throw new CallError(
      'server.lost',
      'The server does not answer.',
      'Start it again with npm start; your work is kept in this browser.',
    );
  }
  if (!response.ok) {
    const parsed = ApiError.safeParse(await response.json().catch(() => null));
    if (parsed.success)
      throw new CallError(parsed.data.error.code, parsed.data.error.message, parsed.data.error.remedy);
    throw new CallError(
      'server.lost',
      `The server answered with ${response.status}.`,
      'Try again in a moment.',
    );
  }
  if (endpoint.response === 'bytes') return response as Answer<N>;
  const said: unknown = await response.json().catch(() => {
    throw new CallError('server.lost', 'The answer of the server was cut short.', 'Try again in a moment.');
  });
  return (endpoint.response as z.ZodType).parse(said) as Answer<N>;
}
