import type { FabricStateAnswer, TextAnswer } from '@anthemion/contract';
import type { Page } from 'playwright-core';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { ask, margin, signIn, startDemo, tick, type Demo } from './demo.ts';

let demo: Demo;
beforeAll(async () => {
  demo = await startDemo();
});
afterAll(() => demo?.stop());

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
  await layOut(page, 'tarn', 'two-pods');
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
      .getByRole('row', { name: /ta-sp-02-02/ })
      .getByText('p32 – p2')
      .count(),
  ).toBe(1);
  expect(errors).toEqual([]);
});

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
});

const field = (page: Page, name: string) => page.getByRole('textbox', { name, exact: true });
const choose = async (page: Page, label: string, option: string | RegExp): Promise<void> => {
  // Its button is called by what is chosen, then by what it is.
  await page.getByRole('button', { name: new RegExp(` ${label}$`) }).click();
  await page.getByRole('option', { name: option, exact: true }).click();
};
/** Sets the underlay under Values, as the first edit of a change of this title if none is open. */
async function setUnderlay(page: Page, to: string, title?: string): Promise<void> {
  await page.goto(`${demo.url}/fabrics/geo/values`);
  // With a change open, the page is of that change once it is there.
  if (title === undefined) await margin(page).getByText('Proven').waitFor();
  await page.getByRole('button', { name: 'More settings' }).click();
  await choose(page, 'Underlay', to);
  await page.getByRole('button', { name: 'Set', exact: true }).click();
  if (title !== undefined) {
    await nameChange(page, title);
    // A change that went live before may hold the same edit.
    await page.getByRole('dialog').waitFor({ state: 'detached' });
    await margin(page).getByText(title).waitFor();
  }
  await margin(page)
    .getByText(new RegExp(`Set underlay .* → ${to}`))
    .waitFor();
}
/** The first edit offers to open a change. */
async function nameChange(page: Page, title: string): Promise<void> {
  await page.getByRole('dialog').getByLabel('Title').fill(title);
  await page.getByRole('dialog').getByRole('button', { name: 'Open change' }).click();
}
/** Asks for a yes, gets it of somebody else, and opens the dialog that rolls out. */
async function approved(page: Page, bo: Page): Promise<void> {
  await margin(page).getByText('Proven').waitFor();
  await margin(page).getByRole('button', { name: 'Ask approval' }).click();
  // What stands beside it moves as that is said.
  await margin(page).getByText('asks for a yes since').waitFor();
  await margin(page).getByRole('button', { name: 'Open proof' }).click();
  await page.waitForURL(/\/changes\//);
  await bo.goto(page.url());
  await bo.getByRole('button', { name: 'Approve', exact: true }).click();
  await page.getByRole('button', { name: 'Roll out …' }).click();
}
async function begin(page: Page): Promise<void> {
  await page.getByRole('button', { name: 'Begin now' }).click();
  await page.getByRole('heading', { name: 'Rolled out' }).waitFor();
  await page.getByText('2 as meant of 2').waitFor();
}

test('two switches, from an empty fabric to live; their links lose their addresses in two steps; a router outside tells a default route', async () => {
  const { page, errors } = await signIn(demo, 'ines');
  const { page: bo } = await signIn(demo, 'bo');
  await layOut(page, 'geo', 'two-alone');
  await page.getByText('collapsed · 2 leaves in 1 rack').waitFor();
  await page.getByText('3 of 3 sessions would come up').waitFor();
  await setUnderlay(page, 'numbered, /31');
  await page.getByRole('row', { name: /10\.254\.0\.4\/31/ }).waitFor();
  await page.goto(`${demo.url}/fabrics/geo/seats`);
  await page.getByRole('button', { name: 'Seat the best matches (2)' }).click();
  await page.getByText('2 of 2 seats filled').waitFor();
  await page.goto(`${demo.url}/fabrics/geo/tenants`);
  await page.getByRole('button', { name: 'Add the first VRF' }).click();
  await field(page, 'Name').fill('tides');
  await page.getByRole('button', { name: 'Add VRF', exact: true }).click();
  await page.getByText('0 networks').waitFor();
  await page.getByRole('button', { name: 'Add a network' }).click();
  await page.getByRole('heading', { name: 'A new network' }).waitFor();
  await field(page, 'Name').fill('gauges');
  await field(page, 'VLAN').fill('20');
  await choose(page, 'Addresses of hosts', 'IPv4 and IPv6');
  await field(page, 'On racks').fill('1');
  await page.getByRole('button', { name: 'Add network', exact: true }).click();
  await page.getByRole('row', { name: /gauges/ }).waitFor();
  await page.goto(`${demo.url}/fabrics/geo/ports`);
  await page.getByRole('button', { name: 'Connect the first server' }).click();
  await field(page, 'Server').fill('gauge-1');
  await choose(page, 'Rack', /^rack-1/);
  await choose(page, 'Untagged network', /^gauges/);
  await page.getByRole('button', { name: 'Connect', exact: true }).click();
  await page.getByRole('row', { name: /gauge-1/ }).waitFor();
  await page.goto(`${demo.url}/fabrics/geo/cables`);
  await page.getByRole('button', { name: 'Cable the bench by this plan' }).click();
  await page.getByText('4 cables plugged on the bench, as planned').waitFor();
  await approved(page, bo);
  await begin(page);
  const { seats } = await ask<FabricStateAnswer>(page, '/api/fabrics/geo');
  expect(seats.map((s) => s.seat)).toEqual(['leaf-1a', 'leaf-1b']);
  const text = (side: number, file = 'frr.conf'): string => demo.running(seats[side]!.serial!, file);
  expect(text(0)).not.toMatch(/neighbor p\d+ interface/);
  expect(text(0, 'interfaces')).toMatch(/iface p48\n {4}alias ge-lf-01b p48\n/);
  await page.goto(`${demo.url}/fabrics/geo`);
  await page.getByText('3 of 3 sessions up').waitFor();

  // At once, both are sent to together while nothing stands between them; by halves the other links carry them, and nobody is asked.
  await setUnderlay(page, 'unnumbered', 'Links without addresses');
  await page.goto(`${demo.url}/fabrics/geo/proof`);
  await page.getByText(/In two steps, first with half of the links numbered/).waitFor();
  await setUnderlay(page, 'half of the links numbered');
  await approved(page, bo);
  await page
    .getByRole('dialog')
    .getByText(/The other links carry the fabric meanwhile/)
    .waitFor();
  // While a cable is out they do not for certain: it is asked for, and said why.
  const pull = (pulled: boolean): Promise<void> =>
    page.evaluate(
      async (body) => {
        const headers = { 'content-type': 'application/json' };
        const done = await fetch('/api/bench/pull', { method: 'POST', headers, body: JSON.stringify(body) });
        if (!done.ok) throw new Error(await done.text());
      },
      { serial: seats[0]!.serial!, port: 'p55', pulled },
    );
  await pull(true);
  await bo.goto(`${demo.url}/fabrics/geo`);
  await bo.getByText(/2 of 3 sessions up|1 wrong now/).waitFor();
  await page.getByRole('button', { name: 'Begin now' }).click();
  await page
    .getByRole('dialog')
    .getByText(/not all others are seen up that would carry the fabric/)
    .waitFor();
  await page.getByText('Send them together').waitFor();
  expect(await page.getByRole('button', { name: 'Begin now' }).isDisabled()).toBe(true);
  await pull(false);
  await bo.getByText('3 of 3 sessions up').waitFor();
  await page.getByRole('dialog').getByRole('button', { name: 'Not now' }).click();
  await page.getByRole('button', { name: 'Roll out …' }).click();
  await begin(page);
  const talksBy = (side: number): string[] =>
    [...text(side).matchAll(/neighbor (p\d+) interface remote-as/g)].map((m) => m[1]!);
  expect([talksBy(0), talksBy(1)]).toEqual([['p56'], ['p56']]);
  await page.goto(`${demo.url}/fabrics/geo`);
  await page.getByText('3 of 3 sessions up').waitFor();

  // The other half; and a port of the border leads outside, where a tenant speaks BGP.
  await setUnderlay(page, 'unnumbered', 'The other half');
  await page.goto(`${demo.url}/fabrics/geo/outside`);
  await page.getByRole('button', { name: 'Join outside' }).click();
  const join = page.getByRole('complementary', { name: 'Join something outside' });
  await join.getByRole('textbox', { name: 'System' }).fill('offing-1');
  await join.getByRole('textbox', { name: 'Its port' }).fill('eth1');
  await join.getByRole('textbox', { name: 'Port', exact: true }).fill('p1');
  await join.getByRole('button', { name: 'Join' }).click();
  await join.getByText("p1 of rack 1 is gauge-1's. Choose another port.").waitFor();
  await join.getByRole('textbox', { name: 'Port', exact: true }).fill('p46');
  // Two cables that are one; what is wrong with one of them is said where they are written.
  await tick(join.getByRole('checkbox', { name: /^LAG/ }));
  for (const [cables, says] of [
    ['p45', 'Write its further cables as port and far port'],
    ['p45 eth1', 'eth1 of offing-1 is in this LAG already. Name each port once.'],
  ] as const) {
    await join.getByRole('textbox', { name: 'Further cables' }).fill(cables);
    await join.getByRole('button', { name: 'Join' }).click();
    await join.getByText(says).waitFor();
  }
  await join.getByRole('textbox', { name: 'Further cables' }).fill('p45 eth3');
  await join.getByRole('button', { name: 'Join' }).click();
  await margin(page).getByText('Join offing-1 eth1 to rack 1 p46 (a), a LAG with p45 eth3').waitFor();
  await page.getByRole('row', { name: /offing-1/ }).waitFor();
  // What cannot be says so at its field, and what was typed is still there.
  await page.getByRole('button', { name: 'Speak BGP' }).click();
  const speak = page.getByRole('complementary', { name: 'Neighbour outside' });
  const say = async (fields: Readonly<Record<string, string>>): Promise<void> => {
    for (const [name, value] of Object.entries(fields)) await speak.getByRole('textbox', { name }).fill(value);
    await speak.getByRole('button', { name: 'Speak BGP' }).click();
  };
  await say({ 'Our address': '192.0.2.0/31', 'Its address': '192.0.2.7', 'Its AS number': '64701' });
  await speak.getByText('192.0.2.7 is not in the subnet of 192.0.2.0/31. Choose an address of 192.0.2.0/31.').waitFor();
  await say({ 'Its address': '192.0.2.1' });
  await margin(page).getByText('Speak BGP to 192.0.2.1 (AS 64701) from rack 1 p46 (a) in tides').waitFor();
  await page.getByRole('row', { name: /64701 tides 192\.0\.2\.0\/31 rack 1 p46 \(a\) default subnets/ }).waitFor();
  await page.getByText('4 of 4 sessions would come up').waitFor();
  // The same in IPv6, on a VLAN of the cable.
  await page.getByRole('button', { name: 'Speak BGP', exact: true }).first().click();
  // A second session of a kind would change the first: refused at its field.
  await say({ 'Our address': '192.0.2.2/31', 'Its address': '192.0.2.3', 'Its AS number': '64701' });
  await speak.getByText('offing-1 is spoken to there already, by IPv4: 192.0.2.1 in tides.').waitFor();
  await say({
    VLAN: '100',
    'Our address': '2001:db8:ffff::/127',
    'Its address': '2001:db8:ffff::1',
    'Takes from it': '0.0.0.0/0',
  });
  await speak.getByText('0.0.0.0/0 is of IPv4; the session with 2001:db8:ffff::1 is of IPv6.').waitFor();
  await say({ 'Takes from it': '' });
  await margin(page)
    .getByText('Speak BGP to 2001:db8:ffff::1 (AS 64701) from rack 1 p46 (a) VLAN 100 in tides')
    .waitFor();
  await page.getByText('5 of 5 sessions would come up').waitFor();
  // A static route by a firewall in the network; one that nobody could follow is refused at its field.
  await page.goto(`${demo.url}/fabrics/geo/routing/routes?at=new-route`);
  const route = page.getByRole('complementary', { name: 'Static route' });
  await route.getByRole('textbox', { name: 'Prefix' }).fill('198.51.100.9/24');
  await route.getByRole('textbox', { name: 'Next hop' }).fill('10.99.0.9');
  await route.getByRole('textbox', { name: 'On racks' }).fill('1');
  await route.getByRole('button', { name: 'Add' }).click();
  await route.getByText('198.51.100.9/24 has host bits set, or is written otherwise. Write 198.51.100.0/24.').waitFor();
  await route.getByRole('textbox', { name: 'Prefix' }).fill('198.51.100.0/24');
  await route.getByRole('button', { name: 'Add' }).click();
  await page.getByRole('row', { name: /198\.51\.100\.0\/24 tides 10\.99\.0\.9 1 1/ }).waitFor();
  await page.goto(`${demo.url}/fabrics/geo/proof`);
  await page.getByText(/goes by 10\.99\.0\.9, which on rack 1 lies in no subnet of tides/).waitFor();
  await page.getByRole('link', { name: 'to the static route' }).click();
  await route.getByRole('textbox', { name: 'Next hop' }).fill('');
  await route.getByRole('button', { name: 'Change' }).click();
  await page.getByRole('row', { name: /198\.51\.100\.0\/24 tides dropped 1 1/ }).waitFor();
  // A second tenant has routes of the first, and the first of it; which, is refused at its field where it is none.
  await page.goto(`${demo.url}/fabrics/geo/tenants?at=new-vrf`);
  await page.getByRole('textbox', { name: 'Name' }).fill('lamp');
  await page.getByRole('button', { name: 'Add VRF' }).click();
  await page.getByText('Add VRF lamp').waitFor();
  await page.goto(`${demo.url}/fabrics/geo/routing/between?at=new-leak`);
  const leak = page.getByRole('complementary', { name: 'Routes between VRFs' });
  await leak.getByRole('textbox', { name: 'Which' }).fill('10.99.0.1/8');
  await leak.getByRole('button', { name: 'Add' }).click();
  await leak.getByText('10.99.0.1/8 is no prefix such as 198.51.100.0/24').waitFor();
  await leak.getByRole('textbox', { name: 'Which' }).fill('10.99.0.0/16');
  await leak.getByRole('button', { name: 'Add' }).click();
  await page.getByRole('row', { name: /lamp tides 10\.99\.0\.0\/16 have a way back/ }).waitFor();
  await page.getByRole('row', { name: /tides lamp the subnets of its networks have a way back/ }).waitFor();
  await page
    .getByRole('row', { name: /tides lamp the subnets/ })
    .getByRole('link', { name: 'tides' })
    .click();
  await leak.getByRole('textbox', { name: 'Which' }).fill('192.0.2.0/24');
  await leak.getByRole('button', { name: 'Change' }).click();
  await page.getByText('Prefixes of leak of lamp into tides the subnets of its networks → 192.0.2.0/24').waitFor();
  // What it tells goes through a route map, which asks a list; what cannot be says so at its field.
  await page.goto(`${demo.url}/fabrics/geo/routing/policies`);
  await page.getByRole('button', { name: 'Add a list' }).click();
  const policy = page.getByRole('complementary', { name: 'Routing policy' });
  const entries = policy.getByRole('textbox', { name: 'Entries' });
  await policy.getByRole('textbox', { name: 'Name' }).fill('out-there');
  await entries.fill('10 permit 0.0.0.0/0\n20 permt 10.0.0.0/8');
  await policy.getByText('Line 2, “20 permt 10.0.0.0/8”, cannot be read').waitFor();
  await entries.fill('10 permit 0.0.0.0/0');
  await policy.getByRole('button', { name: 'Add' }).click();
  await page.getByRole('row', { name: 'out-there 10 permits 0.0.0.0/0 nothing yet no switch' }).waitFor();
  await page.getByRole('button', { name: 'Add a route map' }).click();
  await policy.getByRole('textbox', { name: 'Name' }).fill('by-offing');
  await policy.getByRole('button', { name: /Prefix list/ }).click();
  await page.getByRole('option', { name: 'out-there' }).click();
  const marks = policy.getByRole('textbox', { name: 'Communities' });
  await marks.fill('64701:20 70000:1');
  await policy.getByRole('button', { name: 'Add', exact: true }).click();
  await policy.getByText('70000:1 is no community such as 64700:20').waitFor();
  await marks.fill('64701:20 soo:64701:7');
  await policy.getByRole('textbox', { name: 'Out of the path' }).fill('64799');
  const hop = policy.getByRole('textbox', { name: 'Next hop' });
  await hop.fill('gateway');
  await policy.getByRole('button', { name: 'Add', exact: true }).click();
  await policy.getByText('a next hop is an address of IPv4, neighbour, or unchanged').waitFor();
  await hop.fill('192.0.2.1');
  await policy
    .getByText(
      '10 permits prefix list out-there; gives it path without 64799, communities 64701:20, extended communities soo:64701:7 beside its own, next hop 192.0.2.1',
    )
    .waitFor();
  // It is told static routes by as well: what next hop those would be told with is not computed.
  await hop.fill('');
  await policy.getByRole('button', { name: 'Add', exact: true }).click();
  await margin(page).getByText('Add route map by-offing').waitFor();
  await page.goto(`${demo.url}/fabrics/geo/outside?at=neighbour:1.a.p46`);
  await speak.getByRole('button', { name: /Route map in/ }).click();
  await page.getByRole('option', { name: 'by-offing' }).click();
  await speak.getByRole('button', { name: 'Change' }).click();
  await margin(page).getByText('Map in of neighbour 192.0.2.1 on rack 1 p46 (a) none → by-offing').waitFor();
  // What the open change would have is found from anywhere.
  await page.keyboard.press('Control+k');
  await page.getByPlaceholder('Find or do anything …').fill('by-offing');
  await page.getByRole('option', { name: /^by-offing route map of geo/ }).click();
  await policy.getByText('Change by-offing').waitFor();
  // What is used stays.
  await page.goto(`${demo.url}/fabrics/geo/routing/policies?at=policy:route-map.by-offing`);
  await policy.getByRole('button', { name: 'Remove' }).click();
  await page.getByText(/Route map by-offing is still used by neighbour 192\.0\.2\.1/).waitFor();
  // A tenant tells its static routes through it as well.
  await page.goto(`${demo.url}/fabrics/geo/tenants?at=vrf:tides`);
  await page.getByRole('button', { name: /Route map of its static routes/ }).click();
  await page.getByRole('option', { name: 'by-offing' }).click();
  await page.getByRole('button', { name: 'Change VRF' }).click();
  await margin(page).getByText('Map of its static routes of VRF tides none → by-offing').waitFor();
  // It may have so many routes and no more: then its sessions need a limit.
  const most = page.getByRole('textbox', { name: 'Most routes' });
  for (const [routes, said] of [
    ['100', 'any number → 100'],
    ['', '100 → any number'],
  ] as const) {
    await page.goto(`${demo.url}/fabrics/geo/tenants?at=vrf:tides`);
    await most.fill(routes);
    await page.getByRole('button', { name: 'Change VRF' }).click();
    await margin(page).getByText(`Most routes of VRF tides ${said}`).waitFor();
    if (routes === '') continue;
    await page.goto(`${demo.url}/fabrics/geo/proof`);
    await page.getByText('tides may have 100 routes, and 192.0.2.1 may tell any number.').waitFor();
  }
  // The router speaks from an address behind the link; one on the link is none.
  await page.goto(`${demo.url}/fabrics/geo/outside?at=neighbour:1.a.p46`);
  await speak.getByRole('button', { name: /Less used/ }).click();
  const from = speak.getByRole('textbox', { name: 'Speaks from' });
  await from.fill('192.0.2.1');
  await speak.getByRole('button', { name: 'Change' }).click();
  await speak.getByText('192.0.2.1 is in the subnet of the link.').waitFor();
  await from.fill('203.0.113.9');
  await speak.getByRole('button', { name: 'Change' }).click();
  await margin(page)
    .getByText('Address it speaks from of neighbour 192.0.2.1 on rack 1 p46 (a) that on the link → 203.0.113.9')
    .waitFor();
  await page.getByRole('row', { name: /203\.0\.113\.9 behind 192\.0\.2\.1/ }).waitFor();
  await page.goto(`${demo.url}/fabrics/geo/outside`);
  // What its other side has to be told is there to be handed over.
  const otherSide = page.getByRole('region', { name: 'Lines for the other side' });
  await otherSide.getByText('offing-1', { exact: true }).click();
  await otherSide
    .getByText(
      /router bgp 64701\n(?: .*\n)* neighbor 192\.0\.2\.0 remote-as \d+\n(?: .*\n)*? neighbor 192\.0\.2\.0 update-source 203\.0\.113\.9\n/,
    )
    .waitFor();
  await page.goto(`${demo.url}/fabrics/geo/cables`);
  await page.getByRole('row', { name: /ge-lf-01a p46 offing-1 eth1 outside not ours to read/ }).waitFor();
  for (const kind of ['peer', 'keep-alive'])
    await page
      .getByRole('row', { name: new RegExp(`ge-lf-01b .* ${kind} `) })
      .first()
      .waitFor();
  // The router outside is there too, as the fabric expects it to be.
  await page.getByRole('button', { name: 'Cable the bench by this plan' }).click();
  await page.getByText('6 cables plugged on the bench, as planned').waitFor();
  await approved(page, bo);
  await begin(page);
  expect([talksBy(0), talksBy(1)]).toEqual([
    ['p49', 'p55', 'p56'],
    ['p49', 'p55', 'p56'],
  ]);
  expect(text(1)).toContain(' ip route 198.51.100.0/24 blackhole\n');
  expect(text(0, 'interfaces')).toMatch(/iface p46\n {4}alias offing-1 eth1\n/);
  expect(text(0, 'interfaces')).toContain('    bond-slaves p45 p46\n');
  expect(text(0, 'interfaces')).toContain('iface bond46.100\n    alias offing-1 eth1+eth3.100\n');
  expect(text(0)).toContain(' neighbor 203.0.113.9 remote-as 64701\n');
  expect(text(0)).toContain('ip prefix-list FROM-p46 seq 10 permit 0.0.0.0/0\n');
  expect(text(0)).toContain('  neighbor 203.0.113.9 route-map by-offing in\n');
  expect(text(0)).toContain(
    'route-map by-offing permit 10\n match ip address prefix-list out-there\n set as-path exclude 64799\n set community 64701:20\n set extcommunity soo 64701:7\n',
  );
  // The other half speaks to nobody, and tells static routes by the map.
  expect(text(1)).toContain('  redistribute static route-map by-offing\n');
  expect(text(1)).not.toContain('route-map by-offing in');
  await page.goto(`${demo.url}/fabrics/geo`);
  await page.getByText('5 of 5 sessions up').waitFor();
  // Also that with the router outside was read; the switch beside it hears its default route.
  await page.goto(`${demo.url}/fabrics/geo/routing`);
  await page.getByRole('row', { name: /^ge-lf-01a bond46 offing-1 .* BGP \d+–64701 tides IPv4 up up$/ }).waitFor();
  await page.getByRole('row', { name: /^ge-lf-01a bond46\.100 offing-1 .* BGP \d+–64701 tides IPv6 up up$/ }).waitFor();
  const answer = await ask(page, '/api/fabrics/geo/ask?question=' + encodeURIComponent('routes ge-lf-01b in tides'));
  expect(JSON.stringify(answer)).toContain('0.0.0.0/0');
  expect(JSON.stringify(answer)).toContain('::/0');

  // What both ends of every session must share, and no other link carries meanwhile, goes to all at once when somebody says so.
  await setUnderlay(page, 'numbered, /31', 'Links get addresses again');
  await approved(page, bo);
  await page.getByText('2 switches have to be sent to together').first().waitFor();
  expect(await page.getByRole('button', { name: 'Begin now' }).isDisabled()).toBe(true);
  await page.getByText('Send them together').click();
  await begin(page);
  expect([talksBy(0), talksBy(1)]).toEqual([[], []]);
  expect(errors).toEqual([]);
});
