import { ipv6Span } from '../../numbers/prefix.ts';
import type { FilterField, FilterSet, FilterValues, NumberRange } from '../../config/filters.ts';
import { parseCidr, parseIpv4, prefixSize, networkOf } from '../../numbers/ipv4.ts';
import type { NftToken } from './nftTokens.ts';

/** Names that nft takes for numbers (Debian’s `/etc/protocols` and `/etc/services`, and its own of ICMP). */
const PROTOCOLS: Readonly<Record<string, number>> = {
  icmp: 1,
  igmp: 2,
  tcp: 6,
  udp: 17,
  gre: 47,
  esp: 50,
  ah: 51,
  icmpv6: 58,
  'ipv6-icmp': 58,
  ospf: 89,
  pim: 103,
  vrrp: 112,
  sctp: 132,
  udplite: 136,
};
const SERVICES: Readonly<Record<string, number>> = {
  ssh: 22,
  domain: 53,
  bootps: 67,
  bootpc: 68,
  tftp: 69,
  http: 80,
  ntp: 123,
  snmp: 161,
  'snmp-trap': 162,
  bgp: 179,
  ldap: 389,
  https: 443,
  'microsoft-ds': 445,
  syslog: 514,
  ldaps: 636,
  'iscsi-target': 3260,
  mysql: 3306,
  postgresql: 5432,
};
const ICMP_TYPES: Readonly<Record<string, number>> = {
  'echo-reply': 0,
  'destination-unreachable': 3,
  redirect: 5,
  'echo-request': 8,
  'router-advertisement': 9,
  'router-solicitation': 10,
  'time-exceeded': 11,
  'parameter-problem': 12,
  'timestamp-request': 13,
  'timestamp-reply': 14,
};
const ICMP6_TYPES: Readonly<Record<string, number>> = {
  'destination-unreachable': 1,
  'packet-too-big': 2,
  'time-exceeded': 3,
  'parameter-problem': 4,
  'echo-request': 128,
  'echo-reply': 129,
  'mld-listener-query': 130,
  'mld-listener-report': 131,
  'mld-listener-done': 132,
  'nd-router-solicit': 133,
  'nd-router-advert': 134,
  'nd-neighbor-solicit': 135,
  'nd-neighbor-advert': 136,
  'nd-redirect': 137,
  'mld2-listener-report': 143,
};
const FAMILIES: Readonly<Record<string, string>> = { ipv4: 'ip', ip: 'ip', ipv6: 'ip6', ip6: 'ip6', arp: 'arp' };
const STATES = new Set(['new', 'established', 'related', 'invalid', 'untracked']);

const MOST_PORT = 65535;
const LAST_ADDRESS = 2 ** 32 - 1;

/** One value: a range of numbers or a word; null = it is none of its kind. */
type Value = NumberRange | string | null;

const numbered =
  (names: Readonly<Record<string, number>>, most: number) =>
  (text: string): NumberRange | null => {
    const one = (word: string): number | null => {
      const value = Object.hasOwn(names, word) ? names[word]! : /^\d+$/.test(word) ? Number(word) : -1;
      return value >= 0 && value <= most ? value : null;
    };
    const whole = one(text);
    if (whole !== null) return { from: whole, to: whole };
    const dash = /^(\d+)-(\d+)$/.exec(text);
    const [from, to] = dash ? [one(dash[1]!), one(dash[2]!)] : [null, null];
    return from !== null && to !== null && from <= to ? { from, to } : null;
  };
function addresses(text: string): NumberRange | null {
  const [first, last] = text.split('-');
  if (last !== undefined) {
    const [from, to] = [parseIpv4(first!), parseIpv4(last)];
    return from !== null && to !== null && from <= to ? { from, to } : null;
  }
  const one = parseIpv4(text);
  if (one !== null) return { from: one, to: one };
  const cidr = parseCidr(text);
  if (!cidr) return null;
  const from = networkOf(cidr.address, cidr.length);
  return { from, to: from + prefixSize(cidr.length) - 1 };
}

const READS: Readonly<Record<FilterField, (text: string) => Value>> = {
  family: (t) => FAMILIES[t] ?? null,
  protocol: numbered(PROTOCOLS, 255),
  source: addresses,
  target: addresses,
  sourcePort: numbered(SERVICES, MOST_PORT),
  targetPort: numbered(SERVICES, MOST_PORT),
  icmpType: numbered(ICMP_TYPES, 255),
  icmp6Type: numbered(ICMP6_TYPES, 255),
  in: (t) => t,
  inMember: (t) => t,
  out: (t) => t,
  state: (t) => (STATES.has(t) ? t : null),
  source6: (t) => (ipv6Span(t) ? t : null),
  target6: (t) => (ipv6Span(t) ? t : null),
};
/** Greatest value of a field that has an order. */
const MOST: Partial<Record<FilterField, number>> = {
  protocol: 255,
  source: LAST_ADDRESS,
  target: LAST_ADDRESS,
  sourcePort: MOST_PORT,
  targetPort: MOST_PORT,
  icmpType: 255,
  icmp6Type: 255,
};

/** What sets of a type of nft hold, and the fields that may ask them. */
export const SET_TYPES: Readonly<Record<string, FilterSet['of']>> = {
  ipv4_addr: 'addresses',
  ipv6_addr: 'addresses6',
  inet_service: 'ports',
  inet_proto: 'protocols',
  ifname: 'interfaces',
};
export const FIELD_OF_SET: Readonly<Record<FilterSet['of'], FilterField>> = {
  addresses: 'source',
  addresses6: 'source6',
  ports: 'targetPort',
  protocols: 'protocol',
  interfaces: 'in',
};

/** Values of a field from words; null where one of them is none. */
export function readValues(field: FilterField, words: readonly string[]): FilterValues | null {
  const ranges: NumberRange[] = [];
  const names: string[] = [];
  for (const word of words) {
    const value = READS[field](word);
    if (value === null) return null;
    if (typeof value === 'string') names.push(value);
    else ranges.push(value);
  }
  return { ...(ranges.length > 0 ? { ranges } : {}), ...(names.length > 0 ? { words: names } : {}) };
}
/** What a comparison leaves of a field with an order; null = it has none, or the value is none. */
export function readComparison(field: FilterField, mark: string, word: string): FilterValues | null {
  const value = READS[field](word);
  const most = MOST[field];
  if (value === null || typeof value === 'string' || most === undefined || value.from !== value.to) return null;
  const range =
    mark === '<'
      ? { from: 0, to: value.from - 1 }
      : mark === '<='
        ? { from: 0, to: value.from }
        : mark === '>'
          ? { from: value.from + 1, to: most }
          : { from: value.from, to: most };
  return range.from <= range.to ? { ranges: [range] } : null;
}

/** Words between braces, or one word; `1024 - 2000` and what commas join are put together. Null = it is no list of words. */
export function listOf(tokens: readonly NftToken[]): string[] | null {
  const out: string[] = [];
  let open = false;
  for (const { text } of tokens) {
    if (text === '\n') continue;
    if (text === ',') {
      if (!open) return null;
      open = false;
    } else if (text === '-' || out.at(-1)?.endsWith('-')) out[out.length - 1] += text;
    else if (open) return null;
    else {
      out.push(text);
      open = true;
    }
  }
  return out.every(Boolean) ? out : null;
}
