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
/** What the width of a page changes: what is beside what, and what scrolls. */
const OF_WIDTH = ['color-contrast', 'scrollable-region-focusable'];

/**
 * Violations of what a page shows, on both sheets, 1280 and 1920 wide: every rule once, then those that a sheet or a width
 * changes. It is put into the page once, and of what it looked at only what is wrong comes back.
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
  const dark = await look(OF_COLOUR);
  await page.setViewportSize({ width: 1920, height: 1080 });
  const darkAndWide = await look(OF_COLOUR);
  await page.emulateMedia({ colorScheme: 'light' });
  const wide = await look(OF_WIDTH);
  await page.setViewportSize({ width: 1280, height: 800 });
  return [...light, ...dark.map((v) => `dark, ${v}`), ...darkAndWide.map((v) => `dark, wide, ${v}`), ...wide];
}
