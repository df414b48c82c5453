// @vitest-environment jsdom
import { applyEdits, skerryIntent } from '@anthemion/core';
import { expect, test } from 'vitest';
import { toldSo } from './PortDriveDialog.tsx';

const intent = skerryIntent();

test('many ports are told a speed and FEC: what is not said stays, what is so already is left, and the edits can be made', () => {
  const picked = intent.ports.slice(0, 10);
  const told = applyEdits(intent, toldSo(picked, { speed: '10', fec: '' }));
  expect(told.findings).toEqual([]);
  const slow = told.intent.ports.slice(0, 10);
  expect(slow).toEqual(picked.map((p) => ({ ...p, speed: 10 })));
  expect(toldSo(slow, { speed: '10', fec: '' })).toEqual([]);
  // One of them has FEC of its own, which stays; the other word is taken back of all.
  const [first, ...others] = slow;
  const mixed = [{ ...first!, fec: 'base-r' as const }, ...others];
  expect(toldSo(mixed, { speed: '(unsaid)', fec: '' })).toEqual(
    mixed.map(({ speed: _, ...port }) => ({ kind: 'changeServer', port })),
  );
  expect(toldSo(mixed, { speed: '', fec: 'base-r' })).toHaveLength(9);
});
