import type { ChangeAnswer, FabricStateAnswer, TextAnswer } from '@anthemion/contract';
import type { Edit } from '@anthemion/core';
import type { Page } from 'playwright-core';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { ask, margin, signIn, startDemo, type Demo } from './demo.ts';

let demo: Demo;
beforeAll(async () => {
  demo = await startDemo();
});
afterAll(() => demo?.stop());

/** Sends to the API as the person who is signed in; answers with the status. */
const send = (page: Page, path: string, body: unknown, version?: number): Promise<number> =>
  page.evaluate(
    async ([to, match, text]) =>
      (
        await fetch(to, {
          method: 'POST',
          headers: { 'content-type': 'application/json', ...(match === '' ? {} : { 'if-match': match }) },
          body: text,
        })
      ).status,
    [path, version === undefined ? '' : `"${version}"`, JSON.stringify(body)] as const,
  );

/** A fabric by name, laid out from a pattern through the form; its change is open. */
async function layOut(page: Page, name: string, pattern: string): Promise<void> {
  await page.goto(`${demo.url}/fabrics?new=1`);
  await page.getByRole('textbox', { name: 'Name', exact: true }).fill(name);
  await page.getByRole('button', { name: 'Begin' }).click();
  await page.waitForURL(new RegExp(`fabrics/${name}`));
  await page.getByRole('button', { name: /Fabric pattern/ }).click();
  await page.getByRole('option', { name: new RegExp(pattern) }).click();
  await page.getByRole('region', { name: 'Sizing' }).waitFor();
  await page.getByRole('button', { name: 'Lay it out' }).click();
}

