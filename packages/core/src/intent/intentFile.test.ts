import { describe, expect, test } from 'vitest';
import { layEdits, POOLS, skerryIntent } from '../demo/skerry.ts';
import { intentOf } from '../testing/fabricOf.ts';
import { readIntentFile, writeIntentFile } from './intentFile.ts';

describe('intent file', () => {
  const file = { anthemion: 1 as const, fabric: skerryIntent(), pools: POOLS, ledger: [] };
  test('what is written reads back', () => {
    expect(readIntentFile(writeIntentFile(file))).toEqual({ file });
  });
  test.each<[string, (text: string) => string, RegExp, RegExp]>([
    ['a VLAN out of range', (t) => t.replace('vlan: 212', 'vlan: 5000'), /VLAN is 4094 or less/, /vlan: 5000/],
    ['an unknown VRF', (t) => t.replace('vrf: tides', 'vrf: charts'), /no VRF charts/, /charts/],
    [
      'overlapping pools',
      (t) => t.replace('10.255.1.0/24', '10.255.0.0/25'),
      /overlaps 10\.255\.0\.0\/24 of pool loopbacks/,
      /10\.255\.0\.0\/25/,
    ],
    [
      'a word too many',
      (t) => t.replace('  parallel: 1', '  parallel: 1\n  colour: red'),
      /no field colour/,
      /name: skerry/,
    ],
    [
      'a serial twice',
      (t) => t.replace(/leaf-2: .*/, `leaf-2: ${file.fabric.seating['leaf-1']}`),
      /sits in leaf-1 already/,
      /leaf-2/,
    ],
  ])('%s is refused with its line', (_what, damage, says, line) => {
    const text = damage(writeIntentFile(file));
    const read = readIntentFile(text);
    const found = 'findings' in read ? read.findings.find((f) => says.test(f.message)) : undefined;
    expect(found).toBeDefined();
    expect(text.split('\n')[found!.line! - 1]).toMatch(line);
  });
  test('a file that is far too large is refused before it is read; a key that stands twice is named with its line', () => {
    expect(readIntentFile(`anthemion: 1\n${'# nothing\n'.repeat(2_100_000)}`)).toMatchObject({
      findings: [{ rule: 'file-size', message: 'The file has 22 MB; an intent file has at most 20.' }],
    });
    const twice = writeIntentFile(file).replace('  parallel: 1', '  parallel: 1\n  parallel: 2');
    const read = readIntentFile(twice);
    const found = 'findings' in read ? read.findings : [];
    expect(found.map((f) => f.message)).toEqual(['parallel stands twice in one place.']);
    expect(twice.split('\n')[found[0]!.line! - 1]).toBe('  parallel: 2');
  });
  test('broken YAML says its line', () => {
    expect(readIntentFile('anthemion: 1\nfabric: [')).toMatchObject({
      findings: [{ rule: 'file-form', line: expect.any(Number) as number }],
    });
  });
  test('an empty fabric is a sound intent too', () => {
    expect(readIntentFile(writeIntentFile({ ...file, fabric: intentOf(...layEdits()) }))).toHaveProperty('file');
  });
});
