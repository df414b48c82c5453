// Pages of a demo in Debian's Chromium, for scripts that walk through it.
import { chromium } from 'playwright-core';

/** A browser, with nothing of its own going on in the background. */
export const openBrowser = () =>
  chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: [
      '--no-sandbox',
      '--disable-gpu',
      '--disable-quic',
      '--no-first-run',
      '--disable-background-networking',
      '--disable-component-update',
      '--disable-sync',
    ],
  });

/** A page on which one of the demo's people has signed in. */
export async function signedIn(browser, url, name, password, colorScheme = 'light') {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, colorScheme });
  const page = await context.newPage();
  await page.goto(url);
  await page.getByLabel('Account').fill(name);
  await page.getByLabel('Password').fill(password);
  await page.getByRole('button', { name: 'Sign in', exact: true }).click();
  await page.getByRole('heading', { name: 'Wrong now' }).waitFor();
  return page;
}
