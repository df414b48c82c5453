// node scripts/screenshots.mjs URL: takes the pictures of docs/screenshots from a demo that was started with --fresh.
// Follows the README's five minutes, so it also changes the demo's data.
import { join } from 'node:path';
import { openBrowser, signedIn } from './demoPages.mjs';
import { root } from './ready.mjs';

const url = process.argv[2] ?? 'http://localhost:4600';
const browser = await openBrowser();
const person = (...who) => signedIn(browser, url, ...who);
const page = await person('ines', 'soundings of the outer bank');
const bo = await person('bo', 'lighthouse above slack water');
const dark = await person('ines', 'soundings of the outer bank', 'dark');

const ask = (on, method, path, body, version) =>
  on.evaluate(
    async ([m, p, b, v]) => {
      const headers = { 'content-type': 'application/json', ...(v ? { 'if-match': `"${v}"` } : {}) };
      const answer = await fetch(p, { method: m, headers, ...(m === 'GET' ? {} : { body: JSON.stringify(b ?? {}) }) });
      return answer.json();
    },
    [method, path, body, version],
  );
async function take(on, path, name, before) {
  if (path !== null) await on.goto(url + path);
  if (before) await before(on);
  await on.waitForTimeout(1200);
  await on.screenshot({ path: join(root, 'docs/screenshots', `${name}.png`) });
}
const openDraft = async (on) => {
  await on.getByRole('button', { name: /Chart press/ }).click();
  await on.getByRole('heading', { name: 'Chart press in both halls' }).waitFor();
};

await openDraft(page);
await openDraft(dark);
await take(page, '/fabrics/skerry?at=rack:7', 'shape');
await take(dark, '/fabrics/skerry?at=rack:8', 'basalt');
await take(page, '/fabrics/skerry/values', 'values');
await take(page, '/fabrics/skerry/seats?at=seat:spine-2', 'seats', async (p) => {
  await p.getByRole('button', { name: 'Count its traffic' }).click();
  await p.getByText(/^Counted by/).waitFor();
});
await take(page, '/fabrics/skerry/cables', 'cables');
await take(page, '/fabrics/skerry/tenants?at=network:chart-press', 'tenants');
await take(page, '/fabrics/skerry/routing?at=BGP+sk-lf-01++p49', 'routing');
await take(page, '/fabrics/skerry/text/leaf-7a', 'text', (p) =>
  p.locator('.cm-line', { hasText: 'rd 10.255.0.10:410' }).first().click(),
);
await take(page, '/pools/overlay', 'pools');
await take(page, '/patterns', 'patterns');
await take(page, '/switches/TVLSK4170', 'switches');

await ask(page, 'POST', '/api/users', {
  name: 'marit',
  fullName: 'Marit Sund',
  bound: { skerry: ['designer', 'operator'] },
});
await take(page, '/access/accounts?at=marit', 'accounts');
await take(page, '/access/audit', 'audit', (p) => p.getByRole('row', { name: /Make an account/ }).click());

// Follow the cure, have it approved, roll it out, and catch it under way.
await page.goto(`${url}/fabrics/skerry/tenants?at=network:chart-press`);
await page.getByLabel('MTU, bytes').fill('9166');
await page.getByRole('button', { name: 'Change network' }).click();
await page.getByRole('button', { name: 'Ask approval' }).click();
await page.getByRole('button', { name: 'Open proof' }).click();
await page.waitForURL(/changes/);
await page.getByRole('button', { name: 'Rehearse', exact: true }).click();
await page.getByRole('button', { name: 'Rehearse again' }).waitFor({ timeout: 180_000 });
await take(page, null, 'proof', (p) => p.getByRole('region', { name: 'Rehearsal' }).scrollIntoViewIfNeeded());
await bo.goto(page.url());
await bo.getByRole('button', { name: 'Approve', exact: true }).click();
await bo.getByRole('heading', { name: 'Approved' }).waitFor();
await page.getByRole('button', { name: 'Roll out …' }).click();
await page.getByRole('button', { name: 'Begin now' }).click();
await page
  .getByText(/settling/)
  .first()
  .waitFor();
await page.screenshot({ path: join(root, 'docs/screenshots/rollout.png') });
await page.getByRole('heading', { name: 'Rolled out' }).waitFor({ timeout: 120_000 });
await take(page, '/fabrics/skerry/history', 'history');

// A rollout that one switch refuses stops, and says how it may end.
const { id } = await ask(page, 'POST', '/api/changes', {
  fabric: 'skerry',
  title: 'Storm log on four racks',
  reason: '',
  ticket: 'FCO-231',
});
const network = { name: 'storm-log', vrf: 'tides', vlan: 940, subnetLength: 24, racks: [1, 3, 4, 7] };
const { version } = await ask(page, 'POST', `/api/changes/${id}/edits`, { edits: [{ kind: 'addNetwork', network }] });
await ask(bo, 'POST', `/api/changes/${id}/approve`, {}, version);
const { seats } = await ask(page, 'GET', '/api/fabrics/skerry');
const serial = seats.find((s) => s.seat === 'leaf-4').serial;
await ask(page, 'POST', '/api/bench/faults', { serial, fault: 'refuses the text', on: true });
const { id: rollout } = await ask(page, 'POST', '/api/rollouts', { change: id, undoSeconds: 20 });
await page.goto(`${url}/rollouts/${rollout}`);
await page.getByRole('heading', { name: 'Stopped' }).waitFor({ timeout: 60_000 });
await take(page, null, 'stopped');

// A cable out, a hand edit, a rollout half-way: an ordinary morning.
const serialOf = (seat) => seats.find((s) => s.seat === seat).serial;
await ask(page, 'POST', '/api/bench/pull', { serial: serialOf('leaf-3'), port: 'p49', pulled: true });
await ask(page, 'POST', '/api/bench/hand-edit', {
  serial: serialOf('leaf-8a'),
  file: 'interfaces',
  find: 'iface p1\n',
  replace: 'iface p1\n    link-down yes\n',
});
await page.goto(url);
await page.getByText(/was edited by hand/).waitFor();
await page.getByText(/both ends say no signal/).waitFor();
await take(page, null, 'arrive');
await take(page, '/watch', 'watch');
await browser.close();
