import fc from 'fast-check';
import type { FilterChain, FilterMatch, FilterRule, FilterSet, FilterTable, FilterVerdict } from '../config/filters.ts';
import type { SwitchConfig } from '../config/switchConfig.ts';
import { sviDevice, vxlanDevice } from '../network/devices.ts';
import type { HostPort } from '../network/networkModel.ts';
import { parseIpv4 } from '../numbers/ipv4.ts';
import { familyOfText, formatAny, networkOfAny, parseAnyCidr } from '../numbers/prefix.ts';

type Rule = Omit<FilterRule, 'number'>;
const numbered = (rules: readonly Rule[]): FilterRule[] => rules.map((r, i) => ({ number: i + 1, ...r }));
const num = (field: FilterMatch['field'], ...values: readonly number[]): FilterMatch => ({
  field,
  ranges: values.map((v) => ({ from: v, to: v })),
});
const accept = { does: 'accept' } as const;
const TCP = num('protocol', 6);
const UDP = num('protocol', 17);
/** Ports that servers of a rehearsal listen on, and others. */
const PORTS = [22, 53, 80, 5432];

/** Addresses of IPv6 that servers have: one, or those of their subnet; the whole of it where there are none. */
const addresses6Of = (hosts: readonly HostPort[]): fc.Arbitrary<Pick<FilterMatch, 'words'>> => {
  const own = hosts.map((h) => h.ip);
  return own.length === 0
    ? fc.constant({ words: ['2001:db8::/32'] })
    : fc.tuple(fc.constantFrom(...own), fc.boolean()).map(([ip, one]) => ({
        words: [one ? ip : formatAny(networkOfAny(parseAnyCidr(`${ip}/64`)!))],
      }));
};

/** Addresses of servers: one, those of a subnet of 24 bits, or a part of it. */
const addressesOf = (hosts: readonly HostPort[]): fc.Arbitrary<Pick<FilterMatch, 'ranges'>> =>
  fc.tuple(fc.constantFrom(...hosts), fc.constantFrom(1, 8, 256)).map(([{ ip }, size]) => {
    const from = Math.floor(parseIpv4(ip)! / size) * size;
    return { ranges: [{ from, to: from + size - 1 }] };
  });

/** Conditions on what goes through: addresses, protocols and ports, interfaces, what is known of the flow. */
function conditions(config: SwitchConfig, all: readonly HostPort[], bridged: boolean): fc.Arbitrary<FilterMatch[]> {
  const hosts = all.filter((h) => familyOfText(h.ip) === 4);
  const six = all.filter((h) => familyOfText(h.ip) === 6);
  const svis = config.svis.map(sviDevice);
  const devices = bridged
    ? [...config.ports.filter((p) => p.bridging).map((p) => p.name), ...config.vxlans.map(vxlanDevice)]
    : [...svis, ...config.ports.filter((p) => !p.bridging).map((p) => p.name)];
  const names = [...devices, bridged ? 'p*' : 'vlan*'];
  const device = fc.subarray(names, { minLength: 1, maxLength: Math.min(3, names.length) });
  const negated = fc.constantFrom({}, {}, {}, { not: true as const });
  const one: fc.Arbitrary<FilterMatch[]>[] = [
    fc.tuple(addressesOf(hosts), negated).map(([a, not]) => [{ field: 'source', ...not, ...a }]),
    fc.tuple(addressesOf(hosts), negated).map(([a, not]) => [{ field: 'target', ...not, ...a }]),
    fc.constantFrom([TCP], [UDP], [num('protocol', 1)], [num('protocol', 6, 17)]),
    fc
      .tuple(fc.constantFrom(TCP, UDP), fc.subarray(PORTS, { minLength: 1 }), negated)
      .map(([protocol, ports, not]) => [protocol, { ...num('targetPort', ...ports), ...not }]),
    fc.constantFrom(
      [TCP, num('sourcePort', 22)],
      [UDP, { field: 'sourcePort' as const, ranges: [{ from: 1024, to: 65535 }] }],
    ),
    fc.constantFrom([num('icmpType', 8)], [num('icmpType', 0)]),
    fc.tuple(device, negated).map(([words, not]) => [{ field: 'out', ...not, words }]),
    fc.tuple(device, negated).map(([words, not]) => [{ field: 'in', ...not, words }]),
    fc.constant<FilterMatch[]>([{ field: 'target', set: 'an_some' }]),
  ];
  if (six.length > 0)
    one.push(
      fc.tuple(addresses6Of(six), negated).map(([a, not]) => [{ field: 'source6', ...not, ...a }]),
      fc.tuple(addresses6Of(six), negated).map(([a, not]) => [{ field: 'target6', ...not, ...a }]),
      fc.constantFrom([num('icmp6Type', 128)], [num('icmp6Type', 129)], [num('icmp6Type', 135, 136)]),
      fc.constant([num('protocol', 58)]),
    );
  if (bridged)
    one.push(
      fc.constantFrom<FilterMatch[]>(
        ...['arp', 'ip', 'ip6'].map((w): FilterMatch[] => [{ field: 'family', words: [w] }]),
      ),
    );
  else {
    one.push(
      fc.constantFrom<FilterMatch[]>(
        [{ field: 'state', words: ['new'] }],
        [{ field: 'state', words: ['established'] }],
      ),
    );
    if (config.vrfs.length > 0) {
      one.push(device.map((words) => [{ field: 'inMember', words }]));
      one.push(fc.constantFrom(...config.vrfs).map((v) => [{ field: 'in', words: [v.name] }]));
    }
  }
  return fc.array(fc.oneof(...one), { minLength: 1, maxLength: 2 }).map((all) => {
    const out: FilterMatch[] = [];
    // One protocol in a rule: nft refuses two that cannot both be.
    const speaks = (m: FilterMatch): string => (/^(protocol|icmp6?Type|.*Port)$/.test(m.field) ? 'protocol' : m.field);
    // And one family: what is said of the one and of the other fits nothing, and nft refuses it.
    const ofSix = (m: FilterMatch): boolean => /6/.test(m.field);
    const ofFour = (m: FilterMatch): boolean => /^(source|target|icmpType|family)$/.test(m.field);
    for (const m of all)
      if (m.some(ofSix) ? out.some(ofFour) : m.some(ofFour) && out.some(ofSix)) continue;
      else if (!m.some((x) => out.some((o) => speaks(o) === speaks(x)))) out.push(...m);
    return out;
  });
}

