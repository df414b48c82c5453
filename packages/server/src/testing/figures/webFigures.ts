import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium, type CDPSession, type Page } from 'playwright-core';
import { startServer } from '../../server.ts';
import { makeAccount } from '../../services/accounts.ts';
import { openDatabase } from '../../store/database.ts';
import { fillFabric } from './largeHouse.ts';

/**
 * What `npm run figures -- web` measures in Chromium, on a fabric of 1,056 switches; prints rows as JSON. Of several tries
 * the least counts: the main thread's time grows with whatever else a shared machine does meanwhile, and never shrinks.
 */
const rows: [what: string, value: string, aim: string][] = [];
const PASSWORD = 'seven gulls over the breakwater';
const percentile = (values: readonly number[], p: number): number =>
  [...values].sort((a, b) => a - b)[Math.min(values.length - 1, Math.floor(values.length * p))]!;
const ms = (n: number): string => `${n < 10 ? n.toFixed(1) : Math.round(n)} ms`;
const say = (text: string): void => void process.stderr.write(`${text}\n`);

const folder = mkdtempSync(join(tmpdir(), 'web-figures-'));
const data = join(folder, 'data');
const db = await openDatabase(data);
say('making a fabric of 1,056 switches');
await fillFabric(db, 'holm', 'ho', 520, 16);
await makeAccount(
  db,
  { name: 'ines', fullName: 'Ines Moreau', roles: ['designer', 'operator'], bound: {}, password: PASSWORD },
  false,
  new Date().toISOString(),
);
await db.destroy();
const server = await startServer({
  data,
  port: 0,
  web: new URL('../../../../../dist/web', import.meta.url).pathname,
  logLevel: 'error',
  readStateSeconds: 3600,
});
const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox', '--disable-gpu'] });
const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });

/** Milliseconds the main thread worked for the page: what it did for the measuring itself (its commands) is taken off. */
async function busy(cdp: CDPSession): Promise<number> {
  const { metrics } = await cdp.send('Performance.getMetrics');
  const of = (name: string): number => metrics.find((m) => m.name === name)?.value ?? 0;
  return 1000 * (of('TaskDuration') - of('DevToolsCommandDuration'));
}
/** Waits until nothing is fetched and the main thread rests. */
async function rests(page: Page, cdp: CDPSession): Promise<void> {
  let last = -1;
  for (let quiet = 0; quiet < 3;) {
    await page.waitForTimeout(250);
    const now = await busy(cdp);
    quiet = now - last < 8 ? quiet + 1 : 0;
    last = now;
  }
}

