// @vitest-environment jsdom
import { applyEdits, skerryIntent, type ServerPort } from '@anthemion/core';
import { expect, test } from 'vitest';
import { onNetworks } from './PortNetworksDialog.tsx';

const intent = skerryIntent();

test('many ports are put on other networks: what is not said stays, what is so already is left, and the edits can be made', () => {
  const network = intent.networks.find((n) => n.racks.length > 1)!;
  const picked = intent.ports.filter((p) => network.racks.includes(p.rack)).slice(0, 10);
  const edits = onNetworks(picked, { untagged: network.name, tagged: [], noTagged: false });
  const made = applyEdits(intent, edits);
  expect(made.findings).toEqual([]);
  const after = (p: ServerPort): ServerPort =>
    made.intent.ports.find((o) => o.rack === p.rack && o.port === p.port && o.side === p.side)!;
  for (const p of picked) {
    expect(after(p)).toEqual({ ...p, untagged: network.name, tagged: p.tagged.filter((n) => n !== network.name) });
  }
  // Once more there is nothing to do; and nothing untagged leaves the tagged ones.
  expect(onNetworks(picked.map(after), { untagged: network.name, tagged: [], noTagged: false })).toEqual([]);
  const [first] = picked;
  expect(onNetworks([first!], { untagged: '(none)', tagged: [network.name], noTagged: false }).at(-1)).toMatchObject({
    port: { server: first!.server, tagged: [network.name] },
  });
  const both = { ...first!, tagged: [network.name] };
  expect(onNetworks([both], { untagged: '', tagged: [], noTagged: true })).toMatchObject([{ port: { tagged: [] } }]);
});