const SOME: FilterSet['name'] = 'an_some';

/** What a switch must let in and out to be one: sessions, tunnels, who has an address. */
const OWN: readonly Rule[] = [
  { matches: [TCP, num('targetPort', 179)], verdict: accept },
  { matches: [TCP, num('sourcePort', 179)], verdict: accept },
  { matches: [UDP, num('targetPort', 4789)], verdict: accept },
  { matches: [UDP, num('targetPort', 3784, 3785, 4784)], verdict: accept },
  { matches: [num('protocol', 58)], verdict: accept },
  { matches: [num('protocol', 89)], verdict: accept },
  { matches: [num('protocol', 1)], verdict: accept },
];
const KNOWN: Rule = { matches: [{ field: 'state', words: ['established', 'related'] }], verdict: accept };

/**
 * Filters for one switch: what goes through, routed or bridged, and what is for the switch itself. Some of what it needs
 * may be forgotten.
 * @param hosts all servers, at least one
 */
export function filtersOf(config: SwitchConfig, hosts: readonly HostPort[]): fc.Arbitrary<FilterTable[]> {
  const set = addressesOf(hosts.filter((h) => familyOfText(h.ip) === 4)).map((values): FilterSet => ({
    name: SOME,
    of: 'addresses',
    ...values,
  }));
  const forward = (bridged: boolean): fc.Arbitrary<FilterTable> => {
    const verdict = fc.constantFrom<FilterVerdict>(
      accept,
      accept,
      { does: 'drop' },
      { does: 'drop' },
      { does: 'reject' },
      { does: 'return' },
      { does: 'jump', chain: 'an_more' },
      { does: 'goto', chain: 'an_more' },
    );
    const inMore = fc.constantFrom<FilterVerdict>(accept, { does: 'drop' }, { does: 'return' });
    const rule = (of: fc.Arbitrary<FilterVerdict>): fc.Arbitrary<Rule> =>
      fc.tuple(conditions(config, hosts, bridged), of).map(([matches, v]) => ({ matches, verdict: v }));
    return fc
      .record({
        set,
        more: fc.array(rule(inMore), { minLength: 1, maxLength: 3 }),
        rules: fc.array(rule(bridged ? verdict.filter((v) => v.does !== 'reject') : verdict), {
          minLength: 1,
          maxLength: 4,
        }),
        policy: fc.constantFrom('accept' as const, 'accept' as const, 'drop' as const),
        known: fc.boolean(),
        tunnels: fc.constantFrom(true, true, true, false),
        priority: fc.constantFrom(0, -10),
      })
      .map(({ set: values, more, rules, policy, known, tunnels, priority }) => {
        const first: Rule[] = [
          ...(known && !bridged ? [KNOWN] : []),
          ...(tunnels && !bridged ? [{ matches: [UDP, num('targetPort', 4789)], verdict: accept }] : []),
          ...(bridged && policy === 'drop'
            ? [{ matches: [{ field: 'family' as const, words: ['arp'] }], verdict: accept }]
            : []),
        ];
        const base: FilterChain = {
          name: 'an_forward',
          base: { hook: 'forward', priority, policy },
          rules: numbered([...first, ...rules]),
        };
        const chains = [{ name: 'an_more', rules: numbered(more) }, base];
        return {
          layer: bridged ? 'bridge' : 'inet',
          name: bridged ? 'an_bridge' : 'an_fabric',
          sets: [values],
          chains,
        };
      });
  };
  const own = fc
    .tuple(
      fc.subarray([...OWN], { minLength: OWN.length - 1 }),
      fc.boolean(),
      fc.constantFrom('input', 'input', 'output'),
    )
    .map(([rules, known, hook]): FilterTable => ({
      layer: 'inet',
      name: 'an_own',
      sets: [],
      chains: [
        {
          name: 'an_own',
          base: { hook: hook as 'input', priority: 0, policy: 'drop' },
          rules: numbered([
            { matches: [{ field: hook === 'input' ? 'in' : 'out', words: ['lo'] }], verdict: accept },
            ...(known ? [KNOWN] : []),
            ...rules,
          ]),
        },
      ],
    }));
  return fc
    .record({
      routed: fc.option(forward(false)),
      bridged: fc.option(forward(true), { freq: 1 }),
      own: fc.option(own, { freq: 1 }),
    })
    .map(({ routed, bridged, own: self }) => [routed, bridged, self].filter((t) => t !== null))
    .filter((t) => t.length > 0);
}
