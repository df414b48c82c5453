import type { Browser } from 'playwright-core';

export function openBrowser(): Promise<Browser>;
