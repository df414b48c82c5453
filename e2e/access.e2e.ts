import { spawn, type ChildProcess } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Page } from 'playwright-core';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { openBrowser } from '../scripts/browser.mjs';
import { freePort, signIn, startDemo, type Demo } from './demo.ts';

let demo: Demo;
beforeAll(async () => {
  demo = await startDemo();
});
afterAll(() => demo?.stop());

const OWN = 'eleven herons on the slipway';
const enter = async (page: Page, name: string, password: string): Promise<void> => {
  await page.getByLabel('Account', { exact: true }).fill(name);
  await page.getByLabel('Password').fill(password);
  await page.getByRole('button', { name: 'Sign in', exact: true }).click();
};

test('an account is made, sets a password of its own, is given a role that counts at once, and makes a token', async () => {
  const { page: keeper } = await signIn(demo, 'ines');
  await keeper.goto(`${demo.url}/access/accounts`);
  await keeper.getByRole('button', { name: 'New account' }).click();
  await keeper.getByLabel('Account', { exact: true }).fill('Marit');
  await keeper.getByLabel('Full name').fill('Marit Sund');
  await keeper.getByRole('button', { name: 'Make the account' }).click();
  // What is wrong stands at its field, and what was typed stays.
  await keeper.getByText(/an account name is 2–31 lower-case/i).waitFor();
  await keeper.getByLabel('Account', { exact: true }).fill('marit');
  await keeper.getByRole('button', { name: 'Make the account' }).click();
  const given = await keeper.getByTestId('said-once').innerText();
  await keeper.getByRole('button', { name: 'I have it' }).click();

  const page = await (await demo.browser.newContext()).newPage();
  // Only what hangs: a rollout may take minutes where the machine is shared.
  page.setDefaultTimeout(300_000);
  await page.goto(demo.url);
  await enter(page, 'marit', given);
  await page.getByRole('heading', { name: 'Welcome, Marit' }).waitFor();
  await page.getByLabel('The password you were given').fill(given);
  await page.getByLabel('New password', { exact: true }).fill('marit sund marit sund');
  await page.getByLabel('New password again').fill('marit sund marit sund');
  await page.getByRole('button', { name: 'Set it' }).click();
  await page.getByText(/tried first|own name/).waitFor();
  await page.getByLabel('New password', { exact: true }).fill(OWN);
  await page.getByLabel('New password again').fill(OWN);
  await page.getByRole('button', { name: 'Set it' }).click();
  await page.getByText('Your account has no role yet').waitFor();

  await keeper.getByRole('row', { name: /marit/ }).click();
  await keeper.getByText('designer · edits').click();
  await keeper.getByRole('button', { name: 'Change', exact: true }).click();
  await keeper.getByText('It counts from now on').waitFor();
  // The page of the other goes on by itself.
  await page.getByRole('heading', { name: 'Wrong now' }).waitFor();
  await page.goto(`${demo.url}/pools`);
  await page.getByRole('button', { name: 'Make a pool' }).first().waitFor();

  await page.goto(`${demo.url}/you/tokens`);
  await page.getByRole('button', { name: 'New token' }).first().click();
  await page.getByLabel('Name').fill('nightly export');
  await page.getByRole('button', { name: 'Make the token' }).click();
  const token = await page.getByTestId('said-once').innerText();
  const pools = await fetch(`${demo.url}/api/pools`, { headers: { authorization: `Bearer ${token}` } });
  expect(pools.status).toBe(200);
  await page.getByRole('button', { name: 'I have it' }).click();
  await page.getByRole('button', { name: /^End token nightly export/ }).click();
  await page.getByText('Token nightly export has ended').waitFor();
  expect((await fetch(`${demo.url}/api/pools`, { headers: { authorization: `Bearer ${token}` } })).status).toBe(401);
});

