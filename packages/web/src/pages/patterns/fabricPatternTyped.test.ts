import { DEFAULT_SETTINGS, FABRIC_PATTERNS, RACK_PATTERNS } from '@anthemion/core';
import { expect, test } from 'vitest';
import { patternOf, TYPED_PATTERN, typedOf } from './fabricPatternTyped.ts';

test('a pattern that is opened and sent untouched is the pattern, in whatever order its racks stood', () => {
  expect(FABRIC_PATTERNS.length).toBeGreaterThan(0);
  for (const pattern of FABRIC_PATTERNS) {
    const sent = patternOf(typedOf(pattern, RACK_PATTERNS));
    const inOrder = (racks: typeof pattern.racks) => [...racks].sort((a, b) => (a.pattern < b.pattern ? -1 : 1));
    expect({ ...sent, racks: inOrder(sent.racks) }).toEqual({ ...pattern, racks: inOrder(pattern.racks) });
  }
});

test('racks of a pattern that is no longer there stay in sight; none and defaults are not sent', () => {
  const pattern = { ...FABRIC_PATTERNS[0]!, racks: [{ pattern: 'gone', count: 3 }] };
  const typed = typedOf(pattern, RACK_PATTERNS);
  expect(typed.racks.map((r) => r.pattern)).toEqual([...RACK_PATTERNS.map((r) => r.name), 'gone']);
  const sent = patternOf({ ...typed, settings: { ...typed.settings, bfd: !DEFAULT_SETTINGS.bfd, linkMtu: 9216 } });
  expect(sent.racks).toEqual([{ pattern: 'gone', count: 3 }]);
  expect(sent.settings['bfd']).toBe(!DEFAULT_SETTINGS.bfd);
  expect('underlay' in sent.settings).toBe('underlay' in pattern.settings);
});

test('what the form holds is sound as it is: of a management network all is said, or nothing', async () => {
  for (const pattern of FABRIC_PATTERNS) await TYPED_PATTERN.validate(typedOf(pattern, RACK_PATTERNS));
  const typed = typedOf(FABRIC_PATTERNS[0]!, RACK_PATTERNS);
  await TYPED_PATTERN.validate({ ...typed, management: { port: 'eth0', ports: 'p1-p48' } });
  await expect(TYPED_PATTERN.validate({ ...typed, management: { port: 'eth0', ports: '' } })).rejects.toThrow(
    'ports of a management switch are missing',
  );
});
