import { spawn, type ChildProcess } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { createServer, type AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Edit } from '@anthemion/core';
import type { Browser, Locator, Page } from 'playwright-core';
import { expect } from 'vitest';
import { openBrowser } from '../scripts/browser.mjs';

const root = join(import.meta.dirname, '..');

export async function freePort(): Promise<number> {
  const server = createServer();
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  const { port } = server.address() as AddressInfo;
  await new Promise((done) => server.close(done));
  return port;
}

export interface Demo {
  readonly url: string;
  readonly folder: string;
  readonly browser: Browser;
  /** Text a bench switch runs now. */
  readonly running: (serial: string, file: string) => string;
  readonly stop: () => Promise<void>;
}

/**
 * The demo as a person starts it (bench and server as built), on fresh data, and a browser beside it.
 * @param fabrics which of its fabrics; fewer take less of the machine
 */
export async function startDemo(fabrics = 'skerry'): Promise<Demo> {
  const folder = mkdtempSync(join(tmpdir(), 'anthemion-e2e-'));
  const child: ChildProcess = spawn(
    process.execPath,
    // A port that is free when it listens; one found before may be taken by then.
    [join(root, 'scripts/demo.mjs'), '--data', folder, '--port', '0', '--fabrics', fabrics],
    {
      stdio: ['ignore', 'pipe', 'inherit'],
      env: { ...process.env, ANTHEMION_SIGN_IN_TRIES: '1000', ANTHEMION_READ_STATE_SECONDS: '4' },
    },
  );
  const url = await new Promise<string>((done, fail) => {
    let out = '';
    child.stdout!.on('data', (part: Buffer) => {
      out += part.toString();
      const at = /Anthemion is at +(\S+)\n/.exec(out)?.[1];
      if (at !== undefined) done(at);
    });
    child.once('exit', () => fail(new Error(`the demo did not start: ${out}`)));
  });
  const browser = await openBrowser();
  return {
    url,
    folder,
    browser,
    running: (serial, file) => readFileSync(join(folder, 'bench/switches', serial, 'run/running', file), 'utf8'),
    stop: async () => {
      await browser.close();
      const gone = new Promise((done) => child.once('exit', done));
      child.kill('SIGTERM');
      await gone;
      rmSync(folder, { recursive: true, force: true });
    },
  };
}

const PASSWORDS = {
  ines: 'soundings of the outer bank',
  bo: 'lighthouse above slack water',
  tamar: 'buoys north of the narrows',
  olu: 'tide table on the wall',
} as const;

/** A page on which somebody has signed in; errors of the page fail the test. */
export async function signIn(demo: Demo, name: keyof typeof PASSWORDS): Promise<{ page: Page; errors: string[] }> {
  const context = await demo.browser.newContext({ viewport: { width: 1280, height: 800 }, colorScheme: 'light' });
  const page = await context.newPage();
  // Only what hangs: a rollout may take minutes where the machine is shared.
  page.setDefaultTimeout(300_000);
  const errors: string[] = [];
  page.on('pageerror', (e) => errors.push(e.message));
  await page.goto(demo.url);
  await page.getByLabel('Account').fill(name);
  await page.getByLabel('Password').fill(PASSWORDS[name]);
  await page.getByRole('button', { name: 'Sign in', exact: true }).click();
  await page.getByRole('heading', { name: 'Wrong now' }).waitFor();
  return { page, errors };
}

/** What the API answers whoever is signed in on a page. */
export const ask = <T>(page: Page, path: string): Promise<T> =>
  page.evaluate(async (p) => (await fetch(p)).json() as Promise<unknown>, path) as Promise<T>;

/** Ticks a box by its key, once the page has drawn itself: a dialog that closes gives the focus back in its next frame. */
export async function tick(box: Locator): Promise<void> {
  await box.waitFor();
  await box.page().evaluate(() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done))));
  await box.press('Space');
  expect(await box.isChecked()).toBe(true);
}

/** The open change, at the left of every page. */
export const margin = (page: Page) => page.getByRole('complementary', { name: 'Open change' });

/** A change on skerry with one edit, made behind the page by whoever is signed in there; its id. */
export function draft(page: Page, title: string, edit: Edit): Promise<string> {
  return page.evaluate(
    async ([named, first]) => {
      const send = async (path: string, body: unknown): Promise<{ id: string }> => {
        const headers = { 'content-type': 'application/json' };
        const answer = await fetch(path, { method: 'POST', headers, body: JSON.stringify(body) });
        if (!answer.ok) throw new Error(await answer.text());
        return (await answer.json()) as { id: string };
      };
      const { id } = await send('/api/changes', { fabric: 'skerry', title: named, reason: '', ticket: '' });
      await send(`/api/changes/${id}/edits`, { edits: [first] });
      return id;
    },
    [title, edit] as const,
  );
}
