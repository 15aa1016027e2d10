import { z } from 'zod';

const Environment = z.object({
  DATABASE_URL: z.string({ error: 'DATABASE_URL is not set; npm start sets it for its own database' }).min(1),
  OSCILLUM_PORT: z.coerce.number().int().min(0).max(65535).default(4310),
  OSCILLUM_HOST: z.string().default('127.0.0.1'),
  /** Asked of every visitor; required as soon as the address is not loopback. */
  OSCILLUM_TOKEN: z.string().min(16, { error: 'OSCILLUM_TOKEN must have at least 16 letters' }).optional(),
  /** Further origins that may call (the dev server's). */
  OSCILLUM_ORIGINS: z.string().default(''),
  OSCILLUM_STATIC: z.string().default(''),
  OSCILLUM_SEED: z.enum(['demo', 'none']).default('demo'),
  /** Workers beside the server; more can be started with npm run worker, on any machine. */
  OSCILLUM_WORKERS: z.coerce.number().int().min(0).max(64).default(1),
});

export interface Config {
  databaseUrl: string;
  host: string;
  port: number;
  token: string | null;
  origins: string[];
  /** Folder of the built web application, or empty. */
  staticFolder: string;
  seedDemo: boolean;
  workers: number;
}

const LOOPBACK = new Set(['127.0.0.1', '::1', 'localhost']);

/** Reads the environment. Throws an Error naming the variable and what to do. */
export function readConfig(env: Record<string, string | undefined>): Config {
  const parsed = Environment.safeParse(env);
  if (!parsed.success) {
    const issue = parsed.error.issues[0]!;
    throw new Error(`${issue.path.join('.')}: ${issue.message}`);
  }
  const e = parsed.data;
  if (!LOOPBACK.has(e.OSCILLUM_HOST) && !e.OSCILLUM_TOKEN) {
    throw new Error(
      [
        `OSCILLUM_HOST ${e.OSCILLUM_HOST} can be reached from other machines:`,
        'set OSCILLUM_TOKEN to a secret of 16 letters or more, or leave the host at 127.0.0.1.',
      ].join(' '),
    );
  }
  return {
    databaseUrl: e.DATABASE_URL,
    host: e.OSCILLUM_HOST,
    port: e.OSCILLUM_PORT,
    token: e.OSCILLUM_TOKEN ?? null,
    origins: e.OSCILLUM_ORIGINS.split(',').filter(Boolean),
    staticFolder: e.OSCILLUM_STATIC,
    seedDemo: e.OSCILLUM_SEED === 'demo',
    workers: e.OSCILLUM_WORKERS,
  };
}
