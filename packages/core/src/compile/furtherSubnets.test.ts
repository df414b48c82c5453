import { describe, expect, test } from 'vitest';
import { POOLS, skerryIntent } from '../demo/skerry.ts';
import { applyEdit, describeEdit } from '../intent/edits/index.ts';
import type { FabricIntent, Network } from '../intent/intent.ts';
import { layOut } from '../layout/layout.ts';
import { hostReach } from '../network/multihoming.ts';
import { demandsOf } from '../pools/demands.ts';
import { drawValues, holdingsOf, type LedgerEntry } from '../pools/drawValues.ts';
import { judgeNetwork } from '../proof/judgeNetwork.ts';
import { modelFabric, proveChange } from '../proof/proveChange.ts';
import { configsOf } from '../testing/fabricOf.ts';
import { compileFabric } from './compileFabric.ts';
import { hostsOf } from './servers.ts';

const NAME = 'pilot-desk';
const at = (intent: FabricIntent): Network => intent.networks.find((n) => n.name === NAME)!;
const changed = (more: Partial<Network>, intent = skerryIntent()) =>
  applyEdit(intent, { kind: 'changeNetwork', name: NAME, network: { ...at(intent), ...more } });
const OWNER = { fabric: 'skerry', change: null };
const drawOf = (intent: FabricIntent, held: readonly LedgerEntry[]) =>
  drawValues(demandsOf(intent, layOut(intent)), POOLS, holdingsOf(held, OWNER), OWNER);

/** What the proof says of gateways between two intents, each with what it draws after the one before. */
function said(before: FabricIntent, after: FabricIntent) {
  const was = drawOf(before, []);
  const is = drawOf(after, was.entries);
  expect(is.findings).toEqual([]);
  return proveChange({ intent: before, values: was.values }, { intent: after, values: is.values }, [
    ...POOLS,
  ]).report.findings.filter((f) => f.rule === 'gateway-stays');
}

