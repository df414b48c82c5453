import axe from 'axe-core';
import type { Page } from 'playwright-core';
import { expect } from 'vitest';

/** Waits until nothing is said to be read any more: the stream of events keeps the line open for ever. */
export async function rests(page: Page): Promise<void> {
  await page.waitForTimeout(250);
  await page.waitForFunction(
    () => ![...document.querySelectorAll('[role=status]')].some((e) => /…$/.test(e.textContent ?? '')),
  );
}

/** What the dark sheet changes: colours, since all else is the same page. */
const OF_COLOUR = ['color-contrast'];
/** What the width of a page changes: what scrolls. */
const OF_WIDTH = ['scrollable-region-focusable'];

/**
 * Violations of what a page shows, on both sheets, 1280 and 1920 wide: every rule once, then colours on the dark sheet in the
 * other width (the tokens of a sheet are the same in every width), and what scrolls there. It is put into the page once, and of what it looked at only what is wrong comes back.
 */
export async function violations(page: Page): Promise<string[]> {
  await page.evaluate(axe.source);
  const look = (rules?: string[]): Promise<string[]> =>
    page.evaluate(async (only) => {
      const { axe: run } = window as unknown as { axe: typeof axe };
      const { violations: found } = await run.run(document, {
        resultTypes: ['violations'],
        ...(only ? { runOnly: only } : {}),
      });
      return found.map((v) => `${v.id}: ${v.nodes.map((n) => n.html.slice(0, 160)).join(' | ')}`);
    }, rules);
  const ground = (): Promise<string> => page.evaluate(() => getComputedStyle(document.body).backgroundColor);
  const paper = await ground();
  const light = await look();
  await page.emulateMedia({ colorScheme: 'dark' });
  expect(await ground()).not.toBe(paper);
  await page.setViewportSize({ width: 1920, height: 1080 });
  const darkAndWide = await look([...OF_COLOUR, ...OF_WIDTH]);
  await page.emulateMedia({ colorScheme: 'light' });
  await page.setViewportSize({ width: 1280, height: 800 });
  return [...light, ...darkAndWide.map((v) => `dark, wide, ${v}`)];
}
