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

/** The local port a neighbour is reached over; null = over routes; or why there is none. */
function portOf(view: SwitchView, peer: EffectivePeer): { port: string | null } | { why: string } {
  if (peer.kind === 'interface') {
    if (!view.portByName.has(peer.name)) return { why: `interface ${peer.name} is not in the interfaces file` };
    return { port: peer.name };
  }
  const address = parseIpv4(peer.name);
  if (address === null) return { why: `${peer.name} is no address` };
  return { port: view.portTowards(address) ?? null };
}

/** RFC 2385: without the same password at both ends no segment is taken. */
function passwordsDiffer(here: string | undefined, there: string | undefined, farHost: string): string {
  if (here !== undefined && there !== undefined) return `another password than on ${farHost}`;
  return here !== undefined ? `a password here, none on ${farHost}` : `a password on ${farHost}, none here`;
}

/** Largest TTL there is: what iBGP and `ttl-security` send with. */
const MOST_TTL = 255;
/** The TTL that an end sends with to the next hop (RFC 4271 §5.1.3, RFC 5082). */
function ttlSent({ ttlSecurity, multihop }: EffectivePeer, internal: boolean): number {
  return internal || ttlSecurity !== undefined ? MOST_TTL : (multihop ?? 1);
}
/** Why an end takes nothing of what the other sends, or null. */
function tooFar(here: EffectivePeer, there: EffectivePeer, internal: boolean, farHost: string): string | null {
  if (here.ttlSecurity === undefined) return null;
  const least = MOST_TTL + 1 - here.ttlSecurity;
  const sent = ttlSent(there, internal);
  return sent >= least ? null : `TTL security here asks for ${least} or more, ${farHost} sends with ${sent}`;
}

/** Is an address reached from a switch over its routes? */
export type Reaches = (host: string, address: string) => boolean;

/** Does an end call from an address of its own that is the one the other end knows? */
function callsFrom(view: SwitchView, { updateSource }: EffectivePeer, known: string): boolean {
  if (updateSource === known || updateSource === 'lo') return true;
  // Without an address on any port the first loopback is the only one there is.
  const first = view.config.loopbacks[0];
  return (
    updateSource === undefined &&
    first !== undefined &&
    hostPart(first) === known &&
    view.config.ports.every((p) => p.addresses.length === 0)
  );
}

type FarEnd = { readonly peer: EffectivePeer } | { readonly why: string };

/** The statement at the far end of a cable. */
function acrossCable(view: SwitchView, peer: EffectivePeer, port: string, far: SwitchView, end: CableEnd): FarEnd {
  if (peer.kind === 'interface') {
    const farPeer = far.peerByName.get(end.port);
    if (!farPeer) return { why: `${end.host} has no neighbour statement on ${end.port}` };
    return far.portByName.has(end.port)
      ? { peer: farPeer }
      : { why: `${end.port} of ${end.host} is not in its interfaces file` };
  }
  if (far.portByAddress.get(peer.name) !== end.port) {
    const has = far.portByName.get(end.port)?.addresses[0] ?? 'no address';
    return { why: `${end.host} ${end.port} has ${has}, not ${peer.name}` };
  }
  const own = view.portByName.get(port)!.addresses.map(hostPart);
  const farPeer = own.map((a) => far.peerByName.get(a)).find((p) => p !== undefined);
  return farPeer ? { peer: farPeer } : { why: `${end.host} has no neighbour statement for ${own[0] ?? port}` };
}

/** The statement at the far end of routes: of whoever has the address. */
function acrossRoutes(
  host: string,
  view: SwitchView,
  peer: EffectivePeer,
  farHost: string,
  far: SwitchView,
  reaches: Reaches,
): FarEnd {
  const own = view.config.loopbacks.map(hostPart);
  const farPeer = own.map((a) => far.peerByName.get(a)).find((p) => p !== undefined);
  if (!farPeer) return { why: `${farHost} has no neighbour statement for a loopback of ${host}` };
  const internal = peer.remoteAs === 'internal' || peer.remoteAs === view.config.bgp?.asn;
  const near = [peer, farPeer].some((p) => p.multihop === undefined && p.ttlSecurity === undefined);
  if (!internal && near) return { why: 'eBGP over routes needs ebgp-multihop at both ends' };
  if (!callsFrom(view, peer, farPeer.name) && !callsFrom(far, farPeer, peer.name))
    return { why: 'neither end calls from the address that the other end knows (update-source)' };
  if (!reaches(host, peer.name)) return { why: `no route to ${peer.name} of ${farHost}` };
  return reaches(farHost, farPeer.name)
    ? { peer: farPeer }
    : { why: `${farHost} has no route back to ${farPeer.name}` };
}

/** Why a family is down that nobody asked for. */
export const SPOKEN_BY_NONE = 'not activated at either end';
/** A family both ends speak, or why not. */
function familyReason(here: boolean, there: boolean, farHost: string): string | null {
  if (here && there) return null;
  if (here) return `not activated on ${farHost}`;
  return there ? 'not activated here' : SPOKEN_BY_NONE;
}

