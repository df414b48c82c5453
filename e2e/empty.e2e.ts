import { spawn, type ChildProcess } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Fleet } from '@anthemion/bench';
import type { Browser, Page } from 'playwright-core';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { openBrowser } from '../scripts/browser.mjs';
import { freePort, margin, tick } from './demo.ts';

const dist = join(import.meta.dirname, '../dist');
const folder = mkdtempSync(join(tmpdir(), 'anthemion-empty-'));
const children: ChildProcess[] = [];
let browser: Browser;
let url: string;
let code: string;
let fleet: Fleet;

/** Five switches of makes that no demo knows, as they come from the factory; a stand-in for what a team has bought. */
const SWITCHES = [
  ['QY-0001', 'QY-8H'],
  ['QY-0002', 'QY-8H'],
  ['QY-0101', 'QY-12L'],
  ['QY-0102', 'QY-12L'],
  ['QY-0103', 'QY-12L'],
] as const;
const PASSWORD = 'gantry lamp over the quay';

/** Starts a part as built, and answers with what it said by the time it is ready. */
function start(file: string, args: readonly string[], env: Record<string, string>): Promise<string> {
  const child = spawn(process.execPath, [join(dist, file), ...args], {
    env: { ...process.env, ...env },
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  children.push(child);
  return new Promise((done, fail) => {
    let out = '';
    child.once('exit', () => fail(new Error(`${file} ended: ${out}`)));
    child.stdout!.on('data', (part: Buffer) => {
      out += part.toString();
      if (/ready.*\n/.test(out)) done(out);
    });
  });
}

beforeAll(async () => {
  const bench = join(folder, 'bench');
  mkdirSync(bench);
  const switches = SWITCHES.map(([serial, model]) => ({ serial, model, port: 0, faults: [] }));
  writeFileSync(
    join(bench, 'fleet.json'),
    JSON.stringify({ username: 'quay', password: PASSWORD, switches, cables: [] } satisfies Fleet),
  );
  await start('bench.js', [bench], {});
  fleet = JSON.parse(readFileSync(join(bench, 'fleet.json'), 'utf8')) as Fleet;
  const port = await freePort();
  const said = await start('server.js', [], {
    ANTHEMION_DATA: join(folder, 'server'),
    ANTHEMION_PORT: String(port),
    ANTHEMION_BENCH: bench,
    ANTHEMION_LOG_LEVEL: 'silent',
    ANTHEMION_READ_STATE_SECONDS: '4',
  });
  code = /with the code {2}(\S+)/.exec(said)![1]!;
  url = `http://localhost:${port}`;
  browser = await openBrowser();
});
afterAll(async () => {
  await browser?.close();
  for (const child of children.reverse()) {
    const gone = new Promise((done) => child.once('exit', done));
    child.kill('SIGTERM');
    await gone;
  }
  rmSync(folder, { recursive: true, force: true });
});

const field = (page: Page, name: string) => page.getByRole('textbox', { name, exact: true });
const button = (page: Page, name: string) => page.getByRole('button', { name, exact: true });
const choose = async (page: Page, label: string, option: string | RegExp): Promise<void> => {
  await page.getByRole('button', { name: new RegExp(` ${label}$`) }).click();
  await page.getByRole('option', { name: option }).click();
};

test('from an empty folder, without the demo, through the interface alone, to five switches that run what is meant', async () => {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
  const page = await context.newPage();
  page.setDefaultTimeout(300_000);
  const errors: string[] = [];
  page.on('pageerror', (e) => errors.push(e.message));

  // The first account, and nobody else to approve yet.
  await page.goto(url);
  await page.getByLabel('Code').fill(code);
  await page.getByLabel('Account', { exact: true }).fill('ada');
  await page.getByLabel('Full name').fill('Ada Brenn');
  await page.getByLabel('Password').fill('tide over the long mole');
  await button(page, 'Make the first account').click();
  await page.getByRole('heading', { name: 'Wrong now' }).waitFor();
  await page.goto(`${url}/access/settings`);
  await page.getByText('A second person must approve every change').click();
  await button(page, 'Change').click();

  // What switches are signed in to with.
  await page.goto(`${url}/access/switch-accounts`);
  await page.getByRole('button', { name: 'New switch account' }).first().click();
  await field(page, 'Name').fill('quays');
  await field(page, 'Signs in as').fill('quay');
  await field(page, 'Only to these networks').fill('127.0.0.0/8');
  await page.getByLabel('Password').fill(PASSWORD);
  await button(page, 'Store it').click();
  await page.getByRole('row', { name: /quays/ }).waitFor();

  // Models: what cannot be is said at its field, and nothing typed is lost.
  await page.goto(`${url}/patterns`);
  const model = async (name: string, ports: string): Promise<void> => {
    await button(page, '+ a switch model').click();
    await page.getByRole('heading', { name: 'A new switch model' }).waitFor();
    await field(page, 'Name').fill(name);
    await field(page, 'Maker').fill('Quayside Works');
    await field(page, 'Ports, a block a line').fill(ports);
    await button(page, 'Keep switch model').click();
  };
  // Ports are named as the maker prints them; what a switch calls them is said where it cannot be made of that.
  await model('QY-12L', 'e1/1-e1/8 25G\ne1/8-e1/12 100G');
  await page.getByText('Port e1/8 of QY-12L stands in e1/1-e1/8 already. Name each port once.').waitFor();
  await field(page, 'Ports, a block a line').fill('e1/1-e1/8 25G\ne1/9 fast');
  await page.getByText('Write each block as p1-p48 25G').waitFor();
  await field(page, 'Ports, a block a line').fill('e1/1-e1/8 25G\nuplink-number-10-uplink-number-13 100G');
  await button(page, 'Keep switch model').click();
  await page.getByText('but a name has at most 15 characters there').waitFor();
  await field(page, 'Ports, a block a line').fill('e1/1-e1/8 25G\ne1/9-e1/12 100G × 2, 4 as /1');
  await page.getByText('12 ports, 600 Gb/s in all; on the switch e1/1 is e1-1').waitFor();
  await button(page, 'Keep switch model').click();
  await page.getByRole('heading', { name: 'QY-12L' }).waitFor();
  await model('QY-8H', '1/1-1/8 100G = swp1-swp8');
  await page.getByRole('heading', { name: 'QY-8H' }).waitFor();
  await model('QY-8H', 'p1-p4 400G');
  await page.getByText('There is already a switch model QY-8H. Choose another name.').waitFor();
  await field(page, 'Name').fill('QY-0X');
  await button(page, 'Keep switch model').click();
  await page.getByRole('heading', { name: 'QY-0X' }).waitFor();

  // Patterns, of these models; a model that something names stays, another goes.
  await button(page, '+ a rack pattern').click();
  await field(page, 'Name').fill('one-leaf');
  await choose(page, 'Leaf model', /^QY-12L/);
  await field(page, 'Server ports').fill('e1/1-e1/8');
  await field(page, 'Uplinks, in the order of the spines').fill('e1/9-12');
  await button(page, 'Keep rack pattern').click();
  await page.getByRole('heading', { name: 'one-leaf' }).waitFor();
  await button(page, '+ a fabric pattern').click();
  await field(page, 'Name').fill('quay-hall');
  await choose(page, 'Spine model', /^QY-8H/);
  await field(page, 'Spines').fill('2');
  await field(page, 'one-leaf (one leaf)').fill('3');
  await page.getByText('5 switches').waitFor();
  await button(page, 'Keep fabric pattern').click();
  await page.getByRole('heading', { name: 'quay-hall' }).waitFor();
  const remove = async (name: string): Promise<void> => {
    await page.goto(`${url}/patterns?at=model:${name}`);
    await button(page, 'Remove …').click();
    await page.getByRole('dialog').getByRole('button', { name: 'Remove', exact: true }).click();
  };
  await remove('QY-12L');
  await page.getByText('QY-12L is used by rack pattern one-leaf; change or remove it first.').waitFor();
  await remove('QY-0X');
  await page.getByText('The switch model QY-0X was removed').waitFor();
  await page.goto(`${url}/patterns?at=model:QY-0X`);
  await page.getByText('There is no QY-0X here (any more).').waitFor();

  // Pools, each for what it is named for.
  for (const [name, kind, range] of [
    ['quay-spine-as', 'AS numbers', '4200000100'],
    ['quay-leaf-as', 'AS numbers', '4200000101-4200000199'],
    ['quay-loopbacks', 'IPv4', '10.90.0.0/24'],
    ['quay-vteps', 'IPv4', '10.90.1.0/24'],
    ['quay-tenants', 'IPv4', '10.91.0.0/16'],
    ['quay-overlay', 'VNIs', '90000-90999'],
  ] as const) {
    await page.goto(`${url}/pools?new=1`);
    await field(page, 'Name').fill(name);
    if (kind !== 'IPv4') await choose(page, 'Holds', kind);
    await field(page, 'Ranges, one a line').fill(range);
    await button(page, 'Make pool').click();
    await page.getByRole('heading', { name }).waitFor();
  }

  // The switches: imported, and each let in by its host key.
  await page.goto(`${url}/switches?import=1`);
  const rows = fleet.switches.map((s) => `${s.serial},${s.model},127.0.0.1,${s.port}`);
  await field(page, 'CSV').fill(['serial,model,address,port', ...rows].join('\n'));
  await button(page, 'Import').click();
  await page.getByText('5 known, 5 unseated').waitFor();
  await page.getByRole('dialog').waitFor({ state: 'detached' });
  await tick(page.getByRole('checkbox', { name: /all/i }).first());
  await button(page, 'Read 5 now').click();
  await button(page, 'Host keys to accept …').click();
  await button(page, 'Accept 5 keys').click();
  await page.getByText('5 keys are accepted').waitFor();

  // The fabric, to the proof.
  await page.goto(`${url}/fabrics?new=1`);
  await field(page, 'Name').fill('quay');
  await button(page, 'Begin').click();
  await choose(page, 'Fabric pattern', /^quay-hall/);
  await page.getByText('5 switches').waitFor();
  await button(page, 'Lay it out').click();
  await page.getByRole('button', { name: /^rack-3/ }).waitFor();
  await page.goto(`${url}/fabrics/quay/seats`);
  await button(page, 'Seat the best matches (5)').click();
  await page.getByText('5 of 5 seats filled').waitFor();
  await page.goto(`${url}/fabrics/quay/cables`);
  await button(page, 'Cable the bench by this plan').click();
  await page.getByText('6 of 6 as planned').waitFor();
  await page
    .getByRole('row', { name: /e1\/9 e1-9 .* 1\/1 swp1 / })
    .first()
    .waitFor();
  await page.goto(`${url}/fabrics/quay/tenants`);
  await button(page, 'Add the first VRF').click();
  await field(page, 'Name').fill('moorings');
  await button(page, 'Add VRF').click();
  await page.getByText('0 networks').waitFor();
  // What was made by mistake is changed, or taken away again.
  await button(page, 'Add a VRF').click();
  await field(page, 'Name').fill('mistake');
  await button(page, 'Add VRF').click();
  await page.getByRole('button', { name: /^mistake/ }).click();
  await field(page, 'L3 VNI’s VLAN').fill('4001');
  await button(page, 'Change VRF').click();
  await page.getByText("VLAN 4001 is moorings's.").waitFor();
  await field(page, 'L3 VNI’s VLAN').fill('4040');
  await button(page, 'Change VRF').click();
  await margin(page).getByText('L3 VNI’s VLAN of VRF mistake 4002 → 4040').waitFor();
  await button(page, 'Remove').click();
  await page.getByRole('dialog').getByRole('button', { name: 'Remove it' }).click();
  await margin(page).getByText('Remove VRF mistake').waitFor();
  // The form proposes a VRF that is there: the page has heard that this one is gone.
  await page.locator('#work').getByText('mistake').first().waitFor({ state: 'detached' });
  await button(page, 'Add a network').click();
  await page.getByRole('heading', { name: 'A new network' }).waitFor();
  await field(page, 'Name').fill('berths');
  await button(page, 'Add network').click();
  await page.getByRole('row', { name: /berths/ }).waitFor();
  await page.goto(`${url}/fabrics/quay/ports?new=server`);
  await field(page, 'Server').fill('berth-1');
  await page.getByText('This rack carries no network').waitFor({ state: 'detached' });
  await choose(page, 'Untagged network', /^berths/);
  await button(page, 'Connect').click();
  await page.getByRole('row', { name: /berth-1/ }).waitFor();
  await page.locator('footer').getByText('6 of 6 sessions would come up').waitFor();

  // Approved and rolled out.
  await margin(page).getByRole('button', { name: 'Open proof' }).click();
  await button(page, 'Approve').click();
  await page.getByRole('heading', { name: 'Approved' }).waitFor();
  await button(page, 'Roll out …').click();
  await field(page, 'Undo timer, s').fill('20');
  await button(page, 'Begin now').click();
  await page.getByRole('heading', { name: 'Rolled out' }).waitFor();
  await page.goto(`${url}/fabrics/quay`);
  await page
    .locator('footer')
    .getByText(/6 of 6 sessions up/)
    .waitFor();
  // The switches run what they call their ports, and are read by what people do.
  const texts = fleet.switches.map((s) =>
    readFileSync(join(folder, 'bench/switches', s.serial, 'etc/network/interfaces'), 'utf8'),
  );
  expect(texts.filter((t) => /^iface e1-9$/m.test(t) && !/iface e1\//.test(t)).length).toBe(3);
  expect(texts.filter((t) => /^iface swp1\n    alias \S+ e1\/(9|10)$/m.test(t)).length).toBe(2);
  // Its intent goes out as a file, and what is changed there comes in as a change that says so.
  await page.goto(`${url}/fabrics/quay/history`);
  await button(page, 'Take intent from a file …').click();
  const yaml = await page.evaluate(async () => (await fetch('/api/fabrics/quay/intent.yaml')).text());
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Intent', { exact: true }).fill(yaml.replace(/\bvlan: \d+/, 'vlan: 5000'));
  await button(page, 'Show what it changes').click();
  await dialog.getByText(/^Line \d+: .*4094/).waitFor();
  await dialog.getByLabel('Intent', { exact: true }).fill(yaml.replace(/^( +)untagged: berths$/m, '$&\n$1shut: true'));
  await button(page, 'Show what it changes').click();
  await page.getByRole('heading', { name: 'quay as its file says', level: 1 }).waitFor();
  await margin(page).getByText('Shut port e1/1 of rack 1, where berth-1 is').waitFor();
  // A server that is on a port is changed there.
  await page.goto(`${url}/fabrics/quay/ports`);
  await page.getByRole('row', { name: /berth-1/ }).click();
  await field(page, 'Server').fill('berth-2');
  await button(page, 'Change').click();
  await margin(page).getByText('Put berth-2 on port e1/1 of rack 1 in place of berth-1').waitFor();
  // A rack gets a place; and all of it can go again, which is said before.
  await page.goto(`${url}/fabrics/quay?at=rack:2`);
  await field(page, 'Place').fill('row C, 14');
  await button(page, 'Keep place').click();
  await margin(page).getByText('Place of rack 2 no named place → row C, 14').waitFor();
  await button(page, 'Above the racks').click();
  await button(page, 'Clear the fabric …').click();
  await page.getByText(/Everything goes: 3 racks with 1 server, 1 VRF with 1 network/).waitFor();
  await button(page, 'Clear it').click();
  await margin(page).getByText('Clear the whole fabric: 2 spines, 3 racks, 1 network').waitFor();
  // What was made is found, and who is on a port is heard.
  await page.goto(url);
  await page.getByRole('heading', { name: 'Wrong now' }).waitFor();
  await page.keyboard.press('Control+k');
  await page.getByPlaceholder('Find or do anything …').waitFor();
  await page.keyboard.type('berth-1');
  await page.getByRole('option', { name: /^berth-1 server port of quay/ }).waitFor();
  await page.keyboard.press('Escape');
  await page.goto(`${url}/fabrics/quay/ports?where=berth-1`);
  await page.getByRole('complementary', { name: 'Where is it heard?' }).getByText('1 switch answered.').waitFor();
  await page.getByRole('complementary', { name: 'Where is it heard?' }).getByText('e1/1', { exact: true }).waitFor();
  // A fabric of which nothing went live is forgotten again, and its change is left; one that is live is not.
  await page.goto(`${url}/fabrics?new=1`);
  await field(page, 'Name').fill('jetty');
  await button(page, 'Begin').click();
  await margin(page).getByText('Build jetty').waitFor();
  await page.goto(`${url}/fabrics`);
  await button(page, 'Remove …').click();
  await page.getByRole('dialog').getByRole('button', { name: 'Remove', exact: true }).click();
  await margin(page).getByText('No change is open').waitFor();
  await page.getByRole('link', { name: /Jetty/ }).waitFor({ state: 'detached' });
  await page.getByRole('link', { name: /Quay/ }).waitFor();
  expect(errors).toEqual([]);
});
