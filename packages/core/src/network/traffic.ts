import { familyOfText, hostPrefix } from '../numbers/prefix.ts';
import { CALLING_PORTS, ICMP6, type Packet } from './filters.ts';
import type { HostPort } from './networkModel.ts';

/** What servers say to one another. */
export interface Traffic {
  readonly protocol: 'icmp' | 'tcp' | 'udp';
  /** That the one asked listens on; with `icmp` there is none. */
  readonly port?: number;
  /** Bytes of its packets, the header of IP with them, which routers are asked not to cut; absent = few. */
  readonly size?: number;
}
export const PING: Traffic = { protocol: 'icmp' };
const NUMBERS = { tcp: 6, udp: 17 } as const;
/** Pings of each family: their protocol, what asks and what answers (RFC 792, RFC 4443). */
const PINGS = {
  ip: { protocol: 1, asks: 8, answers: 0 },
  ip6: { protocol: ICMP6, asks: 128, answers: 129 },
} as const;

/** A packet from one server to another: what is asked, or the answer to it. */
export function packetOf(a: HostPort, b: HostPort, traffic: Traffic, answers: boolean): Packet {
  const { protocol, port } = traffic;
  const family = familyOfText(a.ip) === 6 ? 'ip6' : 'ip';
  const ends = { source: hostPrefix(a.ip)!.address, target: hostPrefix(b.ip)!.address };
  const ping = PINGS[family];
  const number = protocol === 'icmp' ? ping.protocol : NUMBERS[protocol];
  const base = { family, protocol: number, ...ends, states: ['new' as const] } as const;
  if (protocol === 'icmp') return { ...base, icmpType: answers ? ping.answers : ping.asks };
  const served = port === undefined ? null : { from: port, to: port };
  return answers
    ? { ...base, ...(served ? { sourcePort: served } : {}), targetPort: CALLING_PORTS }
    : { ...base, sourcePort: CALLING_PORTS, ...(served ? { targetPort: served } : {}) };
}
