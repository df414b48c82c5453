import { expect, test } from 'vitest';
import { POOLS, skerryIntent } from '../demo/skerry.ts';
import { applyEdit } from '../intent/edits/index.ts';
import type { FabricIntent, Waiver } from '../intent/intent.ts';
import { waiverSchema } from '../intent/schemas/objects.ts';
import { configsOf } from '../testing/fabricOf.ts';
import { proveChange } from './proveChange.ts';

/** Networks with the MTU of their gateways above what the ports they are on carry: the rule of it finds errors. */
const skerry = skerryIntent();
const broken: FabricIntent = {
  ...skerry,
  networks: skerry.networks.map((n) => (n.name === 'pilot-desk' ? { ...n, mtu: 9300 } : n)),
};
const proof = (intent: FabricIntent, today: string) => {
  const { values } = configsOf(intent).drawn;
  const state = { intent, values };
  return proveChange(state, state, POOLS, [], {}, new Map(), today).report;
};
const waived = (intent: FabricIntent, ...waivers: Waiver[]): FabricIntent => ({ ...intent, waivers });
const UNTIL = '2026-12-31';
const waiver = (rule: string, until = UNTIL): Waiver => ({
  rule,
  until,
  reason: 'The new model is on its way',
  by: 'ines',
});

test('what a waived rule finds stands as a note with who, why and until when, to its last day and not beyond', () => {
  const before = proof(broken, '2026-12-01');
  const rules = [...new Set(before.findings.filter((f) => f.severity === 'error').map((f) => f.rule))];
  expect(before.clean).toBe(false);
  expect(before.waivedUntil).toBeNull();
  expect(rules.length).toBeGreaterThan(0);
  const intent = waived(broken, ...rules.map((r) => waiver(r)));
  for (const day of ['2026-12-01', UNTIL]) {
    const report = proof(intent, day);
    expect(report.clean).toBe(true);
    expect(report.waivedUntil).toBe(UNTIL);
    expect(report.findings.map((f) => f.message)).toEqual(before.findings.map((f) => f.message));
    expect(report.findings.filter((f) => rules.includes(f.rule)).map((f) => [f.severity, f.waived?.by])).toEqual(
      before.findings
        .filter((f) => rules.includes(f.rule))
        .map((f) => ['note', f.severity === 'note' ? undefined : 'ines']),
    );
  }
  const after = proof(intent, '2027-01-01');
  expect(after.clean).toBe(false);
  expect(after.waivedUntil).toBeNull();
  expect(after.findings.filter((f) => f.rule === 'waiver-needed').map((f) => [f.severity, f.message])).toEqual(
    rules.map((r) => ['warning', `The waiver of ${r} ended with ${UNTIL}; the rule counts again.`]),
  );
});

test('just the rule that is waived is let through; a waiver that lets nothing through is said', () => {
  const other = proof(waived(broken, waiver('rd-unique'), waiver('no-such-rule')), '2026-12-01');
  expect(other.clean).toBe(false);
  expect(other.waivedUntil).toBeNull();
  expect(other.findings.filter((f) => f.rule === 'waiver-needed').map((f) => [f.severity, f.message])).toEqual([
    ['note', 'rd-unique is waived and finds nothing any more.'],
    ['warning', 'no-such-rule is waived, and there is no such rule.'],
  ]);
  expect(proof(skerry, '2026-12-01').findings).toEqual([]);
});

test('a waiver needs a reason and a day', () => {
  const at = (w: object): string => {
    try {
      waiverSchema.validateSync({ ...waiver('rd-unique'), ...w });
      return '';
    } catch (error) {
      return (error as Error).message;
    }
  };
  expect(at({})).toBe('');
  expect(at({ reason: '  ' })).toBe('say why');
  for (const until of ['2026-02-30', 'soon', '2026-1-1']) expect(at({ until })).toBe('a day is written 2026-12-31');
  const { intent } = applyEdit(skerry, { kind: 'putWaiver', waiver: waiver('rd-unique') });
  expect(applyEdit(intent, { kind: 'removeWaiver', rule: 'rd-unique' }).intent).toEqual(skerry);
  expect(applyEdit(skerry, { kind: 'removeWaiver', rule: 'rd-unique' }).findings).toHaveLength(1);
});
