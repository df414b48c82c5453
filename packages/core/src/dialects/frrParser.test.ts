import fc from 'fast-check';
import { spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, describe, expect, test } from 'vitest';
import { skerryTexts } from '../testing/skerryFolder.ts';
import { compileFabric } from '../compile/compileFabric.ts';
import { handOver } from '../compile/handOver.ts';
import { layEdits, FABRIC_PATTERNS, POOLS } from '../demo/skerry.ts';
import { configsOf, intentOf } from '../testing/fabricOf.ts';
import { familyIntents } from '../testing/familiesOf.ts';
import { linux } from './linux/linux.ts';

const VTYSH = '/usr/bin/vtysh';
const folder = mkdtempSync(join(tmpdir(), 'frr-'));
afterAll(() => rmSync(folder, { recursive: true }));

/** FRR's own parser over one file; what it refuses, or '' when all is well. */
function refused(text: string): string {
  const file = join(folder, 'frr.conf');
  writeFileSync(file, text);
  const done = spawnSync(VTYSH, ['-C', '-f', file], { encoding: 'utf8' });
  return done.status === 0 ? '' : `${done.stdout}${done.stderr}`;
}

if (!existsSync(VTYSH))
  process.stdout.write('\nFRR is not installed: its parser does not check the rendered text in this run.\n\n');

describe.runIf(existsSync(VTYSH))("FRR's own parser", () => {
  const texts = skerryTexts();
  test.each(Object.keys(texts))('loads frr.conf of %s', (host) => {
    expect(refused(texts[host]!['frr.conf'])).toBe('');
  });
  test('loads a numbered fabric with AS numbers per rack', () => {
    const pattern = { ...FABRIC_PATTERNS[1]!, settings: { underlay: 'numbered', asnScheme: 'per-rack' } as const };
    for (const config of configsOf(intentOf(...layEdits(pattern))).configs.values())
      expect(refused(linux.render(config).files['frr.conf']!)).toBe('');
  });
  test('loads what tenants with IPv6 say, and the lines that are handed over to routers outside', () => {
    const some = fc.sample(
      familyIntents.filter((i) => i.neighbours.length > 0 && i.networks.some((n) => n.families !== undefined)),
      { numRuns: 3, seed: 5 },
    );
    for (const intent of some) {
      const { values } = configsOf(intent).drawn;
      const fabric = compileFabric(intent, values, POOLS);
      for (const s of fabric.switches) expect(refused(s.files['frr.conf']!)).toBe('');
      const told = handOver(intent, fabric, values);
      expect(told.length).toBeGreaterThan(0);
      for (const { text } of told) expect(refused(text)).toBe('');
    }
  });
  test('refuses a broken line', () => {
    expect(refused(texts['sk-lf-01']!['frr.conf'].replace('advertise-all-vni', 'advertise-all-vnis'))).not.toBe('');
  });
});
