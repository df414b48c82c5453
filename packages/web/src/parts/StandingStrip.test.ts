import type { Standing } from '@anthemion/contract';
import fc from 'fast-check';
import { expect, test } from 'vitest';
import { stripBars } from './StandingStrip.tsx';

const NOW = Date.parse('2026-11-26T12:07:00.000Z');
const standing = (minutesAgo: number, set: Partial<Standing>): Standing => ({
  at: new Date(Math.floor((NOW - minutesAgo * 60_000) / 900_000) * 900_000).toISOString(),
  switches: 14,
  asMeant: 14,
  waiting: 0,
  drifted: 0,
  unread: 0,
  causes: 0,
  ...set,
});

test('a day is 96 bars that end now; what nobody noted is not known, and one wrong switch of a thousand is seen', () => {
  const bars = stripBars([standing(0, { drifted: 1, switches: 1056 }), standing(60, { causes: 1 })], NOW);
  expect(bars).toHaveLength(96);
  expect(bars.filter((b) => b.known)).toHaveLength(2);
  expect(bars.at(-1)!.wrong).toBeGreaterThanOrEqual(4);
  expect(bars.at(-5)!.wrong).toBeGreaterThanOrEqual(4);
});

test('promise 6: a quarter in which switches were only unread is not drawn as wrong', () => {
  const bar = stripBars([standing(0, { unread: 14, causes: 1 })], NOW).at(-1)!;
  expect(bar).toMatchObject({ wrong: 0, unread: 22 });
});

test('no bar is higher than the strip, whatever happened', () => {
  fc.assert(
    fc.property(
      fc.nat(50),
      fc.nat(50),
      fc.nat(50),
      fc.integer({ min: 1, max: 50 }),
      (drifted, unread, waiting, more) => {
        const [bar] = stripBars(
          [standing(0, { drifted, unread, waiting, switches: drifted + unread + waiting + more })],
          NOW,
        ).slice(-1);
        expect(bar!.wrong + bar!.unread + bar!.waiting).toBeLessThanOrEqual(22.001);
      },
    ),
  );
});
