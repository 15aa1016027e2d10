import type { IncomingMessage } from 'node:http';
import type { Context } from 'koa';
import type { z } from 'zod';
import { AppError } from '../errors';

const JSON_LIMIT = 16 * 2 ** 20;

const HALVES = /[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/g;

/** Text that the database can hold: without NUL, and without halves of characters. */
const clean = (_: string, value: unknown): unknown =>
  typeof value === 'string' ? value.replaceAll('\0', '').replace(HALVES, '\ufffd') : value;

/** Reads and validates a JSON body. Throws 415, 413, 400 or 422 with the place of the first fault. */
export async function readJson<T extends z.ZodType>(ctx: Context, schema: T): Promise<z.infer<T>> {
  if (!ctx.is('application/json'))
    throw new AppError(415, 'body.type', 'The body must be JSON.', 'Send Content-Type: application/json.');
  const chunks: Buffer[] = [];
  let total = 0;
  for await (const chunk of ctx.req as AsyncIterable<Buffer>) {
    total += chunk.length;
    if (total > JSON_LIMIT)
      throw new AppError(
        413,
        'body.too-large',
        `The body is larger than ${JSON_LIMIT / 2 ** 20} MiB.`,
        'Send fewer edits at a time.',
      );
    chunks.push(chunk);
  }
  let data: unknown;
  try {
    data = JSON.parse(Buffer.concat(chunks).toString('utf8'), clean);
  } catch {
    throw new AppError(400, 'body.invalid', 'The body is not valid JSON.', 'Send valid JSON.');
  }
  const parsed = schema.safeParse(data);
  if (!parsed.success) {
    const issue = parsed.error.issues[0]!;
    throw new AppError(
      422,
      'body.invalid',
      `${issue.message} (at /${issue.path.join('/')}).`,
      'Correct that value and send it again.',
    );
  }
  return parsed.data;
}

/** Reads and validates what stands after the question mark. Throws 400 with the name of the first fault. */
export function readQuery<T extends z.ZodType>(ctx: Context, schema: T): z.infer<T> {
  const parsed = schema.safeParse(ctx.query);
  if (parsed.success) return parsed.data;
  const { message, path } = parsed.error.issues[0]!;
  throw new AppError(400, 'request.invalid', `${message} (at ?${path.join('.')}).`, 'Correct the address.');
}

const UPLOADS = ['application/octet-stream', 'model/gltf-binary', 'model/gltf+json', 'application/zip'];

/** The body of a declared upload, as a stream. */
export function uploadStream(ctx: Context): IncomingMessage {
  if (!ctx.is(UPLOADS))
    throw new AppError(
      415,
      'body.type',
      'The body must be a character file.',
      `Send it as one of ${UPLOADS.join(', ')}.`,
    );
  return ctx.req;
}
