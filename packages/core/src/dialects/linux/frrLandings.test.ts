import { readFileSync } from 'node:fs';
import { expect, test } from 'vitest';
import { FRR_TRIALS, type FrrLandings } from './frrVocabulary.ts';
import { readLanding } from './frrLanding.ts';

const kept = JSON.parse(readFileSync(new URL('./frrLandings.json', import.meta.url), 'utf8')) as FrrLandings;

test('every line lands in every block as it was seen to on real daemons, and leaves the reader where it left them', () => {
  const read = FRR_TRIALS.map((t) => [t.block.path, t.line, readLanding(t)]);
  expect(read).toEqual(FRR_TRIALS.map((t) => [t.block.path, t.line, kept.landings[t.block.path]?.[t.line]]));
  // Each block takes some lines and not others.
  for (const [block, lines] of Object.entries(kept.landings)) {
    const own = Object.values(lines).filter(([line]) => line === block).length;
    expect([block, own > 0, own < Object.keys(lines).length]).toEqual([block, true, true]);
  }
});