/** Why two statements that speak of one another make no session, or null. */
function whyDown(
  view: SwitchView,
  peer: EffectivePeer,
  far: SwitchView,
  farPeer: EffectivePeer,
  farHost: string,
): string | null {
  const [asn, farAsn] = [view.config.bgp!.asn, far.config.bgp!.asn];
  const [shown, had] = [peer.localAs ?? asn, farPeer.localAs ?? farAsn];
  const internal = had === asn;
  if (farPeer.shutdown) return `closed on ${farHost} (shutdown)`;
  if (!asMatches(peer.remoteAs, asn, had)) return `${saidText(peer.remoteAs)} is said here, ${farHost} has AS ${had}`;
  if (!asMatches(farPeer.remoteAs, farAsn, shown))
    return `${farHost} says ${saidText(farPeer.remoteAs)}, here is AS ${shown}`;
  if (peer.password !== farPeer.password) return passwordsDiffer(peer.password, farPeer.password, farHost);
  if (peer.passive && farPeer.passive) return `both ends wait to be called (passive)`;
  const unheard = tooFar(peer, farPeer, internal, farHost);
  if (unheard !== null) return unheard;
  return tooFar(farPeer, peer, internal, 'this end')?.replace('here', `on ${farHost}`) ?? null;
}

/**
 * Every neighbour statement of every switch, matched with the statement at the far end of its cable, or of the routes to it.
 * @param reaches for sessions over routes; without it none of them comes up
 */
export function matchSessions(
  views: ReadonlyMap<string, SwitchView>,
  plan: CablePlan,
  reaches: Reaches = () => false,
): Session[] {
  const ownerOf = new Map<string, string>();
  for (const [host, { config }] of views) for (const l of config.loopbacks) ownerOf.set(hostPart(l), host);
  const sessions: Session[] = [];
  for (const [host, view] of views) {
    const { bgp } = view.config;
    if (!bgp) continue;
    for (const peer of view.peers) sessions.push(judge(host, bgp.asn, view, peer));
  }
  return sessions;

  function judge(host: string, localAs: number, view: SwitchView, peer: EffectivePeer): Session {
    const at = (port: string | null, farHost: string | null): Here => ({ host, localAs, peer, port, farHost });
    if (peer.remoteAs === undefined) return down(at(null, null), 'no remote AS number is said');
    const local = portOf(view, peer);
    if ('why' in local) return down(at(null, null), local.why);
    const { port } = local;
    if (port === null) {
      const farHost = ownerOf.get(peer.name);
      if (farHost === undefined || farHost === host)
        return down(at(null, null), `no port has an address in the subnet of ${peer.name}`);
      const far = views.get(farHost)!;
      return both(at(null, farHost), view, far, () => acrossRoutes(host, view, peer, farHost, far, reaches));
    }
    if (view.portByName.get(port)?.shut) return down(at(port, null), `${port} is shut`);
    const end = plan.get(endKey(host, port));
    if (!end) return down(at(port, null), `no cable on ${port}`);
    const far = views.get(end.host);
    const here = at(port, end.host);
    if (far?.portByName.get(end.port)?.shut) return down(here, `${end.port} of ${end.host} is shut`);
    if (!far) return down(here, `${end.host} is not among the switches read`);
    return both(here, view, far, () => acrossCable(view, peer, port, far, end));
  }
}

/** A statement and where it leads. */
interface Here {
  readonly host: string;
  readonly localAs: number;
  readonly peer: EffectivePeer;
  readonly port: string | null;
  readonly farHost: string | null;
}
/** What is known of the far end of a session. */
interface There {
  readonly peer: string;
  readonly asn: number;
}
const sessionOf = (
  { host, localAs, peer, port, farHost }: Here,
  there: There | null,
  reason: string | null,
  ipv4Reason: string | null,
  evpnReason: string | null,
): Session => ({
  host,
  peer: peer.name,
  port,
  farHost,
  farPeer: there === null ? null : there.peer,
  localAs,
  remoteAsSaid: peer.remoteAs ?? null,
  remoteAsHad: there === null ? null : there.asn,
  up: reason === null,
  reason,
  ipv4: reason === null && ipv4Reason === null,
  evpn: reason === null && evpnReason === null,
  ipv4Reason,
  evpnReason,
});
const down = (here: Here, reason: string, there: There | null = null): Session =>
  sessionOf(here, there, reason, null, null);

/** What becomes of a session, from the words of both ends. */
function both(here: Here, view: SwitchView, far: SwitchView, findEnd: () => FarEnd): Session {
  const { peer } = here;
  const farHost = here.farHost!;
  if (!far.config.bgp) return down(here, `${farHost} does not run BGP`);
  if (peer.shutdown) return down(here, 'closed here (shutdown)');
  const end = findEnd();
  if ('why' in end) return down(here, end.why);
  const there: There = { peer: end.peer.name, asn: end.peer.localAs ?? far.config.bgp.asn };
  const reason = whyDown(view, peer, far, end.peer, farHost);
  if (reason !== null) return down(here, reason, there);
  const ipv4Reason = familyReason(peer.ipv4, end.peer.ipv4, farHost);
  const evpnReason = familyReason(peer.evpn, end.peer.evpn, farHost);
  const none = ipv4Reason !== null && evpnReason !== null ? 'no address family in common' : null;
  return sessionOf(here, there, none, ipv4Reason, evpnReason);
}
