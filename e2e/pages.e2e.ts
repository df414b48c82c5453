import type { ChangeSummary } from '@anthemion/contract';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { signIn, startDemo, tick, type Demo } from './demo.ts';
import { rests, violations } from './violations.ts';

let demo: Demo;
beforeAll(async () => {
  demo = await startDemo('skerry,holm,ness');
});
afterAll(() => demo?.stop());

const PATHS = [
  '/',
  '/patterns',
  '/patterns?at=rack:pair-48',
  '/patterns?at=model:TV-L48F',
  '/pools',
  '/pools/overlay',
  '/switches',
  '/switches/TVLSK4170',
  '/switches?import=1',
  '/fabrics',
  '/fabrics?new=1',
  '/fabrics/skerry',
  '/fabrics/skerry?at=rack:7',
  '/fabrics/skerry/values',
  '/fabrics/skerry/seats?at=seat:leaf-1',
  '/fabrics/skerry/cables',
  '/fabrics/skerry/tenants?at=network:echo-store',
  '/fabrics/ness/routing/routes?at=new-route',
  '/fabrics/skerry/routing/between?at=new-leak',
  '/fabrics/skerry/ports',
  '/fabrics/skerry/ports?where=tide-705',
  '/fabrics/skerry/outside',
  '/fabrics/skerry/routing?of=sk-lf-01&at=BGP+sk-lf-01++p49',
  '/fabrics/skerry/routing/prefix?of=10.255.0.5/32',
  '/fabrics/skerry/routing/policies',
  '/fabrics/skerry/text/leaf-7a',
  '/fabrics/skerry/proof',
  '/fabrics/skerry/proof?waive=asn-valid',
  '/fabrics/skerry/proof?ask=reach+soundings-101+echo-301',
  '/fabrics/skerry/history',
  '/fabrics/skerry/between?left=live&right=live&of=leaf-1&with=leaf-2',
  '/switches/TVLSK4142?backups=1',
  '/changes',
  '/changes/DRAFT',
  '/rollouts',
  '/watch',
  '/watch?fabric=skerry',
  '/access/accounts',
  '/access/accounts?at=bo',
  '/access/accounts?new=1',
  '/access/sessions',
  '/access/tokens',
  '/access/switch-accounts?at=bench',
  '/access/secrets?at=',
  '/access/audit?at=1',
  '/access/settings',
  '/you/sessions',
  '/you/tokens',
  '/you/password',
  '/nowhere',
];

// Two windows side by side, each with every other page.
test('no page has an accessibility violation or breaks, on both sheets and in both widths', async () => {
  const walk = async (paths: readonly string[], found: Record<string, string[]>): Promise<string[]> => {
    const { page, errors } = await signIn(demo, 'ines');
    const changes = (await page.evaluate(
      async () => (await fetch('/api/changes')).json() as Promise<unknown>,
    )) as ChangeSummary[];
    const draft = changes.find((c) => c.state === 'Drafting')!.id;
    for (const path of paths) {
      await page.goto(demo.url + path.replace('DRAFT', draft));
      await page.locator('h1').waitFor();
      await rests(page);
      found[path] = await violations(page);
    }
    await page.goto(demo.url);
    await page.getByRole('heading', { name: 'Wrong now' }).waitFor();
    await page.keyboard.press('Control+k');
    await page.getByPlaceholder('Find or do anything …').waitFor();
    found['command palette'] = await violations(page);
    return errors;
  };
  const found: Record<string, string[]> = {};
  const errors = await Promise.all(
    [0, 1].map((half) =>
      walk(
        PATHS.filter((_, i) => i % 2 === half),
        found,
      ),
    ),
  );
  expect(Object.keys(found)).toHaveLength(PATHS.length + 1);
  expect(Object.fromEntries(Object.entries(found).filter(([, v]) => v.length > 0))).toEqual({});
  expect(errors.flat()).toEqual([]);
});

