import { existsSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import type { JobRequest, JobResult } from '@oscillum/core/contract';
import { OscillumError } from '@oscillum/core/model';
import { chromium, type Browser, type LaunchOptions } from 'playwright-core';

const CHROMIUM = process.env.OSCILLUM_CHROMIUM ?? '/usr/bin/chromium';
const LOOK_MS = 100;
/** A film that has come no further for so long is given up, ms. */
const STUCK_MS = 10 * 60_000;

type Film = Extract<JobRequest, { film: unknown }>;

const cannot = (why: string, remedy: string) => new OscillumError('bake.invalid', why, 'film', remedy);

/** How the browser is started: in its sandbox, which Chromium refuses to root only. */
export const browserOptions = (root: boolean): LaunchOptions => ({
  executablePath: CHROMIUM,
  chromiumSandbox: !root,
  args: ['--disable-quic', '--use-angle=swiftshader', '--enable-unsafe-swiftshader'],
});

/**
 * Makes a film by the application's own page in a browser without a window. Throws OscillumError when this worker has
 * no browser, or does not know the page; and what `tell` throws.
 */
export async function filmFiles(
  id: string,
  { shot }: Film,
  page: string | null,
  tell: (progress: number) => Promise<void>,
) {
  const remedy = 'Make the film in the page, or try again with another worker.';
  if (!page) throw cannot('This worker does not know the address of the application (OSCILLUM_PAGE)', remedy);
  if (!existsSync(CHROMIUM))
    throw cannot(
      `This worker has no browser to draw with (${CHROMIUM})`,
      `Install Chromium there. ${remedy}`,
    );
  let browser: Browser | null = null;
  try {
    browser = await chromium.launch(browserOptions(process.getuid?.() === 0));
    const tab = await browser.newPage({ viewport: { width: 1920, height: 1080 } });
    const address = new URL(page);
    address.pathname = `/film/${id}`;
    const download = tab.waitForEvent('download', { timeout: 0 });
    // Unheard when the job is let go of first.
    download.catch(() => undefined);
    await tab.goto(address.toString()).catch((e: unknown) => {
      throw cannot(
        `The application does not open in this worker’s browser: ${String(e).split('\n')[0]}`,
        remedy,
      );
    });
    let saved: Awaited<typeof download> | null = null;
    void download.then((d) => (saved = d)).catch(() => undefined);
    let furthest = { share: -1, at: Date.now() };
    while (!saved) {
      const { share, trouble } = await tab.evaluate(() => {
        // Runs in the page, whose document says how far it is.
        const { dataset } = (
          globalThis as unknown as { document: { body: { dataset: Record<string, string> } } }
        ).document.body;
        return { share: Number(dataset.film ?? 0), trouble: dataset.filmTrouble };
      });
      if (trouble) throw cannot(trouble, remedy);
      if (share > furthest.share) furthest = { share, at: Date.now() };
      else if (Date.now() - furthest.at > STUCK_MS)
        throw cannot(`The film came no further for ${STUCK_MS / 60_000} minutes`, remedy);
      await tell(0.98 * share);
      await new Promise((resolve) => setTimeout(resolve, LOOK_MS));
    }
    const done = saved as Awaited<typeof download>;
    const name = done.suggestedFilename();
    const bytes = new Uint8Array(await readFile(await done.path()));
    const format = name.split('.').at(-1) as JobResult['files'][number]['format'];
    const files = [{ name, format, bytes, clips: [shot.clip?.name ?? 'Rest'] }];
    return { files, clips: [], notes: [], checks: [], faults: [] };
  } finally {
    await browser?.close();
  }
}
