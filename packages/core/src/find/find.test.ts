import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { POOLS, skerryEdits } from '../demo/skerry.ts';
import { ALL_COLLECTIONS } from '../intent/collections/index.ts';
import type { FabricIntent } from '../intent/intent.ts';
import { layOut } from '../layout/layout.ts';
import { demandsOf } from '../pools/demands.ts';
import { drawValues, NOTHING_HELD } from '../pools/drawValues.ts';
import { borderIntents, intentOf, otherIntents } from '../testing/fabricOf.ts';
import { findablesOf, type Findable } from './findables.ts';
import { bestOf, fitOf, prefixesAround, soughtOf, type Fitted } from './fitting.ts';

function rowsOf(intent: FabricIntent): (Findable & Fitted)[] {
  const layout = layOut(intent);
  const owner = { fabric: intent.name, change: null };
  const { values } = drawValues(demandsOf(intent, layout), POOLS, NOTHING_HELD, owner);
  return findablesOf(intent, layout, values).map((f) => ({ ...f, fabric: intent.name }));
}
const skerry = intentOf(...skerryEdits());
const rows = rowsOf(skerry);
const found = (text: string, most = 5) => bestOf(rows, soughtOf(text), { most }).map((f) => `${f.name} · ${f.why}`);
const row = (subject: string): Findable => rows.find((r) => r.subject === subject)!;
const said = (subject: string, word: string): string =>
  row(subject)
    .says.find((s) => s.startsWith(`${word} `) && !s.slice(word.length + 1).includes(' '))!
    .slice(word.length + 1);

describe('what can be found', () => {
  test('is every object of any fabric, each once, and every switch by its name', () => {
    fc.assert(
      fc.property(fc.oneof(borderIntents, otherIntents), (intent) => {
        const subjects = rowsOf(intent).map((r) => r.subject);
        expect(new Set(subjects).size).toBe(subjects.length);
        for (const c of ALL_COLLECTIONS.filter((x) => !['fabric', 'spines'].includes(x.kind)))
          for (const [key] of c.items(intent)) expect(subjects).toContain(`${c.kind}:${key}`);
        for (const seat of layOut(intent).seats) expect(subjects).toContain(`seat:${seat.id}`);
      }),
      { numRuns: 20 },
    );
  });

  test('and every value that was drawn, by the object that holds it', () => {
    fc.assert(
      fc.property(fc.oneof(borderIntents, otherIntents), (intent) => {
        const layout = layOut(intent);
        const { values } = drawValues(demandsOf(intent, layout), POOLS, NOTHING_HELD, { fabric: 'x', change: null });
        const all = findablesOf(intent, layout, values).map((f) => ({ ...f, fabric: 'x' }));
        for (const value of new Set(values.values())) {
          const text = value.replace(/\/(32|128)$/, '');
          // A setting may say the same number.
          const ways = bestOf(all, soughtOf(text), { most: 5 });
          expect(
            ways.some((w) => w.why.endsWith(` ${text}`)),
            `${text}: ${ways.map((w) => `${w.name}, ${w.why}`).join('; ')}`,
          ).toBe(true);
        }
      }),
      { numRuns: 10 },
    );
  });
});

describe('what fits', () => {
  test('a name, a number with or without its word, a serial, a server', () => {
    const network = skerry.networks[0]!;
    expect(found(network.name)[0]).toMatch(new RegExp(`^${network.name} · `));
    expect(found(`network ${network.name.toUpperCase()}`)[0]).toMatch(new RegExp(`^${network.name} · `));
    expect(found(`vlan ${network.vlan}`)).toContain(`${network.name} · VLAN ${network.vlan}`);
    expect(found(String(network.vlan))).toContain(`${network.name} · VLAN ${network.vlan}`);
    const vni = said(`network:${network.name}`, 'VNI');
    expect(found(vni)[0]).toBe(`${network.name} · VNI ${vni}`);
    expect(found(said('seat:leaf-3', 'switch'))[0]).toMatch(/^tn-lf-03 · switch /);
    expect(found(said('seat:leaf-3', 'AS number'))[0]).toMatch(/^tn-lf-03 · AS number/);
    expect(found('rack 7')[0]).toMatch(/^rack 7 · /);
    const { server, port, rack } = skerry.ports[0]!;
    expect(found(server)[0]).toBe(`${server} · rack ${rack}, port ${port}, leaf ${skerry.ports[0]!.side}`);
    for (const text of ['02:00:5e:00:00:d2', '02-00-5E-00-00-D2', '0200.5e00.00d2'])
      expect(found(text)[0]).toBe('soundings-in · gateway MAC 02:00:5e:00:00:d2');
    expect(found('no such thing at all')).toEqual([]);
    expect(found('  ')).toEqual([]);
  });

  test('an address by the narrowest subnet around it, before what only begins alike', () => {
    const network = skerry.networks[0]!.name;
    const subnet = said(`network:${network}`, 'subnet');
    const inside = `${subnet.slice(0, subnet.lastIndexOf('.'))}.9`;
    expect(found(inside)[0]).toBe(`${network} · subnet ${subnet}`);
    expect(found(subnet)[0]).toBe(`${network} · subnet ${subnet}`);
    expect(found(said('seat:leaf-3', 'loopback'))[0]).toMatch(/^tn-lf-03 · loopback/);
    expect(found('192.0.2.254')).toEqual([]);
    const at = (says: string[]) => fitOf({ fabric: 'f', word: 'network', name: 'n', says }, soughtOf('10.1.2.3'))!;
    expect(at(['subnet 10.1.0.0/16', 'subnet 10.1.2.0/24']).why).toBe('subnet 10.1.2.0/24');
    expect(at(['subnet 10.1.2.0/24']).rank).toBeLessThan(at(['subnet 10.1.0.0/16']).rank);
  });

  test('several words, wherever they stand; the fabric one looks at before others', () => {
    const of = (fabric: string, name: string, ...says: string[]) => ({ fabric, word: 'network', name, says });
    const all = [
      of('ness', 'echo', 'VRF tides'),
      of('skerry', 'echo', 'VRF tides'),
      of('skerry', 'other', 'VRF tides'),
    ];
    const named = (text: string, near = '') =>
      bestOf(all, soughtOf(text), { most: 9, near }).map((f) => `${f.fabric} ${f.name}`);
    expect(named('echo')).toEqual(['ness echo', 'skerry echo']);
    expect(named('echo', 'skerry')).toEqual(['skerry echo', 'ness echo']);
    expect(named('tides echo skerry')).toEqual(['skerry echo']);
    expect(named('tides echo holm')).toEqual([]);
  });

  test('prefixes around one are written as they are drawn', () => {
    expect(prefixesAround({ address: 0x0a010203, length: 32 }).slice(0, 3)).toEqual([
      '10.1.2.3/32',
      '10.1.2.2/31',
      '10.1.2.0/30',
    ]);
    expect(prefixesAround(soughtOf('2001:db8:1::5').prefix!)).toContain('2001:db8:1::/64');
    expect(prefixesAround(soughtOf('10.0.0.0/7').prefix!)).toEqual([]);
  });
});