test('the sign-in page has no violation, and refuses with a sentence', async () => {
  const page = await (await demo.browser.newContext()).newPage();
  await page.goto(demo.url);
  await page.getByLabel('Account').fill('ines');
  await page.getByLabel('Password').fill('not this');
  await page.getByRole('button', { name: 'Sign in', exact: true }).click();
  await page.getByText('Name and password do not match an account.').waitFor();
  expect(await page.getByLabel('Account').inputValue()).toBe('ines');
  expect(await violations(page)).toEqual([]);
});

test('keys: sections by g and a letter, the list filtered by /, the palette by Ctrl-K, the aside closed by Escape', async () => {
  const { page } = await signIn(demo, 'olu');
  await page.keyboard.press('g');
  await page.keyboard.press('s');
  await page.getByRole('heading', { name: 'Switches', level: 1 }).waitFor();
  await page.getByRole('row', { name: /TVLSK4170/ }).waitFor();
  await page.keyboard.press('/');
  await page.keyboard.type('seat:leaf-7');
  await page.getByText('4 of 38').waitFor();
  // Names that come late: Enter chooses among all of them, not among those that are there.
  await page.route(/\/api\/find/, async (route) => {
    await enter;
    await route.continue();
  });
  let pressed = (): void => undefined;
  const enter = new Promise<void>((done) => (pressed = done));
  await page.keyboard.press('Control+k');
  await page.keyboard.type('sk-lf-03');
  await page.keyboard.press('Enter');
  pressed();
  await page.getByRole('heading', { name: 'sk-lf-03', level: 1 }).waitFor();
  await page.unroute(/\/api\/find/);
  // By a number or an address of it, from a page of no fabric; what of it fits stands beside it.
  const find = async (typed: string, option: RegExp) => {
    await page.keyboard.press('Control+k');
    await page.keyboard.type(typed);
    await page.getByRole('option', { name: option }).waitFor();
    await page.keyboard.press('Enter');
  };
  await find('TVLSK4170', /^TVLSK4170 switch/);
  await page.getByRole('heading', { name: 'TVLSK4170' }).waitFor();
  await find('vlan 210', /VLAN 210$/);
  await page.waitForURL(/\/fabrics\/skerry\/tenants\?at=network:/);
  // What is of the fabric one looks at comes first; so the page has to be there, not its address alone.
  await page.getByRole('heading', { name: 'Skerry', level: 1 }).waitFor();
  await find('rack 7', /^rack 7 rack of skerry/);
  await page.waitForURL(/\/fabrics\/skerry\?at=rack:7/);
  // One walks on with the arrows, or points, and Enter takes that.
  const chosen = page.locator('[aria-selected=true]');
  const seat = page.getByRole('option', { name: /^sk-lf-07a/ });
  for (const walk of ['ArrowDown', 'point'] as const) {
    await page.goto(`${demo.url}/fabrics/skerry/tenants`);
    await page.getByRole('heading', { name: 'Skerry', level: 1 }).waitFor();
    await page.keyboard.press('Control+k');
    await page.keyboard.type('rack 7');
    await chosen.filter({ hasText: 'rack of skerry' }).waitFor();
    if (walk === 'point') await seat.hover();
    else
      for (let n = 0; n < 8 && !(await chosen.innerText()).includes('sk-lf-07a'); n++) await page.keyboard.press(walk);
    await chosen.filter({ hasText: 'sk-lf-07a' }).waitFor();
    await page.keyboard.press('Enter');
    await page.waitForURL(/\/fabrics\/skerry\/text\/leaf-7a/);
  }
  // A server is asked for on the switches themselves; what they say of it is found again by its address.
  await page.goto(`${demo.url}/fabrics/skerry/ports`);
  await page.getByRole('button', { name: 'Where is it heard?' }).click();
  const heard = page.getByRole('complementary', { name: 'Where is it heard?' });
  await page.keyboard.press('Tab');
  await heard.getByLabel('Server, MAC address or address').fill('tide-705');
  await page.keyboard.press('Enter');
  await heard.getByText('2 switches answered.').waitFor();
  expect(await heard.getByRole('link', { name: /^sk-lf-07[ab]$/ }).count()).toBe(2);
  const [address] = /(?<!\d)10\.32\.\d{1,3}\.\d{1,3}/.exec(await heard.innerText())!;
  await find(address, new RegExp(`^Ask the switches of skerry where ${address} is heard`));
  // Those of the racks that carry its network: 2, 5, and the pairs 7 and 8.
  await heard.getByText('6 switches answered.').waitFor();
  expect(await heard.innerText()).toContain('tide-705');
  await heard.getByLabel('Server, MAC address or address').fill('nobody-9');
  await heard.getByLabel('Server, MAC address or address').press('Enter');
  await heard.getByText('No server nobody-9 is on a port of skerry.').waitFor();
  await page.keyboard.press('Control+k');
  await page.keyboard.type('nobody bears that');
  await page.getByText('Nothing by that name, address or number.').waitFor();
  await page.keyboard.press('Escape');
  await page.goto(`${demo.url}/fabrics/skerry`);
  await page.getByRole('button', { name: /^spine-1/ }).focus();
  await page.keyboard.press('ArrowRight');
  await page.getByRole('complementary', { name: 'Selected' }).getByText('sk-sp-02').first().waitFor();
  await page.keyboard.press('Escape');
  await page.getByRole('complementary', { name: 'Selected' }).waitFor({ state: 'detached' });
  // An onlooker reads: nothing offers to change anything.
  expect(await page.getByRole('button', { name: 'Add a rack' }).count()).toBe(0);
});

