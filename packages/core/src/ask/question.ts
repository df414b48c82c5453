import type { Traffic } from '../network/traffic.ts';
import { formatAny, hostPrefix, parseAnyCidr } from '../numbers/prefix.ts';

/** A question to the network model. */
export type Question =
  /** Routes of a switch, of one VRF or outside of all; all of them, or those that lead to an address. */
  | { readonly ask: 'routes'; readonly host: string; readonly vrf?: string; readonly to?: string }
  /** Whether one server reaches another, by which way. */
  | {
      readonly ask: 'reach';
      readonly from: string;
      readonly to: string;
      /** Absent = `icmp`: a ping. */
      readonly protocol?: Traffic['protocol'];
      /** The port that the one asked listens on, of `tcp` and `udp`. */
      readonly port?: number;
      /** Bytes of a packet that must not be cut, its header with it; absent = few. */
      readonly size?: number;
    }
  /** Who has a route to an address or a prefix. */
  | { readonly ask: 'prefix'; readonly prefix: string }
  /** What the network answers otherwise than before. */
  | { readonly ask: 'differs' }
  /** Routes of EVPN that a switch holds, of one type or of all. */
  | { readonly ask: 'evpn'; readonly host: string; readonly type?: 1 | 2 | 3 | 4 | 5 }
  /** Who carries a VNI, and hears whom. */
  | { readonly ask: 'vni'; readonly vni: number };

type Reach = Extract<Question, { ask: 'reach' }>;

const HOW =
  'a question is “routes SWITCH [in VRF] [to ADDRESS]”, “reach SERVER SERVER [tcp PORT|udp PORT] [size BYTES]”, “hears ADDRESS” or “hears PREFIX”, “hears vni NUMBER”, “evpn SWITCH [type 1|2|3|4|5]”, or “differs”';

/** The least that every link carries (RFC 791), and the most that a packet of IP is. */
const SIZES = { from: 68, to: 65535 };

function readReach(from: string, to: string, words: readonly string[]): Reach | string {
  const at = words.indexOf('size');
  if (at >= 0) {
    const size = Number(words[at + 1]);
    if (words.length !== at + 2) return HOW;
    if (!Number.isInteger(size) || size < SIZES.from || size > SIZES.to)
      return `a size is ${SIZES.from}–${SIZES.to} bytes, the header of IP with them`;
    const rest = readReach(from, to, words.slice(0, at));
    return typeof rest === 'string' ? rest : { ...rest, size };
  }
  const [protocol, said, ...rest] = words;
  if (protocol === undefined) return { ask: 'reach', from, to };
  if (rest.length > 0 || (protocol !== 'tcp' && protocol !== 'udp' && protocol !== 'icmp')) return HOW;
  if (protocol === 'icmp') return said === undefined ? { ask: 'reach', from, to, protocol } : HOW;
  const port = Number(said);
  if (!Number.isInteger(port) || port < 1 || port > 65535) return `${protocol} wants a port, 1–65535`;
  return { ask: 'reach', from, to, protocol, port };
}

/** Reads a question of words; a string says how one is put. */
export function readQuestion(words: readonly string[]): Question | string {
  const [ask, first, second, ...rest] = words;
  if (ask === 'differs' && first === undefined) return { ask };
  if (first === undefined) return HOW;
  switch (ask) {
    case 'routes': {
      const said: { vrf?: string; to?: string } = {};
      for (let at = 2; at < words.length; at += 2) {
        const value = words[at + 1];
        if (value === undefined) return HOW;
        if (words[at] === 'in') said.vrf = value;
        else if (words[at] !== 'to') return HOW;
        else if (hostPrefix(value) === null) return `${value} is no address`;
        else said.to = value;
      }
      return { ask, host: first, ...said };
    }
    case 'reach':
      return second === undefined ? HOW : readReach(first, second, rest);
    case 'evpn': {
      if (second === undefined) return { ask, host: first };
      const type = ([1, 2, 3, 4, 5] as const).find((t) => String(t) === rest[0]);
      return second === 'type' && type !== undefined && rest.length === 1 ? { ask, host: first, type } : HOW;
    }
    case 'hears': {
      if (first === 'vni') {
        const vni = Number(second);
        return Number.isInteger(vni) && vni > 0 && vni < 2 ** 24 && rest.length === 0 ? { ask: 'vni', vni } : HOW;
      }
      const prefix = first.includes('/') ? parseAnyCidr(first) : hostPrefix(first);
      return second === undefined && prefix ? { ask: 'prefix', prefix: formatAny(prefix) } : HOW;
    }
    default:
      return HOW;
  }
}
