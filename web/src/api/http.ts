import { ApiError, ENDPOINTS, type EndpointName } from '@oscillum/core/contract';
import { z } from 'zod';

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
  /** Whether trying again later may help: the server or its database was away. */
  get passing(): boolean {
    return this.code === 'server.lost' || this.code === 'database.lost' || this.code === 'disk.full';
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
  return (endpoint.response as z.ZodType).parse(await response.json()) as Answer<N>;
}