try {
  const page = await context.newPage();
  const cdp = await context.newCDPSession(page);
  await cdp.send('Performance.enable');
  await cdp.send('Network.enable');
  let bytes = 0;
  const ofApi = new Set<string>();
  cdp.on(
    'Network.responseReceived',
    (e) => void (e.response.url.includes('/api/') && !e.response.url.endsWith('/events') && ofApi.add(e.requestId)),
  );
  cdp.on('Network.loadingFinished', (e) => void (ofApi.has(e.requestId) && (bytes += e.encodedDataLength)));
  await page.goto(server.url);
  await page.getByLabel('Account').fill('ines');
  await page.getByLabel('Password').fill(PASSWORD);
  await page.keyboard.press('Enter');
  await page.waitForSelector('nav[aria-label=Sections]');
  await rests(page, cdp);
  // The server has compiled and judged the fabric before: it is not what is measured here.
  await page.goto(`${server.url}/fabrics/holm`);
  await page.locator('[data-at^="group:"]').first().waitFor({ timeout: 120_000 });
  await rests(page, cdp);

  const open = async (path: string, ready: string): Promise<{ cpu: number; kb: number }> => {
    bytes = 0;
    await page.goto(`${server.url}${path}`);
    await page.locator(ready).first().waitFor({ timeout: 120_000 });
    await rests(page, cdp);
    return { cpu: await busy(cdp), kb: bytes / 1000 };
  };
  const PAGES: readonly (readonly [name: string, path: string, ready: string])[] = [
    ['Shape', '/fabrics/holm', '[data-at^="group:"]'],
    ['Values', '/fabrics/holm/values', 'tbody tr[data-index]'],
    ['Seats', '/fabrics/holm/seats', 'tbody tr[data-index]'],
    ['Cables', '/fabrics/holm/cables', 'tbody tr[data-index]'],
    ['Tenants', '/fabrics/holm/tenants', 'main'],
    ['Ports', '/fabrics/holm/ports', 'tbody tr[data-index]'],
    ['Text', '/fabrics/holm/text/leaf-1a', '.cm-content'],
    ['Proof', '/fabrics/holm/proof', 'main h1'],
    ['History', '/fabrics/holm/history', 'main'],
    ['Arrive', '/', 'main h2'],
    ['Watch', '/watch', 'main h1'],
    ['Switches', '/switches', 'tbody tr[data-index]'],
  ];
  for (const [name, path, ready] of PAGES) {
    const tries = [await open(path, ready), await open(path, ready), await open(path, ready)];
    const { cpu, kb } = tries.sort((a, b) => a.cpu - b.cpu)[0]!;
    say(`${name}: ${ms(cpu)}, ${kb.toFixed(0)} kB`);
    rows.push([
      `${name} of 1,056 switches: main thread, answers`,
      `${ms(cpu)}, ${kb.toFixed(0)} kB`,
      '≤ 800 ms, ≤ 300 kB',
    ]);
    if (name !== 'Shape') continue;
    const nodes = await page.evaluate(() => document.querySelectorAll('*').length);
    rows.push(['Palmette of 1,056 switches: nodes in the page', String(nodes), '≤ 1,500']);
    const box = (await page.locator('main svg').last().boundingBox())!;
    await page.mouse.move(box.x + box.width / 2, box.y + 40);
    await page.mouse.wheel(0, -400);
    await rests(page, cdp);
    await page.mouse.down();
    const steps: number[] = [];
    for (let i = 0; i < 60; i++) {
      const before = await busy(cdp);
      await page.mouse.move(box.x + box.width / 2 + Math.sin(i / 6) * 120, box.y + 40 + i * 3);
      await page.evaluate(() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done))));
      steps.push((await busy(cdp)) - before);
    }
    await page.mouse.up();
    rows.push([
      'Palmette of 1,056 switches: a step of a pan, median and 95 %',
      `${ms(percentile(steps, 0.5))}, ${ms(percentile(steps, 0.95))}`,
      '≤ 12 ms, ≤ 25 ms',
    ]);
    await page.keyboard.press('Escape');
  }
  // Ports: 520 racks of 48 ports, of which the page is given ten thousand, then all.
  const filtered = async (what: string, aim: string): Promise<void> => {
    await open('/fabrics/holm/ports', 'tbody tr[data-index]');
    const filter = page.getByPlaceholder(/Filter/);
    await filter.fill('srv-2');
    await rests(page, cdp);
    const tries: number[] = [];
    for (const word of ['srv-25', 'srv-2', 'srv-25', 'srv-2', 'srv-25']) {
      const before = await busy(cdp);
      await filter.fill(word);
      await rests(page, cdp);
      tries.push((await busy(cdp)) - before);
    }
    rows.push([`A table of ${what} rows: filter`, ms(Math.min(...tries)), aim]);
  };
  await page.route('**/api/fabrics/holm', async (route) => {
    const answer = await route.fetch();
    const fabric = (await answer.json()) as { intent: { ports: unknown[] } };
    fabric.intent.ports = fabric.intent.ports.slice(0, 10_000);
    await route.fulfill({ response: answer, json: fabric });
  });
  await filtered('10,000', '≤ 100 ms');
  await page.unroute('**/api/fabrics/holm');
  await filtered('24,960', '');

  // A second browser sees an edit.
  const { change } = await page.evaluate(async () => {
    const answer = await fetch('/api/changes', {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ fabric: 'holm', title: 'Seen elsewhere', reason: '', ticket: '' }),
    });
    return { change: ((await answer.json()) as { id: string }).id };
  });
  const other = await context.newPage();
  await other.goto(`${server.url}/changes/${change}`);
  await other.getByRole('heading', { name: 'Seen elsewhere' }).first().waitFor();
  await page.evaluate(async (id) => {
    await fetch(`/api/changes/${id}`, {
      method: 'PATCH',
      headers: { 'content-type': 'application/json', 'if-match': '"1"' },
      body: JSON.stringify({ title: 'Seen at once', reason: '', ticket: '' }),
    });
  }, change);
  const asked = performance.now();
  await other.getByRole('heading', { name: 'Seen at once' }).first().waitFor();
  rows.push(['An edit is seen by a second browser after', ms(performance.now() - asked), '< 1,000 ms']);
} finally {
  await browser.close();
  await server.close();
  rmSync(folder, { recursive: true, force: true });
}
process.stdout.write(JSON.stringify(rows));