test('a list of 500 rows is drawn in part and walked with the keys; a lost server is said and what was typed stays', async () => {
  const { page } = await signIn(demo, 'ines');
  const csv = [
    'serial,model,address',
    ...Array.from({ length: 500 }, (_, i) => `TVLX${10000 + i},TV-L48F,10.98.${i >> 8}.${i & 255}`),
  ].join('\n');
  await page.goto(`${demo.url}/switches?import=1`);
  await page.getByLabel('CSV', { exact: true }).fill(csv);
  await page.route('**/api/switches/import', (route) => route.abort());
  await page.getByRole('button', { name: 'Import', exact: true }).click();
  await page.getByText('The server does not answer. What you typed is still here').waitFor();
  expect(await page.getByLabel('CSV', { exact: true }).inputValue()).toBe(csv);
  await page.unroute('**/api/switches/import');
  await page.getByRole('button', { name: 'Import', exact: true }).click();
  await page.getByText('538 known').waitFor();
  await page.goto(`${demo.url}/switches`);
  await page.getByRole('row', { name: /TVLST4114/ }).waitFor();
  expect(await page.getByRole('row').count()).toBeLessThan(80);
  await page.getByRole('row', { name: /TVLST4114/ }).focus();
  await page.keyboard.press('End');
  await page.getByRole('row', { name: /TVSSK/ }).last().waitFor();
});

