import { createHash, timingSafeEqual } from 'node:crypto';
import type { Context, Middleware } from 'koa';
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
    const isOurs =
      origin === own || names.has(origin.replace(/^https?:\/\//, '')) || config.origins.includes(origin);
    // A browser says so too when it leaves out the origin.
    const isForeignForm =
      !['GET', 'HEAD'].includes(ctx.method) &&
      !['', 'same-origin', 'none'].includes(ctx.get('sec-fetch-site'));
    if (origin ? !isOurs : isForeignForm) {
      throw new AppError(
        403,
        'origin.refused',
        'Requests from other sites are refused.',
        'Use the application’s own page.',
      );
    }
    // Whoever looks after the machine may ask whether it is well.
    if (config.token && ctx.path !== '/api/health' && !admit(ctx, config.token)) return;
    await next();
  };
}

const COOKIE = 'oscillum-token';

/** A token may hold letters that a cookie may not. */
const inCookie = (token: string): string => encodeURIComponent(token);

/** Whether two texts are the same, in a time that says nothing of where they differ. */
function isSame(a: string, b: string): boolean {
  const [x, y] = [a, b].map((s) => createHash('sha256').update(s).digest()) as [Buffer, Buffer];
  return timingSafeEqual(x, y);
}

/**
 * Lets in whoever brings the token: in a header, the address or a cookie. One that is right wins over others that are
 * not. A person is sent on to the same address without it, so that it does not stay in the address bar. Returns
 * whether the request goes on.
 */
function admit(ctx: Context, token: string): boolean {
  const inAddress = typeof ctx.query.token === 'string' ? ctx.query.token : '';
  const given = [ctx.get('authorization').replace(/^Bearer /, ''), inAddress, ctx.cookies.get(COOKIE) ?? ''];
  const wanted = [token, token, inCookie(token)];
  if (!given.map((g, i) => isSame(g, wanted[i]!)).includes(true)) {
    if (!isPage(ctx))
      throw new AppError(
        401,
        'token.needed',
        'This Oscillum asks for a token.',
        'Open its address with ?token=… as its owner told you.',
      );
    ctx.status = 401;
    ctx.type = 'html';
    ctx.set('Cache-Control', 'no-store');
    ctx.body = tokenPage(inAddress !== '');
    return false;
  }
  if (!isSame(inAddress, token)) return true;
  ctx.cookies.set(COOKIE, inCookie(token), { httpOnly: true, sameSite: 'strict', overwrite: true });
  if (!isPage(ctx)) return true;
  const query = new URLSearchParams(ctx.querystring);
  query.delete('token');
  ctx.redirect(query.size > 0 ? `${ctx.path}?${query}` : ctx.path);
  return false;
}

/** Whether a person looks at what is answered. */
const isPage = (ctx: Context): boolean =>
  ctx.method === 'GET' && !ctx.path.startsWith('/api/') && ctx.get('accept').includes('text/html');

/** A page that asks a person for the token. */
const tokenPage = (wrong: boolean): string => `<!doctype html>
<html lang="en">
  <meta charset="utf-8" />
  <title>Oscillum</title>
  <body style="font: 16px sans-serif; max-width: 28em; margin: 15vh auto; padding: 0 1em">
    <h1 style="font-size: 22px">Oscillum</h1>
    <p>${wrong ? 'That is not its token.' : 'This Oscillum asks for a token.'} Its owner can tell you.</p>
    <form>
      <label>Token <input name="token" type="password" autofocus required /></label>
      <button>Open</button>
    </form>
  </body>
</html>
`;
