import { AxeBuilder } from '@axe-core/playwright';
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
 * changes. One document without foreign frames: axe is run in it, without its blank page to put frames together.
 */
export async function violations(page: Page): Promise<string[]> {
  const axe = async (rules?: string[]): Promise<string[]> => {
    const builder = new AxeBuilder({ page }).setLegacyMode(true);
    const { violations: found } = await (rules ? builder.withRules(rules) : builder).analyze();
    return found.map((v) => `${v.id}: ${v.nodes.map((n) => n.html.slice(0, 160)).join(' | ')}`);
  };
  const ground = (): Promise<string> => page.evaluate(() => getComputedStyle(document.body).backgroundColor);
  const paper = await ground();
  const light = await axe();
  await page.emulateMedia({ colorScheme: 'dark' });
  expect(await ground()).not.toBe(paper);
  const dark = await axe(OF_COLOUR);
  await page.setViewportSize({ width: 1920, height: 1080 });
  const darkAndWide = await axe(OF_COLOUR);
  await page.emulateMedia({ colorScheme: 'light' });
  const wide = await axe(OF_WIDTH);
  await page.setViewportSize({ width: 1280, height: 800 });
  return [...light, ...dark.map((v) => `dark, ${v}`), ...darkAndWide.map((v) => `dark, wide, ${v}`), ...wide];
}
