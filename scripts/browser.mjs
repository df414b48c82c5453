// Debian's Chromium, for scripts that walk through pages and for the end-to-end tests.
import { existsSync } from 'node:fs';
import { chromium } from 'playwright-core';

/** Without a window, or else with one: the first takes less of the machine. */
const CHROMIUM = ['/usr/bin/chromium-headless-shell', '/usr/bin/chromium'].find(existsSync) ?? '/usr/bin/chromium';

/** A browser, with nothing of its own going on in the background. */
export const openBrowser = () =>
  chromium.launch({
    executablePath: CHROMIUM,
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
