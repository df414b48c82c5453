// @vitest-environment jsdom
import { skerryIntent } from '@anthemion/core';
import { expect, test } from 'vitest';
import { carriedChoices } from './AddRackDialog.tsx';

test('what racks carry is offered once for all that carry the same, with all of its networks', () => {
  const intent = skerryIntent();
  const choices = carriedChoices(intent);
  expect(choices.length).toBeGreaterThan(1);
  expect(new Set(choices.map((c) => c.networks.join())).size).toBe(choices.length);
  for (const { id, networks, note } of choices) {
    expect(networks).toEqual(intent.networks.filter((n) => n.racks.includes(Number(id))).map((n) => n.name));
    expect(note).toContain(`as rack ${id}`);
  }
  const alike = { ...intent, networks: intent.networks.map((n) => ({ ...n, racks: [1, 2] })) };
  expect(carriedChoices(alike)).toMatchObject([{ id: '1', note: 'as rack 1 and 1 rack more' }]);
  expect(carriedChoices({ ...intent, networks: [] })).toEqual([]);
});
