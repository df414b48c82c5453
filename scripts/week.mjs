// Walks tasks of an ordinary week through the interface of a fresh demo (fabric skerry), and counts the clicks from the
// page each begins on, with a change open: node scripts/week.mjs URL [--keys]. With --keys nothing is clicked: what would be is focused, and
// pressed with Enter or Space.
import { openBrowser, signedIn } from './demoPages.mjs';

const [url = 'http://localhost:4950'] = process.argv.slice(2).filter((a) => !a.startsWith('--'));
const keys = process.argv.includes('--keys');
const browser = await openBrowser();
const page = await signedIn(browser, url, 'ines', 'soundings of the outer bank');
page.setDefaultTimeout(20_000);

let clicks = 0;
async function press(locator, key = 'Enter', on = page) {
  clicks++;
  const one = locator.first();
  await one.waitFor();
  if (!keys) return key === 'Space' ? one.press('Space') : one.click();
  await one.focus();
  if (!(await one.evaluate((e) => e === document.activeElement || e.contains(document.activeElement))))
    throw new Error(`cannot be focused: ${locator}`);
  await on.keyboard.press(key);
}
const button = (name, within = page) => within.getByRole('button', { name, exact: typeof name === 'string' });
const link = (name, within = page) => within.getByRole('link', { name });
const field = (name, within = page) => within.getByRole('textbox', { name, exact: true });
async function choose(label, option) {
  await press(page.getByRole('button', { name: new RegExp(`${label}$`) }));
  await press(page.getByRole('option', { name: option }));
}
const see = (text, within = page) => within.getByText(text).first().waitFor();
const margin = page.getByRole('complementary', { name: 'Open change' });
const paste = (table, lines) =>
  page.getByRole('region', { name: table }).evaluate((region, text) => {
    const clipboardData = new DataTransfer();
    clipboardData.setData('text/plain', text);
    region.dispatchEvent(new ClipboardEvent('paste', { clipboardData, bubbles: true }));
  }, lines.join('\n'));
const row = (name) => page.getByRole('row', { name });
const tab = (name) => link(new RegExp(`${name}$`), page.getByRole('navigation', { name: 'Pages of the fabric' }));
const dialog = page.getByRole('dialog');

