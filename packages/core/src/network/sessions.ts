import type { Cable } from '../hardware/cable.ts';
import { hostPart, parseIpv4 } from '../numbers/ipv4.ts';
import type { RemoteAs } from '../config/bgp.ts';
import type { EffectivePeer } from './bgp.ts';
import type { SwitchView } from './switchView.ts';

export interface CableEnd {
  readonly host: string;
  readonly port: string;
}
export type { Cable } from '../hardware/cable.ts';

/** One neighbour statement and what becomes of it, judged from the words of both ends. */
export interface Session {
  readonly host: string;
  /** Neighbour as written: interface or address. */
  readonly peer: string;
  readonly port: string | null;
  readonly farHost: string | null;
  readonly farPeer: string | null;
  readonly localAs: number;
  readonly remoteAsSaid: RemoteAs | null;
  readonly remoteAsHad: number | null;
  readonly up: boolean;
  /** Why it is down; null when up. */
  readonly reason: string | null;
  readonly ipv4: boolean;
  readonly evpn: boolean;
  /** Why a family is down though the session is up, or null. */
  readonly ipv4Reason: string | null;
  readonly evpnReason: string | null;
}

export type CablePlan = ReadonlyMap<string, CableEnd>;
export const endKey = (host: string, port: string): string => `${host} ${port}`;

/** Both directions of every cable, by `host port`. */
export function cablePlan(cables: readonly Cable[]): CablePlan {
  const plan = new Map<string, CableEnd>();
  for (const { a, b } of cables) {
    plan.set(endKey(a.host, a.port), b);
    plan.set(endKey(b.host, b.port), a);
  }
  return plan;
}

const asMatches = (said: RemoteAs | undefined, own: number, had: number): boolean =>
  said === 'external' ? own !== had : said === 'internal' ? own === had : said === had;

const saidText = (said: RemoteAs | undefined): string => (said === undefined ? 'no AS number' : `AS ${said}`);

/** The local port a neighbour is reached over, or why there is none. */
function portOf(view: SwitchView, peer: EffectivePeer): { port: string } | { why: string } {
  if (peer.kind === 'interface') {
    if (!view.portByName.has(peer.name)) return { why: `interface ${peer.name} is not in the interfaces file` };
    return { port: peer.name };
  }
  const address = parseIpv4(peer.name);
  if (address === null) return { why: `${peer.name} is no address` };
  const port = view.portTowards(address);
  return port === undefined ? { why: `no port has an address in the subnet of ${peer.name}` } : { port };
}

/** RFC 2385: without the same password at both ends no segment is taken. */
function passwordsDiffer(here: string | undefined, there: string | undefined, farHost: string): string {
  if (here !== undefined && there !== undefined) return `another password than on ${farHost}`;
  return here !== undefined ? `a password here, none on ${farHost}` : `a password on ${farHost}, none here`;
}

/** Every neighbour statement of every switch, matched with the statement at the far end of its cable. */
export function matchSessions(views: ReadonlyMap<string, SwitchView>, plan: CablePlan): Session[] {
  const sessions: Session[] = [];
  for (const [host, view] of views) {
    const bgp = view.config.bgp;
    if (!bgp) continue;
    for (const peer of view.peers) {
      const base = { host, peer: peer.name, localAs: bgp.asn, remoteAsSaid: peer.remoteAs ?? null };
      const down = (reason: string, more: Partial<Session> = {}): void => {
        sessions.push({
          ...base,
          port: null,
          farHost: null,
          farPeer: null,
          remoteAsHad: null,
          up: false,
          reason,
          ipv4: false,
          evpn: false,
          ipv4Reason: null,
          evpnReason: null,
          ...more,
        });
      };
      if (peer.remoteAs === undefined) {
        down('no remote AS number is said');
        continue;
      }
      const local = portOf(view, peer);
      if ('why' in local) {
        down(local.why);
        continue;
      }
      const port = local.port;
      if (view.portByName.get(port)?.shut) {
        down(`${port} is shut`, { port });
        continue;
      }
      const end = plan.get(endKey(host, port));
      if (!end) {
        down(`no cable on ${port}`, { port });
        continue;
      }
      const far = views.get(end.host);
      const at = { port, farHost: end.host };
      if (far?.portByName.get(end.port)?.shut) {
        down(`${end.port} of ${end.host} is shut`, at);
        continue;
      }
      if (!far?.config.bgp) {
        down(far ? `${end.host} does not run BGP` : `${end.host} is not among the switches read`, at);
        continue;
      }
      if (peer.shutdown) {
        down('closed here (shutdown)', at);
        continue;
      }
      let farPeer: EffectivePeer | undefined;
      if (peer.kind === 'interface') {
        farPeer = far.peerByName.get(end.port);
        if (!farPeer) {
          down(`${end.host} has no neighbour statement on ${end.port}`, at);
          continue;
        }
        if (!far.portByName.has(end.port)) {
          down(`${end.port} of ${end.host} is not in its interfaces file`, at);
          continue;
        }
      } else {
        if (far.portByAddress.get(peer.name) !== end.port) {
          const has = far.portByName.get(end.port)?.addresses[0] ?? 'no address';
          down(`${end.host} ${end.port} has ${has}, not ${peer.name}`, at);
          continue;
        }
        const own = view.portByName.get(port)!.addresses.map(hostPart);
        farPeer = own.map((a) => far.peerByName.get(a)).find((p) => p !== undefined);
        if (!farPeer) {
          down(`${end.host} has no neighbour statement for ${own[0] ?? port}`, at);
          continue;
        }
      }
      const had = far.config.bgp.asn;
      const know = { ...at, farPeer: farPeer.name, remoteAsHad: had };
      if (farPeer.shutdown) {
        down(`closed on ${end.host} (shutdown)`, know);
        continue;
      }
      if (!asMatches(peer.remoteAs, bgp.asn, had)) {
        down(`${saidText(peer.remoteAs)} is said here, ${end.host} has AS ${had}`, know);
        continue;
      }
      if (!asMatches(farPeer.remoteAs, had, bgp.asn)) {
        down(`${end.host} says ${saidText(farPeer.remoteAs)}, here is AS ${bgp.asn}`, know);
        continue;
      }
      if (peer.password !== farPeer.password) {
        down(passwordsDiffer(peer.password, farPeer.password, end.host), know);
        continue;
      }
      const family = (here: boolean, there: boolean): string | null =>
        here && there
          ? null
          : here
            ? `not activated on ${end.host}`
            : there
              ? 'not activated here'
              : 'not activated at either end';
      const ipv4Reason = family(peer.ipv4, farPeer.ipv4);
      const evpnReason = family(peer.evpn, farPeer.evpn);
      if (ipv4Reason !== null && evpnReason !== null) {
        down('no address family in common', { ...know, ipv4Reason, evpnReason });
        continue;
      }
      sessions.push({
        ...base,
        ...know,
        up: true,
        reason: null,
        ipv4: ipv4Reason === null,
        evpn: evpnReason === null,
        ipv4Reason,
        evpnReason,
      });
    }
  }
  return sessions;
}
