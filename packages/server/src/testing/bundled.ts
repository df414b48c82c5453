import { mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { bundle } from '../../../../scripts/bundle.mjs';

const root = fileURLToPath(new URL('../../../..', import.meta.url));

/** Bundles what tests start as threads and processes of their own; where their packages are found. Taken away after them. */
export default async function setup(): Promise<() => void> {
  const folder = join(root, 'node_modules/.cache/anthemion-');
  mkdirSync(dirname(folder), { recursive: true });
  const made = mkdtempSync(folder);
  await bundle(made);
  process.env['ANTHEMION_BUNDLED'] = made;
  return () => rmSync(made, { recursive: true, force: true });
}