test('five stages: a pattern of pods is made, laid out and proven, and grows by a rack in the pod that has fewest', async () => {
  const { page, errors } = await signIn(demo, 'ines');
  // A pattern that no model can fill says so at its field, with the cure.
  await page.goto(`${demo.url}/patterns?at=fabric:two-pods`);
  await page.getByRole('textbox', { name: 'Super-spines of a plane' }).fill('31');
  await page
    .getByText(/31 super-spines × 1 links need 35 ports on every spine; TV-S32C has 32/)
    .first()
    .waitFor();
  await layOut(page, 'ness', 'two-pods');
  await page.getByText('five stages · 2 super-spines · 4 spines · 8 leaves in 6 racks').waitFor();
  await page.getByRole('group', { name: 'Palmette: 6 spines and super-spines, 6 racks' }).waitFor();
  await page.getByText('20 of 20 sessions would come up').waitFor();
  await page.getByRole('button', { name: 'Add a rack' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByText('Becomes rack 7 in pod 1').waitFor();
  // The pod need not be chosen; here it is.
  await dialog.getByRole('button', { name: /Pod/ }).click();
  await page.getByRole('option', { name: 'pod 2' }).click();
  await dialog.getByRole('button', { name: 'Add rack 7' }).click();
  await margin(page).getByText('Add rack 7 (pair-48) to pod 2').waitFor();
  await page.getByText('24 of 24 sessions would come up').waitFor();
  // Not chosen, it stands where there are fewest.
  await page.getByRole('button', { name: 'Add a rack' }).click();
  await dialog.getByRole('button', { name: 'Add rack 8' }).click();
  await margin(page).getByText('Add rack 8 (pair-48) to pod 1').waitFor();
  // A pod more, and ports of the spines split: what cannot be says so, and what was typed is still there.
  await page.getByRole('button', { name: 'Above the racks' }).click();
  await dialog.getByRole('textbox', { name: 'Pods' }).fill('3');
  await dialog.getByRole('textbox', { name: 'Split ports of the spines' }).fill('p20 × 8');
  await dialog.getByRole('button', { name: 'Change' }).click();
  await dialog.getByText('p20 of TV-S32C cannot be split into 8. It can be split into 2 or 4.').waitFor();
  await dialog.getByRole('textbox', { name: 'Split ports of the spines' }).fill('p20 × 4');
  await dialog.getByRole('button', { name: 'Change' }).click();
  await margin(page).getByText('Pods 2 → 3, split ports of the spines none → p20 × 4').waitFor();
  await page.getByRole('group', { name: 'Palmette: 8 spines and super-spines, 8 racks' }).waitFor();
  await page.getByRole('button', { name: 'lattice' }).click();
  await page.getByRole('columnheader', { name: 'super-spine-2.1' }).waitFor();
  expect(
    await page
      .getByRole('row', { name: /ne-sp-02-02/ })
      .getByText('p32 – p2')
      .count(),
  ).toBe(1);
  expect(errors).toEqual([]);
}, 120_000);

test('one AS number for all: a setting makes OSPF lead and spines reflect, on every switch, and the change says so', async () => {
  const { page, errors } = await signIn(demo, 'ines');
  await layOut(page, 'voe', 'two-pods');
  await page.getByText('20 of 20 sessions would come up').waitFor();
  await page.goto(`${demo.url}/fabrics/voe/values`);
  await page.getByRole('button', { name: 'More settings' }).click();
  await page.getByRole('button', { name: 'one per leaf AS numbers' }).click();
  await page.getByRole('option', { name: 'one for all, led by OSPF' }).click();
  await page.getByRole('button', { name: 'Set', exact: true }).click();
  await margin(page).getByText('Set AS numbers one per leaf → one for all, led by OSPF').waitFor();
  // Between loopbacks of two switches there is one session, however they are cabled.
  await page.getByText('20 of 20 sessions would come up').waitFor();
  const changes = await ask<{ id: string; fabric: string }[]>(page, '/api/changes');
  const id = changes.find((c) => c.fabric === 'voe')!.id;
  const { seats } = await ask<FabricStateAnswer>(page, `/api/fabrics/voe?change=${id}`);
  const text = async (tier: string): Promise<string> => {
    const seat = seats.find((s) => s.seat.startsWith(tier))!;
    return JSON.stringify(await ask<TextAnswer>(page, `/api/fabrics/voe/text/${seat.seat}?change=${id}`));
  };
  for (const tier of ['spine-', 'super-spine-'])
    expect(await text(tier)).toMatch(/neighbor CLIENTS route-reflector-client/);
  expect(await text('leaf-')).not.toMatch(/route-reflector-client|redistribute connected route-map/);
  expect(errors).toEqual([]);
}, 90_000);

test('collapsed: leaves without a spine, from a pattern to running switches', async () => {
  const { page, errors } = await signIn(demo, 'ines');
  const { page: bo } = await signIn(demo, 'bo');
  await layOut(page, 'geo', 'small-room');
  await page.getByText('collapsed · 3 leaves in 2 racks').waitFor();
  await page.getByText('5 of 5 sessions would come up').waitFor();
  const changes = await ask<{ id: string; fabric: string }[]>(page, '/api/changes');
  const id = changes.find((c) => c.fabric === 'geo')!.id;
  const free = (await ask<{ serial: string; model: string; seat: string | null }[]>(page, '/api/switches')).filter(
    (s) => s.seat === null && s.model === 'TV-L48F',
  );
  const seats = (await ask<FabricStateAnswer>(page, `/api/fabrics/geo?change=${id}`)).seats.map((s) => s.seat);
  expect(seats).toEqual(['leaf-1a', 'leaf-1b', 'leaf-2']);
  const edits: Edit[] = [
    ...seats.map((seat, i): Edit => ({ kind: 'takeSeat', seat, serial: free[i]!.serial })),
    { kind: 'addVrf', vrf: { name: 'tides', transitVlan: 4001 } },
    { kind: 'addNetwork', network: { name: 'gauges', vrf: 'tides', vlan: 20, subnetLength: 24, racks: [1, 2] } },
    {
      kind: 'connectServer',
      port: { rack: 1, side: 'both', port: 'p1', server: 'gauge-1', untagged: 'gauges', tagged: [] },
    },
    {
      kind: 'connectServer',
      port: { rack: 2, side: 'a', port: 'p1', server: 'gauge-2', untagged: 'gauges', tagged: [] },
    },
  ];
  const { version } = await ask<ChangeAnswer>(page, `/api/changes/${id}`);
  const status = await send(page, `/api/changes/${id}/edits`, { edits }, version);
  expect(status).toBeLessThan(300);
  // The pair is a border: a port of it leads outside, as the cabling plan says.
  await page.goto(`${demo.url}/fabrics/geo/outside`);
  await page.getByRole('button', { name: 'Join outside' }).click();
  const join = page.getByRole('complementary', { name: 'Join something outside' });
  await join.getByRole('textbox', { name: 'System' }).fill('offing-1');
  await join.getByRole('textbox', { name: 'Its port' }).fill('eth1');
  await join.getByRole('textbox', { name: 'Port', exact: true }).fill('p1');
  await join.getByRole('button', { name: 'Join' }).click();
  await join.getByText("p1 of rack 1 is gauge-1's. Choose another port.").waitFor();
  await join.getByRole('textbox', { name: 'Port', exact: true }).fill('p46');
  await join.getByRole('button', { name: 'Join' }).click();
  await margin(page).getByText('Join offing-1 eth1 to rack 1 p46 (a)').waitFor();
  await page.getByRole('row', { name: /offing-1/ }).waitFor();
  // A tenant speaks to it; what cannot be says so at its field, and what was typed is still there.
  await page.getByRole('button', { name: 'Speak BGP' }).click();
  const speak = page.getByRole('complementary', { name: 'Neighbour outside' });
  await speak.getByRole('textbox', { name: 'Our address' }).fill('192.0.2.0/31');
  await speak.getByRole('textbox', { name: 'Its address' }).fill('192.0.2.7');
  await speak.getByRole('textbox', { name: 'Its AS number' }).fill('64701');
  await speak.getByRole('button', { name: 'Speak BGP' }).click();
  await speak.getByText('192.0.2.7 is not in the subnet of 192.0.2.0/31. Choose an address of 192.0.2.0/31.').waitFor();
  await speak.getByRole('textbox', { name: 'Its address' }).fill('192.0.2.1');
  await speak.getByRole('button', { name: 'Speak BGP' }).click();
  await margin(page).getByText('Speak BGP to 192.0.2.1 (AS 64701) from rack 1 p46 (a) in tides').waitFor();
  await page.getByRole('row', { name: /64701 tides 192\.0\.2\.0\/31 rack 1 p46 \(a\) a default route/ }).waitFor();
  await page.getByText('6 of 6 sessions would come up').waitFor();
  // What its other side has to be told is there to be handed over.
  const otherSide = page.getByRole('region', { name: 'Lines for the other side' });
  await otherSide.getByText('offing-1', { exact: true }).click();
  await otherSide.getByText(/router bgp 64701\n(?: .*\n)* neighbor 192\.0\.2\.0 remote-as \d+\n/).waitFor();
  await page.goto(`${demo.url}/fabrics/geo/cables`);
  await page.getByRole('row', { name: /ge-lf-01a p46 offing-1 eth1 outside not ours to read/ }).waitFor();
  for (const kind of ['peer', 'keep-alive'])
    await page
      .getByRole('row', { name: new RegExp(`ge-lf-01b .* ${kind} `) })
      .first()
      .waitFor();
  await page.getByRole('button', { name: 'Cable the bench by this plan' }).click();
  // The router outside is there too, as the fabric expects it to be.
  await page.getByText('7 cables plugged on the bench, as planned').waitFor();
  await page.goto(`${demo.url}/changes/${id}`);
  await page.getByRole('complementary', { name: 'Approval' }).getByRole('button', { name: 'Ask approval' }).click();
  await bo.goto(`${demo.url}/changes/${id}`);
  await bo.getByRole('button', { name: 'Approve', exact: true }).click();
  await page.getByRole('button', { name: 'Roll out …' }).click();
  await page.getByRole('button', { name: 'Begin now' }).click();
  await page.getByRole('heading', { name: 'Rolled out' }).waitFor({ timeout: 90_000 });
  expect(demo.running(free[2]!.serial, 'frr.conf')).toContain('neighbor p49 interface remote-as external');
  const [talks, ports] = [demo.running(free[0]!.serial, 'frr.conf'), demo.running(free[0]!.serial, 'interfaces')];
  expect(talks).toContain('neighbor p55 interface remote-as external');
  expect(talks).not.toMatch(/neighbor p4[68]/);
  expect(ports).toMatch(/iface p48\n {4}alias ge-lf-01b p48\n/);
  expect(ports).toMatch(/iface p46\n {4}alias offing-1 eth1\n/);
  expect(talks).toContain(' neighbor 192.0.2.1 remote-as 64701\n');
  expect(talks).toContain('ip prefix-list FROM-p46 seq 10 permit 0.0.0.0/0\n');
  await page.goto(`${demo.url}/fabrics/geo`);
  await page.getByText('6 of 6 sessions up').waitFor();
  // Also that with the router outside was read, which nobody but its tenant speaks to.
  await page.goto(`${demo.url}/fabrics/geo/routing`);
  await page.getByRole('row', { name: /^ge-lf-01a p46 offing-1 .* BGP \d+–64701 tides IPv4 up up$/ }).waitFor();

  // What both ends of every session must share goes to all at once, when somebody says so.
  await send(page, '/api/changes', { fabric: 'geo', title: 'Links get addresses', reason: '', ticket: '' });
  const next = (await ask<ChangeAnswer[]>(page, '/api/changes')).find((c) => c.title === 'Links get addresses')!;
  const numbered: Edit = { kind: 'changeSettings', settings: { underlay: 'numbered' } };
  expect(await send(page, `/api/changes/${next.id}/edits`, { edits: [numbered] }, next.version)).toBe(200);
  await page.goto(`${demo.url}/changes/${next.id}`);
  await page.getByText('3 switches have to be sent to together').waitFor();
  await page.getByRole('complementary', { name: 'Approval' }).getByRole('button', { name: 'Ask approval' }).click();
  await bo.goto(`${demo.url}/changes/${next.id}`);
  await bo.getByRole('button', { name: 'Approve', exact: true }).click();
  await page.getByRole('button', { name: 'Roll out …' }).click();
  expect(await page.getByRole('button', { name: 'Begin now' }).isDisabled()).toBe(true);
  await page.getByText('Send them together').click();
  await page.getByRole('button', { name: 'Begin now' }).click();
  await page.getByRole('heading', { name: 'Rolled out' }).waitFor({ timeout: 90_000 });
  await page.getByText('3 as meant of 3').waitFor();
  expect(demo.running(free[2]!.serial, 'frr.conf')).not.toContain('neighbor p49 interface');
  expect(errors).toEqual([]);
}, 240_000);