describe('further subnets of a network', () => {
  const both = changed({ families: 'both', furtherSubnets: ['10.40.0.0/23', '2001:db8:40::/64'] });

  test('every switch that carries it has a gateway in each, and reads back so', () => {
    expect(both.findings).toEqual([]);
    const { drawn } = configsOf(both.intent);
    const first = drawn.values.get(`network:${NAME}/subnet`)!.replace('.0/24', '.1/24');
    const { switches } = compileFabric(both.intent, drawn.values, [...POOLS]);
    const gateways = switches.flatMap((s) => s.config.svis.filter((v) => v.vlan === at(both.intent).vlan));
    expect(gateways).toHaveLength(at(both.intent).racks.length);
    for (const gateway of gateways)
      expect(gateway).toMatchObject({
        addresses: [first, '10.40.0.1/23'],
        ipv6Addresses: ['2001:db8:32::1/64', '2001:db8:40::1/64'],
      });
    for (const s of switches) expect(s.parsed.config).toEqual(s.config);
  });

  test('servers of one subnet and of another reach one another, at home and from other networks of their tenant', () => {
    const { layout, drawn } = configsOf(both.intent);
    const fabric = compileFabric(both.intent, drawn.values, [...POOLS]);
    const hosts = hostsOf(both.intent, layout, drawn.values);
    const network = modelFabric(fabric, null, hosts);
    expect(judgeNetwork(network).findings.filter((f) => f.severity === 'error')).toEqual([]);
    const own = hosts.filter((h) => h.vlan === at(both.intent).vlan && !h.ip.includes(':'));
    expect(new Set(own.map((h) => h.gateway)).size).toBe(2);
    const tenant = new Set(both.intent.networks.filter((n) => n.vrf === at(both.intent).vrf).map((n) => n.vlan));
    for (const a of own)
      for (const b of hosts.filter((h) => tenant.has(h.vlan) && !h.ip.includes(':') && h.host !== a.host))
        expect([a.ip, b.ip, hostReach(network, a, b).ok]).toEqual([a.ip, b.ip, true]);
  });

  test('the proof says which servers lose their gateway before they can have another, and nothing of two safe steps', () => {
    const old = { ...skerryIntent() };
    const first = drawOf(old, []).values.get(`network:${NAME}/subnet`)!;
    const moved = changed({ subnet: '10.40.0.0/24' }).intent;
    const [finding, ...rest] = said(old, moved);
    expect(rest).toEqual([]);
    expect(finding).toMatchObject({ severity: 'warning', subjects: [`network:${NAME}`] });
    expect(finding!.message).toContain(`Gateway ${first.replace('.0/24', '.1')} of ${NAME} goes as 10.40.0.1 comes`);
    expect(finding!.cure).toContain(`Keep ${first} as subnet with 10.40.0.0/24 as a further subnet`);

    const beside = changed({ furtherSubnets: ['10.40.0.0/24'] }).intent;
    expect(said(old, beside)).toEqual([]);
    expect(said(beside, moved)).toEqual([]);
    // The other way: the new one first, the old one as the further one; what was drawn is kept under its new name.
    const turned = changed({ subnet: '10.40.0.0/24', furtherSubnets: [first] }).intent;
    expect(said(old, turned)).toEqual([]);
    expect(said(turned, moved)).toEqual([]);
    // Nobody is on it: nobody loses anything.
    const empty = (i: FabricIntent): FabricIntent => ({ ...i, ports: [] });
    expect(said(empty(old), empty(moved))).toEqual([]);
    expect(said(changed({ families: 'both' }).intent, changed({}).intent)[0]!.message).toMatch(
      /^Gateway 2001:db8:32::1 of pilot-desk goes: /,
    );
  });

  test('what is held by another is not taken, nor what the network keeps', () => {
    const old = skerryIntent();
    const { entries, values } = drawOf(old, []);
    const first = values.get(`network:${NAME}/subnet`)!;
    const other = values.get('network:echo-store/subnet')!;
    const ofOther = drawOf(changed({ furtherSubnets: [other] }).intent, entries);
    expect(ofOther.findings).toMatchObject([{ rule: 'value-taken', subjects: [`network:${NAME}`] }]);
    const twice = drawOf(changed({ furtherSubnets: [first] }).intent, entries);
    expect(twice.findings).toMatchObject([{ rule: 'value-taken', subjects: [`network:${NAME}`] }]);
  });

  test.each([
    ['no prefix', { furtherSubnets: ['10.40.0.0/24', 'ten'] }, 'subnet-form', 1],
    ['host bits', { furtherSubnets: ['10.40.0.1/24'] }, 'subnet-form', 0],
    ['no room', { furtherSubnets: ['10.40.0.0/30'] }, 'subnet-size', 0],
    ['no /64', { families: 'both', furtherSubnets: ['2001:db8:40::/56'] }, 'subnet-size', 0],
    ['another family', { furtherSubnets: ['2001:db8:40::/64'] }, 'family-asked', 0],
    ['refused', { furtherSubnets: ['127.0.0.0/24'] }, 'subnet-refused', 0],
    ['twice', { furtherSubnets: ['10.40.0.0/24', '10.40.0.128/25'] }, 'subnet-overlap', 1],
    ['over its own', { subnet: '10.40.0.0/24', furtherSubnets: ['10.40.0.0/25'] }, 'subnet-overlap', 0],
  ] as const)('%s is refused at its place, with a cure', (_, more, rule, i) => {
    const { findings } = changed(more as Partial<Network>);
    expect(findings).toMatchObject([{ rule, path: `/network/furtherSubnets/${i}` }]);
    expect(findings[0]!.cure).toBeTruthy();
  });
  test('one that is another network’s is refused on both sides', () => {
    const taken = changed({ furtherSubnets: ['10.40.0.0/24'] }).intent;
    const echo = taken.networks.find((n) => n.name !== NAME && n.vrf === at(taken).vrf)!;
    const beside = (more: Partial<Network>) =>
      applyEdit(taken, { kind: 'changeNetwork', name: echo.name, network: { ...echo, ...more } }).findings;
    expect(beside({ subnet: '10.40.0.0/25' })).toMatchObject([{ rule: 'subnet-overlap', path: '/network/subnet' }]);
    expect(beside({ furtherSubnets: ['10.40.0.0/16'] })).toMatchObject([
      { rule: 'subnet-overlap', path: '/network/furtherSubnets/0' },
    ]);
  });

  test('its sentence says what comes', () => {
    const edit = {
      kind: 'changeNetwork',
      name: NAME,
      network: { ...at(skerryIntent()), furtherSubnets: ['10.40.0.0/24'] },
    } as const;
    expect(describeEdit(edit, skerryIntent())).toBe(`Further subnets of network ${NAME} none → 10.40.0.0/24`);
  });
});
