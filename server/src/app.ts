import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { createReadStream, existsSync } from 'node:fs';
import { join } from 'node:path';
import Koa from 'koa';
import helmet from 'koa-helmet';
import serve from 'koa-static';
import type { Logger } from 'pino';
import type { Config } from './config';
import type { Database } from './db/database';
import { guard } from './middleware/guard';
import { mapErrors } from './middleware/errors';
import { JobFeed } from './queue/feed';
import { Queue } from './queue/queue';
import { sweepVersions } from './usecases/characters';
import { enqueueStrays } from './usecases/jobs';
import { makeRouter } from './routes/routes';

export interface Running {
  address: { host: string; port: number };
  close(): Promise<void>;
}

const securityHeaders = () =>
  helmet({
    contentSecurityPolicy: {
      useDefaults: false,
      directives: {
        defaultSrc: ["'self'"],
        scriptSrc: ["'self'", "'wasm-unsafe-eval'"],
        workerSrc: ["'self'", 'blob:'],
        styleSrc: ["'self'", "'unsafe-inline'"],
        imgSrc: ["'self'", 'blob:', 'data:'],
        fontSrc: ["'self'", 'data:'],
        connectSrc: ["'self'", 'blob:', 'data:'],
        objectSrc: ["'none'"],
        baseUri: ["'none'"],
        frameAncestors: ["'none'"],
        formAction: ["'self'"],
      },
    },
    crossOriginEmbedderPolicy: { policy: 'require-corp' },
    crossOriginOpenerPolicy: { policy: 'same-origin' },
    strictTransportSecurity: false,
  });

/** The web application: its files, and its one page at every other address. */
function servePage(app: Koa, folder: string): void {
  const index = join(folder, 'index.html');
  app.use(
    serve(folder, {
      index: false,
      maxage: 3600_000,
      setHeaders: (res, path) => void (path.endsWith('.html') && res.setHeader('Cache-Control', 'no-store')),
    }),
  );
  app.use(async (ctx, next) => {
    // Every address of the application is the one page; files that are not there stay 404.
    if (
      ctx.method !== 'GET' ||
      ctx.path.startsWith('/api/') ||
      /\.[a-z0-9]+$/i.test(ctx.path) ||
      !existsSync(index)
    )
      return next();
    ctx.type = 'html';
    ctx.set('Cache-Control', 'no-store');
    ctx.body = createReadStream(index);
  });
}

/** How long requests that are under way may take to finish when the server is told to end, ms. */
const FINISH_MS = 10_000;

/** Serves API and web application on one port. Throws the listen error (EADDRINUSE and the like) as it is. */
export async function serveApp(config: Config, db: Database, log: Logger, version: string): Promise<Running> {
  const app = new Koa();
  const address = { host: config.host, port: config.port };
  app.on('error', (err: NodeJS.ErrnoException) => {
    // A visitor who leaves in mid answer is not a fault.
    if (!['ECONNRESET', 'EPIPE', 'ECONNABORTED', 'ERR_STREAM_PREMATURE_CLOSE'].includes(err.code ?? ''))
      log.error({ err }, 'server error');
  });
  app.use(securityHeaders());
  app.use(mapErrors(log));
  app.use(guard(config, () => address));
  const queue = await Queue.open(config.databaseUrl, (err) => log.warn({ err }, 'queue'));
  await enqueueStrays(db, queue);
  await sweepVersions(db);
  const feed = new JobFeed(config.databaseUrl);
  const router = makeRouter(db, version, queue, feed);
  app.use(router.routes());
  if (config.staticFolder) servePage(app, config.staticFolder);
  const server = await new Promise<Server>((resolve, reject) => {
    const s = app.listen(config.port, config.host, () => resolve(s));
    s.once('error', reject);
  });
  address.port = (server.address() as AddressInfo).port;
  return {
    address,
    close: async () => {
      // What is told of jobs has no end of its own.
      await feed.close();
      await new Promise<void>((resolve) => {
        const late = setTimeout(() => server.closeAllConnections(), FINISH_MS);
        server.close(() => (clearTimeout(late), resolve()));
        server.closeIdleConnections();
      });
      await queue.close();
    },
  };
}