const TASKS = {
  '16 find the port of a server': [
    '/fabrics/skerry',
    async () => {
      await page.keyboard.press('Control+k');
      await page.getByPlaceholder('Find or do anything …').waitFor();
      await page.keyboard.type('echo-301');
      await see(/^echo-301/, page.getByRole('option').first());
      clicks++;
      await page.keyboard.press('Enter');
      await row(/echo-301/).waitFor();
    },
  ],
  '15 compare two switches': [
    '/fabrics/skerry',
    async () => {
      await press(tab('Text'));
      await press(link('Compare …'));
      await choose('With switch', 'sk-lf-02');
      await page.getByRole('heading', { name: /sk-lf-02/ }).waitFor();
    },
  ],
  '17 who changed a line, when and why': [
    '/fabrics/skerry',
    async () => {
      await press(tab('Text'));
      const line = page.locator('.cm-line').filter({ hasText: 'neighbor' }).first();
      await line.waitFor();
      clicks++;
      if (keys) {
        await page.locator('.cm-content').first().focus();
        for (let n = 0; n < 30; n++) await page.keyboard.press('ArrowDown');
      } else await line.click();
      await see(/revision 1/);
    },
  ],
  '22 a back-up read and downloaded': [
    '/switches',
    async () => {
      await press(row(/TVLSK4128/));
      await press(page.getByRole('button', { name: /Back-ups/ }));
      await press(page.getByRole('button', { name: /runs now/ }));
      await link('Download', dialog).waitFor();
      clicks++;
    },
  ],
  '29 intent out as a file, and in again': [
    '/fabrics/skerry/history',
    async () => {
      clicks++; // Intent as YAML
      const yaml = await page.evaluate(async () => (await fetch('/api/fabrics/skerry/intent.yaml')).text());
      await press(button('Take intent from a file …'));
      await dialog
        .getByLabel('Intent', { exact: true })
        .fill(yaml.replace(/mtu: 1500/, 'mtu: 1400').replace('linkMtu: 9216', 'linkMtu: 9200'));
      await press(button('Show what it changes'));
      await page.getByRole('heading', { name: /as its file says/, level: 1 }).waitFor();
      await page.goto(`${url}/fabrics/skerry`);
      await margin.waitFor();
    },
  ],
  '3 add a spine': [
    '/fabrics/skerry',
    async () => {
      await press(button('Above the racks'));
      await field('Spines', dialog).fill('5');
      await press(button('Change', dialog));
      await see(/[Ss]pines.*4 → 5/, margin);
    },
  ],
  '1 add a rack that carries what another does, to its seats': [
    '/fabrics/skerry',
    async () => {
      await press(button('Add a rack'));
      await choose('Carries', /as rack 1/);
      await press(button(/^Add rack/, dialog));
      await see(/^Add rack 9/, margin);
      await press(tab('Seats'));
      await row(/rack-9|leaf-9/)
        .first()
        .waitFor();
    },
  ],
  '2 remove a rack': [
    '/fabrics/skerry?at=rack:5',
    async () => {
      await press(button('Remove'));
      await press(button('Remove it', dialog));
      await see(/^Remove rack 5/, margin);
    },
  ],
  '5 add twenty networks at once': [
    '/fabrics/skerry/tenants',
    async () => {
      const lines = Array.from({ length: 20 }, (_, i) => `week-${i + 1}\ttides\t${900 + i}`);
      await paste('Networks', ['Network\tVRF\tVLAN', ...lines]);
      await press(button(/^Make 20 edits/, dialog));
      await row(/week-1 /).waitFor();
    },
  ],
  '6 forty-eight servers on ports, from a spreadsheet': [
    '/fabrics/skerry/ports',
    async () => {
      const lines = Array.from({ length: 48 }, (_, i) => `week-srv-${i + 1}\t${i < 24 ? 1 : 2}\tsoundings-in`);
      await paste('Ports', ['Server\tRack\tUntagged', ...lines]);
      await press(button(/^Make 48 edits/, dialog));
      await row(/week-srv-1 /).waitFor();
    },
  ],
  '7 change the VLANs of ten ports on different racks together': [
    '/fabrics/skerry/ports',
    async () => {
      for (const n of [1, 2]) await press(page.getByRole('checkbox').nth(n), 'Space');
      await press(button('Networks …'));
      await choose('Untagged network', /./);
      await press(button(/^Put \d+ ports? on them/));
      await dialog.waitFor({ state: 'detached' });
    },
  ],
  '4 replace a dead switch': [
    '/fabrics/skerry',
    async () => {
      await press(tab('Seats'));
      await press(row(/sk-lf-03/));
      await press(page.getByRole('button', { name: /Choose an unseated switch/ }));
      await press(page.getByRole('option'));
      await see(/leaf-3/, margin);
    },
  ],
  '38 a token for scripts': [
    '/you/tokens',
    async () => {
      await press(button('New token'));
      await field('Name').fill('week');
      await press(button('Make the token'));
      await page.getByTestId('said-once').waitFor();
      await press(button('I have it'));
    },
  ],
  '8 change the MTU everywhere': [
    '/fabrics/skerry',
    async () => {
      await press(tab('Values'));
      await press(button('More settings'));
      await page.getByLabel('Tenant MTU').fill('8900');
      await press(button('Set'));
      await see(/8900/, margin);
    },
  ],
  '33 a second fabric, laid out by a pattern': [
    '/fabrics',
    async () => {
      await press(page.getByRole('button', { name: 'Fabric from a pattern' }));
      await field('Name').fill('holm');
      await press(button('Begin'));
      await choose('Fabric pattern', /^small-room/);
      await press(button('Lay it out'));
      await page.getByRole('button', { name: /^rack-2/ }).waitFor();
    },
  ],
};
const only = process.argv.find((a) => a.startsWith('--only='))?.slice(7);
for (const [task, [path, walk]] of Object.entries(TASKS)) {
  if (only !== undefined && !task.startsWith(only)) continue;
  await page.goto(`${url}${path}`);
  await page.waitForTimeout(800);
  clicks = 0;
  try {
    await walk();
    process.stdout.write(`${String(clicks).padStart(3)}  ${task}\n`);
  } catch (error) {
    process.stdout.write(`  –  ${task}: ${String(error).split('\n').slice(0, 3).join(' ')}\n`);
    process.exitCode = 1;
  }
}
await browser.close();
