import fc from 'fast-check';
import { expect, test } from 'vitest';
import { Meeting } from './meeting.ts';

test('whatever the order in which they come, give up or fail: all go on from a point, or nobody does', async () => {
  const steps = fc.array(
    fc.record({
      turns: fc.nat(6),
      does: fc.constantFrom('comes', 'comes', 'comes', 'has passed', 'fails', 'gives up' as const),
    }),
    { minLength: 1, maxLength: 6 },
  );
  const seen = new Set<boolean>();
  await fc.assert(
    fc.asyncProperty(steps, async (plan) => {
      const meeting = new Meeting(
        plan.map((_, i) => `lf-${i}`),
        null,
        0,
      );
      const went = await Promise.all(
        plan.map(async ({ turns, does }, i): Promise<boolean | null> => {
          const host = `lf-${i}`;
          for (let t = 0; t < turns; t++) await new Promise((done) => setTimeout(done));
          if (does === 'fails') return (meeting.leave(host, 'refused'), false);
          if (does === 'has passed') return (meeting.passed(host, 'settled'), null);
          const off = await meeting.at('settled', host, () => false, does === 'gives up' ? 0 : Infinity);
          // What comes after the meeting holds back nobody who was there.
          if (off === null && i === 0) meeting.leave(host, 'lost after it');
          return off === null;
        }),
      );
      const decided = went.filter((w) => w !== null);
      expect(new Set(decided).size).toBeLessThan(2);
      for (const w of decided) seen.add(w);
    }),
    { numRuns: 200 },
  );
  expect(seen.size).toBe(2);
});