test('a session that is ended asks to sign in again, and what was typed is still there', async () => {
  const { page: keeper } = await signIn(demo, 'ines');
  const { page } = await signIn(demo, 'ines');
  await page.goto(`${demo.url}/pools?new=1`);
  await page.getByLabel('Name').fill('half-typed');
  await keeper.goto(`${demo.url}/you/sessions`);
  await keeper.getByText('this one').waitFor();
  for (;;) {
    const others = keeper.getByRole('button', { name: /^End the session of ines/ });
    if ((await others.count()) === 0) break;
    const before = await others.count();
    await others.first().click();
    await keeper.waitForFunction(
      (n) => document.querySelectorAll('button[aria-label^="End the session"]').length < n,
      before,
    );
  }
  // Nothing is pressed: the page is told.
  await page.getByText('Your session has ended. Sign in again and go on where you were').waitFor();
  expect(await page.getByLabel('Account', { exact: true }).inputValue()).toBe('ines');
  await enter(page, 'ines', 'soundings of the outer bank');
  await page.getByText('Your session has ended. Sign in again').waitFor({ state: 'detached' });
  expect(await page.getByLabel('Name').inputValue()).toBe('half-typed');
});

test('a switch shows its host key first and is accepted by name; the audit log has it, and its chain is whole', async () => {
  const { page } = await signIn(demo, 'ines');
  const port = await page.evaluate(async () => {
    const rows = (await (await fetch('/api/switches?limit=1')).json()) as { port: number }[];
    return rows[0]!.port;
  });
  await page.goto(`${demo.url}/switches?import=1`);
  await page.getByLabel('CSV', { exact: true }).fill(`serial,model,address,port\nTVL9001,TV-L48F,127.0.0.1,${port}`);
  await page.getByRole('button', { name: 'Import', exact: true }).click();
  await page.getByText('21 known').waitFor();
  await page.goto(`${demo.url}/switches/TVL9001`);
  await page.getByRole('button', { name: 'Read now' }).click();
  await page.getByRole('complementary').getByText('It shows a host key for the first time').waitFor();
  await page.getByRole('button', { name: 'Host keys to accept …' }).click();
  await page.getByRole('button', { name: 'Accept 1 key' }).click();
  await page.getByText('1 key is accepted').waitFor();
  await page.getByRole('button', { name: 'Read now' }).click();
  // It is another switch that answers there, which is seen only now that something may be asked of it.
  await page
    .getByRole('complementary')
    .getByText(/the switch at this address is/)
    .waitFor();

  // The day of the entry is in “up to and with” it; the day before is there for a test at midnight.
  const day = (ago: number): string => new Date(Date.now() - ago * 86_400_000).toISOString().slice(0, 10);
  await page.goto(`${demo.url}/access/audit?from=${day(1)}&to=${day(0)}`);
  await page.getByRole('row', { name: /Accept the host keys/ }).click();
  await page.getByRole('complementary').getByText('POST /api/switches/host-keys').waitFor();
  await page.getByRole('button', { name: 'Check the chain' }).click();
  await page.getByText(/All \d+ entries are as they were written/).waitFor();
});

test('on an empty folder the first account is made with the code that the server printed', async () => {
  const data = mkdtempSync(join(tmpdir(), 'anthemion-first-'));
  const port = await freePort();
  const child: ChildProcess = spawn(process.execPath, [join(import.meta.dirname, '../dist/server.js')], {
    env: { ...process.env, ANTHEMION_DATA: data, ANTHEMION_PORT: String(port), ANTHEMION_LOG_LEVEL: 'silent' },
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  const code = await new Promise<string>((done) => {
    let out = '';
    child.stdout!.on('data', (part: Buffer) => {
      out += part.toString();
      if (out.includes('server ready')) done(/with the code {2}(\S+)/.exec(out)![1]!);
    });
  });
  const browser = await openBrowser();
  const page = await browser.newPage();
  await page.goto(`http://localhost:${port}`);
  await page.getByText('Nobody has an account yet').waitFor();
  await page.getByLabel('Code').fill('abcde-abcde-abcde-abcde');
  await page.getByLabel('Account', { exact: true }).fill('ada');
  await page.getByLabel('Full name').fill('Ada Brenn');
  await page.getByLabel('Password').fill(OWN);
  await page.getByRole('button', { name: 'Make the first account' }).click();
  await page.getByText('This is not the code.').waitFor();
  await page.getByLabel('Code').fill(code);
  await page.getByRole('button', { name: 'Make the first account' }).click();
  await page.getByRole('heading', { name: 'Wrong now' }).waitFor();
  await browser.close();
  const gone = new Promise((done) => child.once('exit', done));
  child.kill('SIGTERM');
  await gone;
  rmSync(data, { recursive: true, force: true });
});
