/**
 * npm run kill-test [kills] [seed]: two windows edit one shot while server, database and windows are killed at random
 * moments. Prints how many edits the server acknowledged, how many of them it has in the end, and how many it lost.
 * Ends with 1 when one was lost or stands twice, or when the windows do not agree with the server in the end.
 * Ctrl+C ends the killing early and counts.
 */
import { spawn, spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { chromium } from '@playwright/test';
import { ensureBuild, ensurePackages, ROOT } from '../scripts/packages.mjs';
import { freePort, startCluster } from '../scripts/postgres.mjs';

const kills = Number(process.argv[2] ?? 200);
let seed = Number(process.argv[3] ?? Date.now() % 1e6);
console.log(`${kills} kills, seed ${seed}`);
/** Numbers in 0…1 by mulberry32. */
function random() {
  seed = (seed + 0x6d2b79f5) | 0;
  let t = Math.imul(seed ^ (seed >>> 15), 1 | seed);
  t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
  return ((t ^ (t >>> 14)) >>> 0) / 2 ** 32;
}

const SHOT = 'demoshot0002';
const scratch = mkdtempSync(join(tmpdir(), 'oscillum-kill-'));
spawnSync('chmod', ['755', scratch]);
mkdirSync(join(scratch, 'db'), { mode: 0o755 });
ensurePackages();
ensureBuild();
const cluster = await startCluster(join(scratch, 'db', 'postgres'));
const port = await freePort();
const base = `http://127.0.0.1:${port}`;
let server = null;
let over = false;
let enough = false;
process.once('SIGINT', () => (enough = true));

async function startServer() {
  for (let started = false; !started && !over;) {
    const child = spawn(process.execPath, ['--import', 'tsx', 'server/src/main.ts'], {
      cwd: ROOT,
      env: {
        ...process.env,
        ...{ DATABASE_URL: cluster.url, OSCILLUM_PORT: String(port), OSCILLUM_WORKERS: '0' },
        ...{ OSCILLUM_STATIC: join(ROOT, 'web', 'dist'), OSCILLUM_LOG: 'silent', OSCILLUM_CHILD: '1' },
      },
      stdio: ['pipe', 'pipe', 'ignore'],
    });
    server = child;
    started = await new Promise((resolve) => {
      child.stdout.on('data', (text) => String(text).includes('ready') && resolve(true));
      child.once('exit', () => resolve(false));
    });
  }
}

async function killServer() {
  const gone = new Promise((resolve) => server.once('exit', resolve));
  server.kill('SIGKILL');
  await gone;
  await startServer();
}

async function killDatabase() {
  process.kill(
    Number(readFileSync(join(cluster.folder, 'data', 'postmaster.pid'), 'utf8').split('\n')[0]),
    'SIGKILL',
  );
  for (let started = false; !started;) {
    await pause(200);
    // Its own processes may take a moment to end.
    started = await cluster.restart().then(
      () => true,
      () => false,
    );
  }
}

/** Ids of edits the windows have sent, and of those acknowledged to them. */
const sent = new Set();
const acknowledged = new Set();

/** A window that edits until it is told to stop, and comes back when it is killed. */
class Window {
  page = null;
  edits = 0;

  constructor(context, label) {
    this.context = context;
    this.label = label;
  }

  async open() {
    while (!over) {
      const page = await this.context.newPage();
      const idsOf = (request) => JSON.parse(request.postData()).edits.map((e) => e.id);
      const isPost = (request) => request.method() === 'POST' && request.url().endsWith('/edits');
      page.on('request', (r) => isPost(r) && idsOf(r).forEach((id) => sent.add(id)));
      page.on('response', (r) => {
        if (isPost(r.request()) && r.ok()) idsOf(r.request()).forEach((id) => acknowledged.add(id));
      });
      const shown = await page
        .goto(`${base}/shot/${SHOT}/tune?parts=part1`, { timeout: 10_000 })
        .then(() => page.getByLabel(this.label).waitFor({ timeout: 15_000 }))
        .then(
          () => true,
          () => false,
        );
      if (shown) return void (this.page = page);
      await page.close().catch(() => undefined);
      await pause(200);
    }
  }

  async edit() {
    while (!over) {
      const { page } = this;
      const value = (0.3 + (this.edits % 60) / 100).toFixed(2);
      try {
        if (!page) throw new Error('It is being opened');
        await page.getByLabel(this.label).fill(value, { timeout: 2000 });
        await page.keyboard.press('Enter');
        this.edits++;
        await pause(30 + 200 * random());
      } catch {
        await pause(100);
      }
    }
  }

  /** As when the browser kills a window that takes too much memory. */
  async kill() {
    const { page } = this;
    if (!page) return;
    this.page = null;
    const crashed = Promise.race([page.waitForEvent('crash'), pause(3000)]);
    const devtools = await this.context.newCDPSession(page);
    devtools.send('Page.crash').catch(() => undefined);
    await crashed;
    await page.close().catch(() => undefined);
    await this.open();
  }
}

/** What the server has in the end, held against what was acknowledged. */
async function judge(windows) {
  for (const w of windows) {
    await w.page?.close();
    await w.open();
    await w.page
      .getByRole('status')
      .filter({ hasText: /^Saved/ })
      .waitFor({ timeout: 60_000 });
  }
  const records = await (await fetch(`${base}/api/shots/${SHOT}/edits?after=0`)).json();
  const ids = records.map((r) => r.edit.id);
  const stored = new Set(ids);
  const missing = (set) => [...set].filter((id) => !stored.has(id)).length;
  const lost = missing(acknowledged);
  const twice = ids.length - stored.size;
  await pause(1000);
  const values = await Promise.all(
    windows.flatMap((w) => windows.map((l) => w.page.getByLabel(l.label).inputValue())),
  );
  const agree = windows.every((_, i) => values[i] === values[i + windows.length]);
  console.log(`edits made by hand in the windows: ${windows.map((w) => w.edits).join(' + ')}`);
  console.log(`sent ${sent.size}, of which the server has not ${missing(sent)}`);
  console.log(
    `acknowledged ${acknowledged.size}, kept ${acknowledged.size - lost}, lost ${lost}, twice ${twice}`,
  );
  console.log(`the windows ${agree ? 'agree' : 'do NOT agree'} in the end: ${values.join(', ')}`);
  return lost === 0 && twice === 0 && agree && acknowledged.size > 0;
}

const done = { server: 0, database: 0, both: 0, window: 0 };
let browser = null;
try {
  await startServer();
  browser = await chromium.launch({
    executablePath: '/usr/bin/chromium',
    chromiumSandbox: process.getuid() !== 0,
    handleSIGINT: false,
    args: ['--disable-quic', '--use-angle=swiftshader', '--enable-unsafe-swiftshader'],
  });
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
  const windows = ['Hold value', 'Damping value'].map((label) => new Window(context, label));
  for (const w of windows) await w.open();
  const editing = windows.map((w) => w.edit());
  for (let k = 0; k < kills && !enough; k++) {
    await pause(100 + 900 * random());
    const dice = random();
    const what = dice < 0.35 ? 'server' : dice < 0.5 ? 'database' : dice < 0.6 ? 'both' : 'window';
    if (what === 'server') await killServer();
    else if (what === 'database') await killDatabase();
    else if (what === 'both') await Promise.all([killDatabase(), killServer()]);
    else await windows[Math.floor(2 * random())].kill();
    done[what]++;
    if ((k + 1) % 20 === 0) console.log(`${k + 1} kills, ${acknowledged.size} edits acknowledged`);
  }
  over = true;
  await Promise.all(editing);
  over = false;
  console.log(`killed: ${JSON.stringify(done)}`);
  process.exitCode = (await judge(windows)) ? 0 : 1;
} finally {
  over = true;
  await browser?.close();
  server?.kill('SIGKILL');
  cluster.stop();
  rmSync(scratch, { recursive: true, force: true });
}
