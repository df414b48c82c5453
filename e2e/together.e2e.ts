import type { ChangeAnswer, ChangeSummary, FabricStateAnswer } from '@anthemion/contract';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from 'playwright-core';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { ask, margin, draft, signIn, startDemo, type Demo } from './demo.ts';

let demo: Demo;
beforeAll(async () => {
  demo = await startDemo();
});
afterAll(() => demo?.stop());

const README = readFileSync(join(import.meta.dirname, '../README.md'), 'utf8').replaceAll(/\s+/g, ' ');
/** The steps of the README are these, word for word: what is done here is what they say. */
const step = (words: string): void => expect(README).toContain(words);
const proofLine = (page: Page) => page.locator('footer');
const tab = (page: Page, name: string) =>
  page.getByRole('navigation', { name: 'Pages of the fabric' }).getByRole('link', { name: new RegExp(`${name}$`) });
const cause = (page: Page, title: RegExp) => page.getByRole('listitem', { name: title });

/** Edits the text of a bench switch by hand, through its aside. */
async function editByHand(page: Page, serial: string, what: string): Promise<void> {
  await page.goto(`${demo.url}/switches/${serial}`);
  await page.getByRole('button', { name: 'Edit its text by hand …' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('button', { name: what }).click();
  await dialog.getByRole('button', { name: 'Edit it' }).click();
  await dialog.waitFor({ state: 'detached' });
}

test('promises 6, 7, 11: the README’s minutes, in two browsers, without a reload', async () => {
  const { page: ines, errors } = await signIn(demo, 'ines');
  const { page: bo, errors: errorsOfBo } = await signIn(demo, 'bo');

  step(
    'Under _Waits for you_ open _Chart press in both halls_: its proof has one finding, with the line, the cause and the cure.',
  );
  await ines
    .getByRole('list', { name: 'Waits for you' })
    .getByRole('link', { name: /Chart press in both halls/ })
    .click();
  await ines.getByRole('heading', { name: 'Chart press in both halls', level: 1 }).waitFor();
  await proofLine(ines).getByText('1 finding of').waitFor();
  step('Follow it to the network, set the MTU to 9166, and watch the proof line turn.');
  await ines
    .getByRole('main')
    .getByRole('link', { name: /chart-press/ })
    .first()
    .click();
  await ines.getByRole('textbox', { name: 'MTU, bytes', exact: true }).fill('9166');
  await ines.getByRole('button', { name: 'Change network' }).click();
  await proofLine(ines).getByText('rules hold').waitFor();

  step('**Text**: choose a leaf. What the change adds is marked; put the cursor on a line to read why it is there.');
  await tab(ines, 'Text').click();
  await ines
    .getByRole('list', { name: 'Switches' })
    .getByRole('link', { name: /sk-lf-07a/ })
    .click();
  await ines.locator('.cm-line').nth(3).click();
  await ines
    .getByRole('complementary', { name: 'Origin of the line' })
    .getByText(/why is it here/)
    .waitFor();

  step(
    '**Ask approval**. Sign in as `bo` in another window: the change stands under _Waits for you_, with a mark in the band.',
  );
  // Bo looks at the day sheet all the while, and does nothing to it.
  await bo.getByRole('heading', { name: 'Wrong now' }).waitFor();
  await margin(ines).getByRole('button', { name: 'Ask approval' }).click();
  await bo.getByRole('img', { name: '1 ask your yes' }).waitFor();
  await bo
    .getByRole('list', { name: 'Waits for you' })
    .getByRole('link', { name: /Chart press in both halls/ })
    .click();
  await bo.getByText('ines asks for a yes').waitFor();
  step('Approve. The window of `ines` offers **Roll out …** by itself');
  await margin(ines).getByRole('button', { name: 'Open proof' }).click();
  await ines.getByRole('heading', { name: 'Proven' }).waitFor();
  await bo.getByRole('button', { name: 'Approve', exact: true }).click();
  await ines.getByRole('button', { name: 'Roll out …' }).click();
  await ines.getByRole('button', { name: 'Begin now' }).click();
  await ines.getByRole('heading', { name: 'Rolled out' }).waitFor();
  // The other window has followed.
  await bo.getByRole('heading', { name: 'Live' }).waitFor();
  await margin(ines).getByRole('button', { name: 'Leave the change' }).click();
  await ines.goto(`${demo.url}/fabrics/skerry`);
  await ines.getByText('revision 2').waitFor();
  expect(await ines.getByText('with the open change').count()).toBe(0);

  // Work that waits meanwhile, and must not be touched by what follows.
  const waiting = await draft(ines, 'Waits meanwhile', { kind: 'changeSettings', settings: { keepalive: 4 } });

  step('**Cables**: pull one. **Switches**: open a leaf and edit its text by hand, then another one.');
  const { seats } = await ask<FabricStateAnswer>(ines, '/api/fabrics/skerry');
  const serial = (host: string): string => seats.find((s) => s.host === host)!.serial!;
  await tab(ines, 'Cables').click();
  await ines.getByRole('button', { name: 'Pull sk-lf-03 p49' }).click();
  await ines.getByRole('button', { name: 'Plug in sk-lf-03 p49' }).waitFor();
  await editByHand(ines, serial('sk-lf-01'), 'shut port p1');
  await editByHand(ines, serial('sk-lf-02'), 'shut port p1');
  step('Within seconds all three stand on the first page, each cause with what hangs on it.');
  await ines.goto(demo.url);
  const out = cause(ines, /Cable out between sk-sp-01 p3 and sk-lf-03 p49/);
  await out.getByText('both ends say no signal').waitFor();
  await out.getByText(/1 session/).waitFor();
  for (const host of ['sk-lf-01', 'sk-lf-02'])
    await cause(ines, new RegExp(`${host} was edited by hand`))
      .getByText('p1 is shut by hand, meant open')
      .waitFor();
  expect(await ines.getByRole('list').getByRole('heading', { level: 3 }).count()).toBe(3);
  // Watch and the picture say the same.
  await out.getByRole('link', { name: 'Show' }).click();
  await ines.locator('path[data-link="leaf-3:spine-1:1"]').waitFor({ state: 'attached' });
  await ines.getByRole('complementary', { name: 'Selected' }).getByText('1 not up').waitFor();

  step('**Put back** one hand edit, **Adopt** the other, plug the cable in again.');
  await ines.goto(`${demo.url}/watch`);
  await cause(ines, /sk-lf-01 was edited/)
    .getByRole('button', { name: 'Put back' })
    .click();
  await ines.getByRole('dialog').getByRole('textbox', { name: 'Reason' }).fill('nobody meant that');
  await ines.getByRole('dialog').getByRole('button', { name: 'Put back' }).click();
  await ines.getByRole('heading', { name: 'Rolled out' }).waitFor();
  await ines.goto(`${demo.url}/watch`);
  await cause(ines, /sk-lf-01 was edited/).waitFor({ state: 'detached' });
  expect(demo.running(serial('sk-lf-01'), 'interfaces')).not.toContain('link-down');

  await cause(ines, /sk-lf-02 was edited/)
    .getByRole('button', { name: 'Adopt' })
    .click();
  await ines
    .getByRole('dialog')
    .getByText(/^Shut port /)
    .waitFor();
  await ines.getByRole('dialog').getByRole('button', { name: 'Adopt in a new change' }).click();
  await ines.getByRole('heading', { name: /Adopt what was done by hand/, level: 1 }).waitFor();
  await ines.getByRole('complementary', { name: 'Approval' }).getByRole('button', { name: 'Ask approval' }).click();
  await bo.goto(demo.url);
  await bo
    .getByRole('list', { name: 'Waits for you' })
    .getByRole('link', { name: /Adopt what was done/ })
    .click();
  await bo.getByRole('button', { name: 'Approve', exact: true }).click();
  await ines.getByRole('button', { name: 'Roll out …' }).click();
  await ines.getByRole('button', { name: 'Begin now' }).click();
  await ines.getByRole('heading', { name: 'Rolled out' }).waitFor();
  await ines.goto(`${demo.url}/fabrics/skerry/cables`);
  await ines.getByRole('button', { name: 'Plug in sk-lf-03 p49' }).click();
  await ines.goto(demo.url);
  await ines.getByText('nothing is wrong').waitFor();
  expect(demo.running(serial('sk-lf-02'), 'interfaces')).toContain('link-down yes');

  // What waited is as it was, carried over the two revisions by nobody but its author.
  const after = await ask<ChangeAnswer>(ines, `/api/changes/${waiting}`);
  expect([after.title, after.steps.length, after.conflicts, after.state]).toEqual(['Waits meanwhile', 1, [], 'Stale']);
  expect([...errors, ...errorsOfBo]).toEqual([]);
});

test('the open change is one thing: who leaves it has left it, and a page of another fabric does not speak of it', async () => {
  const { page, errors } = await signIn(demo, 'ines');
  const change = (await ask<ChangeSummary[]>(page, '/api/changes')).find((c) => c.title === 'Waits meanwhile')!;
  await page.goto(`${demo.url}/fabrics/skerry`);
  await margin(page)
    .getByRole('button', { name: /Waits meanwhile/ })
    .click();
  await page.getByText('with the open change').waitFor();
  await margin(page)
    .getByRole('button', { name: /Leave this change/ })
    .click();
  await margin(page).getByText('No change is open').waitFor();
  expect(await page.getByText('with the open change').count()).toBe(0);
  // The next edit offers to open a change; it does not go into the one that was left.
  await page.getByRole('button', { name: 'Add a rack' }).click();
  await page.getByRole('dialog').getByRole('button', { name: /Add/ }).last().click();
  await page.getByRole('dialog', { name: 'Open a change on skerry' }).waitFor();
  // Half a title survives a reload of the page, and so does the edit that waits for it.
  await page.getByRole('dialog').getByRole('textbox', { name: 'Title' }).fill('A rack for the gauges');
  await page.reload();
  expect((await ask<ChangeAnswer>(page, `/api/changes/${change.id}`)).steps).toHaveLength(1);
  const again = page.getByRole('dialog', { name: 'Open a change on skerry' });
  await again.getByText(/It begins with: Add rack/).waitFor();
  expect(await again.getByRole('textbox', { name: 'Title' }).inputValue()).toBe('A rack for the gauges');
  await page.getByRole('dialog').getByRole('button', { name: 'Not now' }).click();

  // Another fabric: the margin names the change that is open, and speaks of the fabric one looks at.
  await margin(page)
    .getByRole('button', { name: /Waits meanwhile/ })
    .click();
  await page.goto(`${demo.url}/fabrics?new=1`);
  await page.getByRole('textbox', { name: 'Name', exact: true }).fill('tarn');
  await page.getByRole('button', { name: 'Begin' }).click();
  await page.waitForURL(/fabrics\/tarn/);
  await margin(page)
    .getByRole('button', { name: /Leave this change/ })
    .click();
  await page.goto(`${demo.url}/fabrics/skerry`);
  await margin(page)
    .getByRole('button', { name: /Waits meanwhile/ })
    .click();
  await page.goto(`${demo.url}/fabrics/tarn`);
  await margin(page).getByText('The open change is about skerry').waitFor();
  await proofLine(page).getByText('the open change is about skerry').waitFor();

  // A new title is kept, from the margin.
  await page.goto(`${demo.url}/fabrics/skerry`);
  await margin(page).getByRole('button', { name: 'Change title, reason and ticket' }).click();
  await page.getByRole('dialog').getByRole('textbox', { name: 'Title' }).fill('x');
  await page.getByRole('dialog').getByRole('textbox', { name: 'Ticket' }).fill('FCO-219');
  await page.getByText('a title has at least 3 characters').waitFor();
  await page.getByRole('dialog').getByRole('textbox', { name: 'Title' }).fill('Waits a little');
  await page.getByRole('dialog').getByRole('button', { name: 'Keep' }).click();
  await margin(page).getByRole('heading', { name: 'Waits a little' }).waitFor();
  await margin(page).getByText('FCO-219').waitFor();
  expect(errors).toEqual([]);
});

test('others are seen, a clash is told while both are open, and a lost line is said and mended', async () => {
  const { page } = await signIn(demo, 'ines');
  const { page: tamar } = await signIn(demo, 'tamar');
  await tamar.goto(`${demo.url}/fabrics/skerry?at=rack:7`);
  await page.goto(`${demo.url}/fabrics/skerry`);
  await margin(page).getByText('Tamar Weiss').waitFor();
  await margin(page)
    .getByText(/at rack 7/)
    .waitFor();

  await margin(page)
    .getByRole('button', { name: /Waits a little/ })
    .click();
  await draft(page, 'Wants the same', { kind: 'changeSettings', settings: { keepalive: 5 } });
  await margin(page).getByRole('button', { name: 'Prove again' }).click();
  await margin(page).getByText('Would conflict with').waitFor();

  await page.route('**/api/events*', (route) => route.abort());
  await page.evaluate(() => window.dispatchEvent(new Event('offline')));
  await proofLine(page).getByText('The connection is lost').waitFor();
  await page.unroute('**/api/events*');
  await page.evaluate(() => window.dispatchEvent(new Event('online')));
  await proofLine(page).getByText('The connection is lost').waitFor({ state: 'detached' });
});
