import { chromium } from '@playwright/test';
const [, , url, out, w = '1280', h = '800', script = ''] = process.argv;
const b = await chromium.launch({
  executablePath: '/usr/bin/chromium',
  args: [
    '--headless',
    '--no-sandbox',
    '--use-angle=swiftshader',
    '--enable-unsafe-swiftshader',
    '--disable-gpu-compositing',
    '--disable-gpu-rasterization',
  ],
});
const page = await b.newPage({ viewport: { width: +w, height: +h } });
page.on('console', (m) => m.type() === 'error' && console.log('console:', m.text()));
page.on('pageerror', (e) => console.log('pageerror:', e.message));
await page.goto(url);
await page.waitForTimeout(2500);
if (script) {
  await new Function('page', `return (async()=>{${script}})()`)(page);
  await page.waitForTimeout(1800);
}
await page.screenshot({ path: out });
await b.close();
