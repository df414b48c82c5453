import { afterAll, beforeAll, expect, test } from 'vitest';
import { findPrograms } from '../packages/rehearsal/src/programs.ts';
import { signIn, startDemo, tick, type Demo } from './demo.ts';
import { violations } from './violations.ts';

let demo: Demo;
beforeAll(async () => {
  demo = await startDemo();
});
afterAll(() => demo?.stop());

test('one asks the network on the proof: the way of a packet leads to its lines, a wrong question is answered at the field, and both have a link', async () => {
  const { page } = await signIn(demo, 'olu');
  await page.goto(`${demo.url}/fabrics/skerry/proof`);
  const asking = page.getByRole('region', { name: 'Ask the network' });
  await asking.getByLabel('Question').fill('reach soundings-101 nobody');
  await page.keyboard.press('Enter');
  await asking.getByText('there is no server nobody.').waitFor();
  await asking.getByLabel('Question').fill('reach soundings-101 echo-301');
  await asking.getByRole('button', { name: 'Ask', exact: true }).click();
  await asking.getByText('soundings-101 to echo-301: arrives').waitFor();
  expect(page.url()).toContain('ask=reach+soundings-101+echo-301');
  await page.reload();
  const there = asking.getByRole('region', { name: 'From soundings-101 to echo-301' });
  await there.getByText('sk-sp-01, sk-sp-02, sk-sp-03, sk-sp-04').waitFor();
  await there
    .getByRole('link', { name: /^sk-lf-01\/interfaces:/ })
    .first()
    .click();
  await page.waitForURL(/\/fabrics\/skerry\/text\/leaf-1$/);
});

test('who speaks with whom stands on one page, by the model and as read; a prefix is looked up, and policies are said', async () => {
  const { page, errors } = await signIn(demo, 'olu');
  await page.goto(`${demo.url}/fabrics/skerry/routing`);
  await page.getByText('40 of 40 up by the model').waitFor();
  const row = page.getByRole('row', { name: /^sk-lf-01 p49 sk-sp-01 p1 BGP 65110–65100 IPv4 EVPN up up$/ });
  await row.click();
  const facts = page.getByRole('complementary', { name: 'Neighbours' });
  await facts.getByRole('heading', { name: 'sk-lf-01 and sk-sp-01' }).waitFor();
  await facts.getByRole('link', { name: 'its neighbours' }).first().click();
  await page.getByText('4 of 4 up by the model').waitFor();
  await page.getByLabel('Neighbours of').fill('sk-lf-99');
  await page.getByRole('button', { name: 'Show' }).click();
  await page.getByText('skerry has no switch sk-lf-99. Write its name as Seats has it.').waitFor();
  await page.getByLabel('Neighbours of').fill('');
  await page.getByRole('button', { name: 'Show' }).click();
  await page.getByText('40 of 40 up by the model').waitFor();
  await page.getByRole('link', { name: 'Who has a prefix' }).click();
  await page.getByLabel('Prefix or address').fill('10.255.0');
  await page.keyboard.press('Enter');
  await page.getByText('a question is').waitFor();
  await page.getByLabel('Prefix or address').fill('10.255.0.5/32');
  await page.keyboard.press('Enter');
  await page.getByRole('row', { name: /^sk-lf-01, sk-lf-03, .* sk-sp-01 over p49, path 65100 65111/ }).waitFor();
  expect(page.url()).toContain('/routing/prefix?of=10.255.0.5');
  await page.getByRole('link', { name: 'Policies', exact: true }).click();
  await page
    .getByRole('table', { name: 'Route maps' })
    .getByRole('row', {
      name: /^CONNECTED 10 permits prefix list LOOPBACKS.*connected routes that BGP tells 14 switches$/,
    })
    .waitFor();
  expect(errors).toEqual([]);
});

test('a change is rehearsed on real daemons from its page, where this machine can; else it says why not', async () => {
  const { page } = await signIn(demo, 'ines');
  const made = await page.request.post(`${demo.url}/api/changes`, {
    data: { fabric: 'skerry', title: 'Longer hold', reason: '', ticket: '' },
  });
  const { id } = (await made.json()) as { id: string };
  await page.request.post(`${demo.url}/api/changes/${id}/edits`, {
    data: { edits: [{ kind: 'changeSettings', settings: { hold: 12 } }] },
  });
  await page.goto(`${demo.url}/changes/${id}`);
  const part = page.getByRole('region', { name: 'Rehearsal' });
  await part.getByRole('button', { name: 'Rehearse', exact: true }).click();
  await part.getByText(/^8 of 14 switches: /).waitFor();
  await part.getByRole('button', { name: 'Rehearse again' }).waitFor();
  const programs = findPrograms({ fetch: false });
  if (typeof programs === 'string') await part.getByText(`It could not be rehearsed: ${programs}`).waitFor();
  else await part.getByText('The daemons do what the proof says.').waitFor();
  await page.reload();
  await part.getByText(/By ines, .*; 8 of 14 switches:/).waitFor();
  expect(await violations(page)).toEqual([]);
  const { version } = (await (await page.request.get(`${demo.url}/api/changes/${id}`)).json()) as { version: number };
  const gone = await page.request.post(`${demo.url}/api/changes/${id}/withdraw`, {
    headers: { 'if-match': `"${version}"` },
  });
  expect(gone.ok()).toBe(true);
});