test('a list is pasted from a spreadsheet; two cables that are mixed up are found with the plugs that mend them', async () => {
  const { page, errors } = await signIn(demo, 'ines');
  const paste = (cells: readonly (readonly string[])[]): Promise<void> =>
    page.getByRole('region', { name: 'Ports' }).evaluate(
      (table, text) => {
        const clipboardData = new DataTransfer();
        clipboardData.setData('text/plain', text);
        table.dispatchEvent(new ClipboardEvent('paste', { clipboardData, bubbles: true }));
      },
      cells.map((row) => row.join('\t')).join('\n'),
    );
  await page.goto(`${demo.url}/fabrics/skerry/ports`);
  await page.getByRole('row', { name: /soundings-101/ }).waitFor();
  const dialog = page.getByRole('dialog');
  const heading = ['Server', 'Rack', 'Untagged'];
  await paste([heading, ['gauge-1', '1', 'pilot-desk'], ['gauge-2', '99', 'pilot-desk']]);
  await dialog.getByText('There is no rack 99. Write the number of one that is there.').waitFor();
  expect(await dialog.getByRole('button', { name: /^Make/ }).isDisabled()).toBe(true);
  await page.keyboard.press('Escape');
  await paste([heading, ['gauge-1', '1', 'pilot-desk'], ['gauge-2', '5', 'pilot-desk']]);
  await dialog.getByRole('button', { name: 'Make 2 edits' }).click();
  await page.getByRole('dialog', { name: 'Open a change on skerry' }).waitFor();
  // What waits for a change to be opened survives a reload.
  await page.reload();
  await dialog.getByRole('textbox', { name: 'Title' }).fill('Two gauges');
  // Also a reload after the edits were made and before the answer is there: they are not asked for, nor made, once more.
  const made = new Promise<void>((done) => {
    void page.route('**/edits', async (route) => void (await route.fetch(), done()));
  });
  await dialog.getByRole('button', { name: 'Open change' }).click();
  await made;
  await page.unroute('**/edits');
  await page.reload();
  await page.getByLabel('Open change', { exact: true }).getByText('gauge-2').waitFor();
  expect(await dialog.count()).toBe(0);

  // Both are put on other networks together; what cannot be is said at its field, and nothing is made.
  await page.getByPlaceholder('Filter').fill('gauge-');
  for (const name of ['gauge-1', 'gauge-2'])
    await tick(page.getByRole('row', { name: new RegExp(name) }).getByRole('checkbox'));
  await page.getByRole('button', { name: 'Networks …' }).click();
  await dialog.getByText('Offered is what all 2 racks of these ports carry.').waitFor();
  await dialog.getByLabel('Tagged networks, one a line').fill('nowhere');
  await dialog.getByRole('button', { name: 'Put 2 ports on them' }).click();
  await dialog.getByText(/There is no network nowhere/).waitFor();
  await dialog.getByLabel('Tagged networks, one a line').fill('pilot-desk');
  await dialog.getByRole('button', { name: /Untagged network$/ }).click();
  await page.getByRole('option', { name: 'None' }).click();
  await dialog.getByRole('button', { name: 'Put 2 ports on them' }).click();
  await dialog.waitFor({ state: 'detached' });
  await page
    .getByLabel('Open change', { exact: true })
    .getByText(/server gauge-2 on rack 5 .*untagged network pilot-desk → none, tagged networks none → pilot-desk/)
    .waitFor();
  // A form keeps what is typed while the port is shut beside it.
  await page.getByRole('row', { name: /gauge-1/ }).click();
  await page.getByRole('textbox', { name: 'Server', exact: true }).fill('gauge-9');
  await page.getByRole('button', { name: 'Shut the port' }).click();
  await page.getByRole('button', { name: 'Open the port' }).waitFor();
  await page.getByRole('button', { name: 'Change', exact: true }).click();
  await page
    .getByLabel('Open change', { exact: true })
    .getByText(/^Put gauge-9 on port/)
    .waitFor();

  await page.goto(`${demo.url}/fabrics/skerry/cables`);
  for (const port of ['1.p49', '2.p50'] as const) {
    const [leaf, name] = port.split('.');
    const row = page
      .getByRole('row')
      .filter({ hasText: `sk-lf-0${leaf}` })
      .filter({ hasText: name! });
    // By its key: once one is picked a bar pushes the rows down, and a click may miss.
    await tick(row.first().getByRole('checkbox'));
  }
  await page.getByRole('button', { name: 'Swap the far ends of two' }).click();
  await page.getByText('2 cables are mixed up at').waitFor();
  await page.getByText(/Mended by 2 plugs/).waitFor();
  await page.getByRole('button', { name: 'Cable the bench by this plan' }).click();
  await page.getByText('40 of 40 as planned').waitFor();
  expect(errors).toEqual([]);
});
