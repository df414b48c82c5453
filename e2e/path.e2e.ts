import type { FabricStateAnswer, TextAnswer } from '@anthemion/contract';
import type { Page } from 'playwright-core';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { ask, margin, signIn, startDemo, type Demo } from './demo.ts';

let demo: Demo;
beforeAll(async () => {
  demo = await startDemo();
});
afterAll(() => demo?.stop());

const proofLine = (page: Page) => page.locator('footer');
const field = (page: Page, name: string) => page.getByRole('textbox', { name, exact: true });
const tab = (page: Page, name: string) =>
  page.getByRole('navigation', { name: 'Pages of the fabric' }).getByRole('link', { name: new RegExp(`${name}$`) });
const choose = async (page: Page, label: string, option: string): Promise<void> => {
  // Its button is called by what is chosen, then by what it is.
  await page.getByRole('button', { name: new RegExp(` ${label}$`) }).click();
  await page.getByRole('option', { name: option }).click();
};

/** Somebody else approves the change in view; then it is rolled out and watched until the end. */
async function approveAndRollOut(ines: Page, bo: Page): Promise<void> {
  if (!/\/changes\//.test(ines.url())) {
    await margin(ines).getByRole('button', { name: 'Ask approval' }).click();
    // What stands beside it moves as that is said.
    await margin(ines).getByText('asks for a yes since').waitFor();
    await margin(ines).getByRole('button', { name: 'Open proof' }).click();
  } else
    await ines.getByRole('complementary', { name: 'Approval' }).getByRole('button', { name: 'Ask approval' }).click();
  await ines.waitForURL(/\/changes\//);
  const title = await ines.locator('h1').innerText();
  // Who may approve is told, wherever they are: nobody reloads a page.
  await bo.goto(demo.url);
  await bo.getByRole('list', { name: 'Waits for you' }).getByRole('link', { name: title }).click();
  await bo.getByRole('button', { name: 'Approve', exact: true }).click();
  await bo.getByRole('heading', { name: 'Approved' }).waitFor();
  await ines.getByRole('button', { name: 'Roll out …' }).click();
  await field(ines, 'Undo timer, s').fill('20');
  await ines.getByRole('button', { name: 'Begin now' }).click();
  // Live progress arrives without a reload: steps fill while the heading still says so.
  await ines.getByRole('heading', { name: 'Rolling out' }).waitFor();
  await ines
    .getByRole('img', { name: /^[1-8] of 8 steps done/ })
    .first()
    .waitFor();
  await ines.getByRole('heading', { name: 'Rolled out' }).waitFor();
}

/** Every switch of the fabric runs exactly the text that is rendered for it; the texts by seat. */
async function runsAsMeant(page: Page, fabric: string): Promise<Map<string, string>> {
  const state = await ask<FabricStateAnswer>(page, `/api/fabrics/${fabric}`);
  const texts = new Map<string, string>();
  for (const seat of state.seats) {
    const text = await ask<TextAnswer>(page, `/api/fabrics/${fabric}/text/${seat.seat}`);
    for (const file of ['frr.conf', 'interfaces', 'sysctl.conf'])
      expect(demo.running(seat.serial!, file)).toBe(text.meant![file]);
    // Of what is started a part is ours; the rest stays as it came.
    const started = demo.running(seat.serial!, 'daemons');
    expect(started).toContain(`# anthemion begin\n${text.meant!['daemons']}# anthemion end\n`);
    expect(started).toMatch(/^bgpd=no\n/);
    texts.set(seat.seat, Object.values(text.meant!).join(''));
  }
  return texts;
}

test('from a pattern to running switches, and back to the revision before', async () => {
  const { page, errors } = await signIn(demo, 'ines');
  const { page: bo } = await signIn(demo, 'bo');

  // A pool: overlap is refused at its field with the other pool named, nothing typed is lost.
  await page.goto(`${demo.url}/pools?new=1`);
  await field(page, 'Name').fill('tarn-tenants');
  await field(page, 'Ranges, one a line').fill('10.32.128.0/17');
  await page.getByRole('button', { name: 'Make pool' }).click();
  await page.getByText('10.32.128.0/17 overlaps 10.32.0.0/16 of pool skerry-tenants.').waitFor();
  expect(await field(page, 'Name').inputValue()).toBe('tarn-tenants');
  await field(page, 'Ranges, one a line').fill('10.40.0.0/16');
  await page.getByRole('button', { name: 'Make pool' }).click();
  await page.getByRole('heading', { name: 'tarn-tenants' }).waitFor();

  // One of IPv6, which hands out subnets.
  await page.goto(`${demo.url}/pools?new=1`);
  await field(page, 'Name').fill('tarn-tenants-6');
  await choose(page, 'Holds', 'IPv6');
  await field(page, 'Ranges, one a line').fill('2001:db8:32:4000::/52');
  await page.getByRole('button', { name: 'Make pool' }).click();
  await page.getByText('2001:db8:32:4000::/52 overlaps 2001:db8:32::/48 of pool skerry-tenants-6.').waitFor();
  await field(page, 'Ranges, one a line').fill('2001:db8:40::/48');
  await page.getByRole('button', { name: 'Make pool' }).click();
  await page.getByRole('heading', { name: 'tarn-tenants-6' }).waitFor();

  // A fabric from a pattern; seats, links and values exist at once.
  await page.goto(`${demo.url}/fabrics?new=1`);
  await field(page, 'Name').fill('tarn');
  await page.getByRole('button', { name: 'Begin' }).click();
  await choose(page, 'Fabric pattern', 'small-hall');
  await page.getByText('6 switches').waitFor();
  await choose(page, 'Tenant subnets', 'tarn-tenants');
  await choose(page, 'IPv6 subnets of tenants', 'tarn-tenants-6');
  await page.getByRole('button', { name: 'Lay it out' }).click();
  await page.getByRole('button', { name: /^rack-3/ }).waitFor();
  await proofLine(page)
    .getByText(/values drawn/)
    .waitFor();
  await tab(page, 'Values').click();
  await page.getByRole('row', { name: /leaf-3a loopback/ }).waitFor();

  // Seats: the best matches are proposed. Cables: the bench is plugged as planned.
  await tab(page, 'Seats').click();
  await page.getByRole('button', { name: 'Seat the best matches (6)' }).click();
  await page.getByText('6 of 6 seats filled').waitFor();
  await tab(page, 'Cables').click();
  await page.getByRole('button', { name: 'Cable the bench by this plan' }).click();
  await page.getByText('8 of 8 as planned').waitFor();

  // Tenants: a VLAN somebody has is refused at its field; an MTU too large for the links is caught by the proof.
  await tab(page, 'Tenants').click();
  await page.getByRole('button', { name: 'Add the first VRF' }).click();
  await field(page, 'Name').fill('charts');
  await page.getByRole('button', { name: 'Add VRF', exact: true }).click();
  await page.getByText('0 networks').waitFor();
  const addNetwork = async (name: string, fields: Record<string, string>): Promise<void> => {
    await page.getByRole('button', { name: 'Add a network' }).click();
    await page.getByRole('heading', { name: 'A new network' }).waitFor();
    await field(page, 'Name').fill(name);
    for (const [label, value] of Object.entries(fields)) await field(page, label).fill(value);
    await page.getByRole('button', { name: 'Add network', exact: true }).click();
  };
  await addNetwork('pilot-desk', { VLAN: '4001' });
  await page.getByText("VLAN 4001 is charts's.").waitFor();
  await field(page, 'VLAN').fill('');
  await field(page, 'MTU, bytes').fill('9200');
  await page.getByRole('button', { name: 'Add network', exact: true }).click();
  await proofLine(page).getByText('1 finding of').waitFor();
  await page.getByText("Set the network's MTU to 9166 or less").waitFor();
  await field(page, 'MTU, bytes').fill('9166');
  await page.getByRole('button', { name: 'Change network' }).click();
  await proofLine(page).getByText('rules hold').waitFor();
  await page.getByRole('button', { name: 'Close', exact: true }).click();
  await addNetwork('chart-press', { 'On racks': '1, 3' });
  await page.getByRole('row', { name: /chart-press/ }).waitFor();

  // Its hosts get addresses of both families: the subnet is drawn, and its gateway shown.
  await page.getByRole('row', { name: /chart-press/ }).click();
  await choose(page, 'Addresses of hosts', 'IPv4 and IPv6');
  await field(page, 'IPv6 subnet, a /64').fill('2001:db8:40:1::/80');
  await page.getByRole('button', { name: 'Change network' }).click();
  await page.getByText('2001:db8:40:1::/80 is no /64').waitFor();
  await field(page, 'IPv6 subnet, a /64').fill('');
  await page.getByRole('button', { name: 'Change network' }).click();
  await page.getByText('Gateway 2001:db8:40::1/64 on every switch that carries it').waitFor();
  await page.getByRole('row', { name: /chart-press.*2001:db8:40::\/64/ }).waitFor();
  await proofLine(page).getByText('rules hold').waitFor();

  // Approve by a second person, roll out, and read on the switches that it is there.
  await approveAndRollOut(page, bo);
  const first = await runsAsMeant(page, 'tarn');
  expect([...first.values()].join('')).toContain('mtu 9166');
  expect(first.get('leaf-3a')).toMatch(/address 2001:db8:40::1\/64\n[^]*no ipv6 nd suppress-ra\n/);
  await page.goto(`${demo.url}/fabrics/tarn/cables`);
  await page.getByText('8 of 8 as planned').waitFor();

  // A second revision, with a server on both leaves of the pair; then back to the revision before.
  await page.goto(`${demo.url}/fabrics/tarn/ports`);
  await page.getByRole('button', { name: 'Connect the first server' }).click();
  await field(page, 'Server').fill('press-301');
  await choose(page, 'Rack', 'rack-3');
  await choose(page, 'Untagged network', 'chart-press');
  await page.getByRole('button', { name: 'Connect', exact: true }).click();
  await page.getByRole('dialog').getByLabel('Title').fill('Press on the pair');
  await page.getByRole('dialog').getByRole('button', { name: 'Open change' }).click();
  await page.getByRole('row', { name: /press-301/ }).waitFor();
  await margin(page).getByText('Proven').waitFor();
  await approveAndRollOut(page, bo);
  const second = await runsAsMeant(page, 'tarn');
  expect(second.get('leaf-3a')).toContain('evpn mh es-id 1');

  // Between two revisions: the edits, the switches that differ, and of each what its lines mean; also between two switches.
  await page.goto(`${demo.url}/fabrics/tarn/history`);
  await page.getByRole('link', { name: 'What it changed' }).click();
  const differs = page.getByRole('complementary', { name: 'What differs' });
  await differs.getByText(/^Connect press-301 to /).waitFor();
  await page.getByRole('link', { name: /-lf-03a \+/ }).click();
  await differs.getByText(/^LAG .*: only in revision 2$/).waitFor();
  await choose(page, 'With switch', 'ta-lf-03b');
  await differs.getByRole('heading', { name: 'ta-lf-03a and ta-lf-03b' }).waitFor();
  await differs.getByText('Also what each has of its own').waitFor();
  // What it runs is kept: as revision 2 means it, and before as revision 1 did.
  const { seats } = await ask<FabricStateAnswer>(page, '/api/fabrics/tarn');
  await page.goto(`${demo.url}/switches/${seats.find((s) => s.seat === 'leaf-3a')!.serial!}?backups=1`);
  await page.getByRole('button', { name: /runs now, as revision 2 means it/ }).waitFor();
  await page.getByRole('button', { name: /as revision 1 means it$/ }).click();
  const download = page.waitForEvent('download');
  await page.getByRole('link', { name: 'Download' }).click();
  expect((await download).suggestedFilename()).toMatch(/^ta-lf-03a-\d+\.zip$/);
  await page.getByRole('link', { name: 'Compare with what runs' }).click();
  await differs.getByText(/^LAG .*: only in what runs$/).waitFor();

  await page.goto(`${demo.url}/fabrics/tarn/history`);
  await page.getByRole('button', { name: 'Return to revision 1' }).click();
  await page.getByRole('heading', { name: 'Return to revision 1', level: 1 }).waitFor();
  await approveAndRollOut(page, bo);
  expect(await runsAsMeant(page, 'tarn')).toEqual(first);
  expect(errors).toEqual([]);
});

test('a leaf is drained before it is worked on, is seen to be quiet while its servers go on, and is brought back', async () => {
  const { page, errors } = await signIn(demo, 'ines');
  const { page: bo } = await signIn(demo, 'bo');
  const atSeat = `${demo.url}/fabrics/skerry/seats?at=seat:leaf-7a`;
  const seat = page.getByRole('complementary', { name: 'Seat' });
  const count = async (): Promise<void> => {
    await seat.getByRole('button', { name: 'Count its traffic' }).click();
    await seat.getByText(/^Counted by sk-lf-07a for/).waitFor();
  };
  const turn = async (how: 'Drain it' | 'Bring it back', title: string): Promise<void> => {
    await page.goto(atSeat);
    await seat.getByRole('button', { name: how }).click();
    const dialog = page.getByRole('dialog');
    await dialog.getByLabel('Title').fill(title);
    await dialog.getByLabel('Reason').fill('Its fan tray is swapped');
    await dialog.getByRole('button', { name: 'Open change' }).click();
    await margin(page).getByText('Proven').waitFor();
    await approveAndRollOut(page, bo);
    await margin(page).getByRole('button', { name: 'Leave the change' }).click();
    await page.goto(atSeat);
  };
  const { seats } = await ask<FabricStateAnswer>(page, '/api/fabrics/skerry');
  const running = (file: string): string => demo.running(seats.find((s) => s.seat === 'leaf-7a')!.serial!, file);
  const before = ['frr.conf', 'interfaces'].map(running);

  await page.goto(atSeat);
  await count();
  await seat.getByText('Traffic on 10 of 10 ports').waitFor();
  await turn('Drain it', 'Drain sk-lf-07a');
  expect(running('frr.conf')).toContain('\n bgp graceful-shutdown\n');
  expect(running('interfaces').match(/link-down yes/g)).toHaveLength(6);
  await seat.getByText('sk-lf-07a drained').waitFor();
  await seat.getByText('No two others go over it.').waitFor();
  await count();
  await seat.getByText(/^Quiet: [\d.]+ kbit\/s at most, on p\d+ to sk-sp-/).waitFor();
  await page.getByRole('row', { name: /leaf-7a .* drained/ }).waitFor();
  // It is no trouble, and not forgotten.
  await page.goto(`${demo.url}/watch`);
  await page.getByRole('heading', { name: 'Nothing is wrong' }).waitFor();
  await page.getByText('sk-lf-07a asks others to go round it').waitFor();
  await page.getByRole('link', { name: 'sk-lf-07a' }).click();
  await seat.getByText('sk-lf-07a drained').waitFor();

  await turn('Bring it back', 'Bring sk-lf-07a back');
  expect(['frr.conf', 'interfaces'].map(running)).toEqual(before);
  await seat.getByText('sk-lf-07a drained').waitFor({ state: 'detached' });
  await count();
  await seat.getByText('Traffic on 10 of 10 ports').waitFor();
  expect(errors).toEqual([]);
});
