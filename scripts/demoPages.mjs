// Pages of a demo in Debian's Chromium, for scripts that walk through it.
export { openBrowser } from './browser.mjs';

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