test('a network is given a new subnet: at once servers would lose their gateway, and what is refused opens no change; beside the old one nothing is lost', async () => {
  const { page, errors } = await signIn(demo, 'ines');
  await page.goto(`${demo.url}/fabrics/skerry/tenants?at=network:almanac`);
  const field = (name: string) => page.getByRole('textbox', { name, exact: true });
  const change = page.getByRole('button', { name: 'Change network' });
  await field('Further subnets').fill('10.40.0.1/24');
  await change.click();
  await page.getByText('10.40.0.1/24 has host bits set.').waitFor();
  expect(await page.getByRole('dialog').count()).toBe(0);
  await field('Further subnets').fill('');
  await field('Subnet').fill('10.40.0.0/24');
  await change.click();
  await page.getByRole('dialog').getByLabel('Title').fill('Number anew');
  await page.getByRole('dialog').getByRole('button', { name: 'Open change' }).click();
  await page.getByText(/^Gateway 10\.32\.0\.1 of almanac goes as 10\.40\.0\.1 comes: 4 servers that have it/).waitFor();
  await field('Further subnets').fill('10.32.0.0/24');
  await change.click();
  await page.getByText('Further subnets of network almanac none → 10.32.0.0/24').waitFor();
  await page.getByText(/^Gateway 10\.32\.0\.1 of almanac goes/).waitFor({ state: 'detached' });
  await page.goto(`${demo.url}/fabrics/skerry/text/leaf-6`);
  await page.getByText('address 10.40.0.1/24').first().waitFor();
  await page.getByText('address 10.32.0.1/24').first().waitFor();
  expect(errors).toEqual([]);
});

test('servers of a network speak BGP to its gateway: who cannot is said at its field, their sessions are counted, and a switch says who may call', async () => {
  const { page, errors } = await signIn(demo, 'ines');
  await page.goto(`${demo.url}/fabrics/skerry/routing/servers`);
  await page.getByRole('button', { name: 'Let servers speak' }).press('Enter');
  const field = (name: string) => page.getByRole('textbox', { name, exact: true });
  await page.getByRole('button', { name: /Network/ }).press('ArrowDown');
  await page.getByRole('option', { name: /^echo-store/ }).press('Enter');
  // Its drawn subnet stands beside the field.
  const hint = await page.getByText(/, or a part of it; every leaf/).innerText();
  const base = /^(\d+\.\d+\.\d+)\.0\/24/.exec(hint)![1]!;
  await field('Who may call').fill(`${base}.0/26`);
  await field('Their AS number').fill('64850');
  await field('They may tell').fill('198.51.100.0/26');
  await field('Known servers').fill(`echo-703 ${base}.11`);
  const make = page.getByRole('button', { name: 'Let them speak' });
  await make.press('Enter');
  await page
    .getByText(/^echo-703 is on both leaves of rack 7: which of them it speaks to, its LAG decides\./)
    .waitFor();
  await field('Known servers').fill(`echo-301 ${base}.11\necho-401 ${base}.12`);
  await make.press('Enter');
  await page.getByRole('dialog').getByLabel('Title').fill('Echo cluster speaks');
  await page.getByRole('dialog').getByRole('button', { name: 'Open change' }).press('Enter');
  await page.getByText('42 of 42 sessions would come up').waitFor();
  await page.getByText('echo-301').first().click();
  await page.getByText(`neighbor ${base}.1 remote-as`).first().waitFor();
  await page.goto(`${demo.url}/fabrics/skerry/text/leaf-3`);
  await page.getByText(`bgp listen range ${base}.0/26 peer-group vlan212-${base}.0-26`).first().waitFor();
  expect(errors).toEqual([]);
});

test('a port is told its speed and FEC: what it has not is refused at its field; FEC of all links names what has to be sent together; a link is shut', async () => {
  const { page, errors } = await signIn(demo, 'ines');
  await page.goto(`${demo.url}/fabrics/skerry/ports?at=port:2.a.p1`);
  const choose = async (field: RegExp, option: string) => {
    await page.getByRole('button', { name: field }).press('ArrowDown');
    await page.getByRole('option', { name: option }).press('Enter');
  };
  await choose(/Speed/, '10 Gb/s');
  await choose(/FEC/, 'RS-FEC');
  const change = page.getByRole('button', { name: 'Change', exact: true });
  await change.press('Enter');
  await page.getByText('A line of 10 Gb/s has no RS-FEC.').waitFor();
  await choose(/FEC/, 'BASE-R FEC');
  await change.press('Enter');
  await page.getByRole('dialog').getByLabel('Title').fill('Slower servers');
  await page.getByRole('dialog').getByRole('button', { name: 'Open change' }).press('Enter');
  await page.getByRole('gridcell', { name: '10 Gb/s, BASE-R FEC' }).waitFor();
  await page.goto(`${demo.url}/fabrics/skerry/text/leaf-2?file=interfaces`);
  await page.getByText('link-fec baser').first().waitFor();
  await page.goto(`${demo.url}/fabrics/skerry/values`);
  await page.getByRole('button', { name: 'More settings' }).press('Enter');
  await choose(/FEC of links/, 'RS-FEC');
  await page.getByRole('button', { name: 'Set', exact: true }).press('Enter');
  await page.getByText('1 warning').waitFor();
  await page.getByRole('button', { name: 'Open proof' }).press('Enter');
  await page.getByText(/^\d+ switches have to be sent to together: 80 of 80 session ends are down/).waitFor();
  await page.goto(`${demo.url}/fabrics/skerry/cables`);
  const cable = page.getByRole('row', { name: /sk-lf-01 p50 sk-sp-02 p1/ });
  await tick(cable.getByRole('checkbox'));
  await page.getByRole('button', { name: 'Shut 1', exact: true }).press('Enter');
  await page.getByText('Shut link sk-lf-01 p50 – sk-sp-02 p1').waitFor();
  await cable.getByText('to be shut, now up').waitFor();
  await page.getByText('39 of 39 sessions would come up').waitFor();
  expect(errors).toEqual([]);
});
