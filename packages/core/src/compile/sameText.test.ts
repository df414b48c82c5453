import fc from 'fast-check';
import { createHash } from 'node:crypto';
import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { expect, test } from 'vitest';
import { POOLS, skerryEdits } from '../demo/skerry.ts';
import { applyEdits } from '../intent/edits/index.ts';
import { emptyIntent, type FabricIntent } from '../intent/intent.ts';
import { readIntentFile } from '../intent/intentFile.ts';
import { configsOf, intents } from '../testing/fabricOf.ts';
import { compileFabric } from './compileFabric.ts';

/**
 * Sums of every text as it is rendered today, by fabric and switch. What is moved about in the house must not change one
 * byte of what a switch is sent. Where a text is meant to change: ANTHEMION_KEEP_TEXTS=1 writes them anew, and the commit
 * says which lines changed and why.
 */
const KEPT = new URL('./sameText.json', import.meta.url);
const EXAMPLES = new URL('../../../../docs/examples/', import.meta.url);
const GENERATED = 30;
const SEED = 20261126;

function sumsOf(intent: FabricIntent, pools = POOLS): Record<string, string> {
  const { drawn } = configsOf(intent, [...pools]);
  const { switches } = compileFabric(intent, drawn.values, [...pools]);
  return Object.fromEntries(
    switches.map((s) => {
      const sum = createHash('sha256');
      for (const [file, text] of Object.entries(s.files).sort(([a], [b]) => (a < b ? -1 : 1)))
        sum.update(`${file}\n${text}\n`);
      // As a number: no word stands in it by chance.
      return [s.seat.host, BigInt(`0x${sum.digest('hex').slice(0, 24)}`).toString()];
    }),
  );
}

test('not one byte of any text is other than it was: the demo, every example, thirty fabrics over all settings', () => {
  const now: Record<string, Record<string, string>> = {
    demo: sumsOf(applyEdits(emptyIntent('skerry', 'sk'), skerryEdits()).intent),
  };
  for (const name of readdirSync(EXAMPLES).filter((f) => f.endsWith('.yaml'))) {
    const read = readIntentFile(readFileSync(new URL(name, EXAMPLES), 'utf8'));
    if ('findings' in read) throw new Error(`${name}: ${read.findings[0]!.message}`);
    now[name] = sumsOf(read.file.fabric, read.file.pools);
  }
  fc.sample(intents, { numRuns: GENERATED, seed: SEED }).forEach(
    (intent, i) => (now[`generated ${i + 1}`] = sumsOf(intent)),
  );
  if (process.env['ANTHEMION_KEEP_TEXTS'] === '1') writeFileSync(KEPT, `${JSON.stringify(now, null, 1)}\n`);
  const kept = JSON.parse(readFileSync(KEPT, 'utf8')) as typeof now;
  expect(Object.keys(now)).toEqual(Object.keys(kept));
  expect(Object.keys(now).length).toBeGreaterThan(GENERATED);
  for (const [fabric, sums] of Object.entries(now)) expect({ [fabric]: sums }).toEqual({ [fabric]: kept[fabric] });
});
