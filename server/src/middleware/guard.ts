import { timingSafeEqual } from 'node:crypto';
import type { Middleware } from 'koa';
import type { Config } from '../config';
import { AppError } from '../errors';

/** Lets in only requests addressed to us by our own name, from our own pages, with the token where one is asked. */
export function guard(config: Config, address: () => { host: string; port: number }): Middleware {
  return async (ctx, next) => {
    const { host, port } = address();
    const names = new Set([`127.0.0.1:${port}`, `localhost:${port}`, `[::1]:${port}`, `${host}:${port}`]);
    if (!config.token && !names.has(ctx.get('host'))) {
      throw new AppError(
        403,
        'host.refused',
        'This address is not served here.',
        `Open http://127.0.0.1:${port}.`,
      );
    }
    const origin = ctx.get('origin');
    const own = config.token ? `${ctx.protocol}://${ctx.get('host')}` : null;
    if (
      origin &&
      origin !== own &&
      !names.has(origin.replace(/^https?:\/\//, '')) &&
      !config.origins.includes(origin)
    ) {
      throw new AppError(
        403,
        'origin.refused',
        'Requests from other sites are refused.',
        'Use the application’s own page.',
      );
    }
    if (config.token) admit(ctx, config.token);
    await next();
  };
}

const COOKIE = 'oscillum-token';

function admit(ctx: Parameters<Middleware>[0], token: string): void {
  const given =
    ctx.cookies.get(COOKIE) ??
    (ctx.get('authorization').replace(/^Bearer /, '') ||
      (typeof ctx.query.token === 'string' ? ctx.query.token : ''));
  const a = Buffer.from(given.padEnd(token.length).slice(0, token.length));
  if (given.length !== token.length || !timingSafeEqual(a, Buffer.from(token))) {
    throw new AppError(
      401,
      'token.needed',
      'This Oscillum asks for a token.',
      'Open its address with ?token=… as its owner told you.',
    );
  }
  if (ctx.query.token) ctx.cookies.set(COOKIE, token, { httpOnly: true, sameSite: 'strict' });
}
