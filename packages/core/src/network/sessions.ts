import { hostPart } from '../numbers/ipv4.ts';
import { routersIn, type RemoteAs } from '../config/bgp.ts';
import type { Place } from '../config/switchConfig.ts';
import { CALLERS } from '../config/bgpParts.ts';
import type { EffectivePeer, RouterView } from './bgp.ts';
import { endKey, type CablePlan } from './cablePlan.ts';
import { acrossCable, acrossRoutes, type FarEnd, type Reaches, type Reaches6 } from './farEnd.ts';
import { ROUTES, speakerOf, wayTo, type Speaker } from './sessionWays.ts';
import type { Family } from './routes.ts';
import { filtersOf } from './filters.ts';
import { sessionFiltered, type FilteringSwitch, type SessionEnd } from './filteredSession.ts';
import { familyOfText } from '../numbers/prefix.ts';
import type { SwitchView } from './switchView.ts';
import type { Trouble } from './trouble.ts';

/** One neighbour statement and what becomes of it, judged from the words of both ends. */
export interface Session {
  readonly host: string;
  /** The VRF it stands in; absent = the default one. */
  readonly vrf?: string;
  /** Neighbour as written: interface or address. */
  readonly peer: string;
  readonly port: string | null;
  readonly farHost: string | null;
  /** The VRF of its far end. */
  readonly farVrf?: string;
  readonly farPeer: string | null;
  readonly localAs: number;
  readonly remoteAsSaid: RemoteAs | null;
  readonly remoteAsHad: number | null;
  readonly up: boolean;
  /** Why it is down; null when up. */
  readonly reason: string | null;
  readonly ipv4: boolean;
  readonly ipv6: boolean;
  readonly evpn: boolean;
  /** Why a family is down though the session is up, or null. */
  readonly ipv4Reason: string | null;
  readonly ipv6Reason: string | null;
  readonly evpnReason: string | null;
  /** Where filters stop it. */
  readonly stopped?: Trouble;
  /** Why it may be otherwise, though every line is understood. */
  readonly unsure?: string;
}
/** Is an end of it in the VRF of a tenant? Then the underlay has no part in it. */
export const isTenants = (s: Session): boolean => s.vrf !== undefined || s.farVrf !== undefined;

/** Is it down because one of its ends is told to close it? */
export const isClosed = ({ up, reason }: Pick<Session, 'up' | 'reason'>): boolean =>
  !up && /^closed (here|on \S+) \(shutdown\)$/.test(reason ?? '');
/** Goes IPv4 over it between addresses of IPv6? Which next hop that tells depends on what else the links have. */
export const carriesAcross = (s: Session): boolean => s.ipv4 && familyOfText(s.peer) === 6;

/** Where a neighbour stands in a configuration; undefined = outside of VRFs. */
export const peerPlace = (vrf: string | undefined, peer: string): Place =>
  vrf === undefined ? ['bgp', 'peers', peer] : ['bgp', 'vrfs', vrf, 'peers', peer];
/** The line that makes it one. */
export const statementPlace = ({ vrf, peer }: Pick<Session, 'vrf' | 'peer'>): Place =>
  [...peerPlace(vrf, peer), 'remoteAs'] as readonly string[] as Place;

const asMatches = (said: RemoteAs | undefined, own: number, had: number): boolean =>
  said === 'external' ? own !== had : said === 'internal' ? own === had : said === had;

const saidText = (said: RemoteAs | undefined): string => (said === undefined ? 'no AS number' : `AS ${said}`);

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

/** Why a family is down that nobody asked for. */
export const SPOKEN_BY_NONE = 'not activated at either end';
/** A family both ends speak, or why not; who calls says which it wants. */
function familyReason(here: boolean, there: boolean, farHost: string): string | null {
  if (here && there) return null;
  if (here) return `not activated on ${farHost}`;
  return there ? 'not activated here' : SPOKEN_BY_NONE;
}

/** Why two statements that speak of one another make no session, or null. */
function whyDown(here: Speaker, peer: EffectivePeer, far: Speaker, farPeer: EffectivePeer): string | null {
  const [asn, farAsn, farHost] = [here.router.speaker.asn, far.router.speaker.asn, far.host];
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

const isFiltering = ({ config }: SwitchView): boolean => {
  const { routed, bridged } = filtersOf(config);
  return routed || bridged;
};

const NO_ROUTES_YET = 'no routes are computed yet';
/**
 * Every neighbour statement of every switch, matched with the statement at the far end of its cable, or of the routes to it.
 * @param reaches for sessions over routes; without it none of them comes up, and why not is not looked at
 * @param reaches6 for those of them between addresses of IPv6
 */
export function matchSessions(
  views: ReadonlyMap<string, SwitchView>,
  plan: CablePlan,
  reaches?: Reaches,
  reaches6: Reaches6 = () => ({ ok: false, unsure: null }),
): Session[] {
  const filtering = [...views].flatMap(([host, view]) => (isFiltering(view) ? [{ host, view }] : []));
  const ownerOf = new Map<string, string>();
  for (const [host, { config }] of views)
    for (const l of [...config.loopbacks, ...(config.ipv6Loopbacks ?? [])]) ownerOf.set(hostPart(l), host);
  const sessions: Session[] = [];
  for (const [host, view] of views) {
    for (const { vrf, speaker } of routersIn(view.config)) {
      if (speaker.peers.length === 0) continue;
      const here = speakerOf(host, view, vrf)!;
      for (const peer of here.router.peers) sessions.push(judge(here, peer));
    }
  }
  return [...sessions, ...heard()].map(notPastLimit(sessions, views));

  /** The ends of those who listen: they have one for each who calls, and none before. */
  function heard(): Session[] {
    const known = new Set<string>();
    return sessions.flatMap(({ farHost, farVrf, farPeer }) => {
      if (farHost === null || farPeer === null) return [];
      const far = speakerOf(farHost, views.get(farHost)!, farVrf)!;
      const peer = far.router.peerByName.has(farPeer) ? undefined : far.router.peer(farPeer);
      const key = `${farHost} ${farVrf ?? ''} ${farPeer}`;
      if (!peer || known.has(key)) return [];
      known.add(key);
      return judge(far, peer);
    });
  }

  function judge(here: Speaker, peer: EffectivePeer): Session {
    const { host, view, vrf } = here;
    const at = (port: string | null, farHost: string | null): Here => ({ here, peer, port, farHost });
    if (peer.remoteAs === undefined) return down(at(null, null), 'no remote AS number is said');
    const way = wayTo(here, peer, views, plan);
    if ('why' in way) return down(at(null, null), way.why);
    const { port } = way;
    if (port === null && way !== ROUTES)
      return unknown(at(null, null), `who has ${peer.name} in its VLAN is not computed`);
    if (port === null) {
      const farHost = ownerOf.get(peer.name);
      const lost = `no port ${vrf === undefined ? '' : `in VRF ${vrf} `}has an address in the subnet of ${peer.name}`;
      if (vrf !== undefined)
        return unknown(at(null, null), `${lost}, and sessions over routes of a VRF are not computed`);
      if (farHost === undefined || farHost === host) return down(at(null, null), lost);
      const far = views.get(farHost)!;
      let unsure: string | null = null;
      const six: Reaches = (from, to) => {
        const found = reaches6(from, to);
        unsure ??= found.unsure;
        return found.ok;
      };
      const leads = familyOfText(peer.name) === 6 ? six : reaches;
      if (!leads) return down(at(null, farHost), NO_ROUTES_YET);
      const made = both(at(null, farHost), far, () => acrossRoutes(here, peer, farHost, far, leads), filtering);
      return unsure === null ? made : { ...made, unsure };
    }
    if (view.portByName.get(port)?.shut) return down(at(port, null), peer.shutdown ? CLOSED_HERE : `${port} is shut`);
    const end = plan.end(host, port);
    if (!end) return down(at(port, null), plan.dark.get(endKey(host, port))?.why ?? `no cable on ${port}`);
    const far = views.get(end.host);
    const there = at(port, end.host);
    if (far?.portByName.get(end.port)?.shut) return down(there, `${end.port} of ${end.host} is shut`);
    if (!far) return down(there, `${end.host} is not among the switches read`);
    const made = both(there, far, () => acrossCable(here, peer, way, end, { views, plan }), filtering);
    const dim = plan.dim.get(endKey(host, port));
    return dim !== undefined && made.up ? { ...made, unsure: made.unsure ?? dim } : made;
  }
}

/** The router that somebody calls from a range of it; null = he is a neighbour of it by name. */
function calledBy({ farHost, farVrf, farPeer }: Session, views: ReadonlyMap<string, SwitchView>): RouterView | null {
  const router = farHost === null || farPeer === null ? null : (views.get(farHost)?.router(farVrf) ?? null);
  return router && router.callers.length > 0 && !router.peerByName.has(farPeer!) ? router : null;
}
/** Where more call than may, it hangs on who came first: then no session of them is certain, at either end. */
function notPastLimit(sessions: readonly Session[], views: ReadonlyMap<string, SwitchView>): (s: Session) => Session {
  const calls = new Map<RouterView, number>();
  for (const s of sessions) {
    const router = s.up ? calledBy(s, views) : null;
    if (router) calls.set(router, (calls.get(router) ?? 0) + 1);
  }
  const doubtOf = (router: RouterView | null | undefined, host: string | null): string | null => {
    const [n, most] = [router ? (calls.get(router) ?? 0) : 0, router?.speaker.listenLimit ?? CALLERS];
    return n > most ? `${n} call ${host}, which takes ${most} at once` : null;
  };
  return (s) => {
    if (!s.up || calls.size === 0) return s;
    const here = views.get(s.host)!.router(s.vrf);
    const own = here && !here.peerByName.has(s.peer) ? here : null;
    const unsure = doubtOf(calledBy(s, views), s.farHost) ?? doubtOf(own, s.host);
    return unsure === null ? s : { ...s, unsure: s.unsure ?? unsure };
  };
}

const CLOSED_HERE = 'closed here (shutdown)';
/** A statement and where it leads. */
interface Here {
  readonly here: Speaker;
  readonly peer: EffectivePeer;
  readonly port: string | null;
  readonly farHost: string | null;
}
/** What is known of the far end of a session. */
interface There {
  readonly peer: string;
  readonly asn: number;
  readonly vrf: string | undefined;
}
const vrfOf = <K extends string>(key: K, vrf: string | undefined): Partial<Record<K, string>> =>
  vrf === undefined ? {} : ({ [key]: vrf } as Record<K, string>);
/** Why families are down, each; null = they are not. */
type FamilyReasons = Readonly<Record<Family, string | null>>;
const NOT_ASKED: FamilyReasons = { ipv4: null, ipv6: null, evpn: null };
const sessionOf = (
  { here, peer, port, farHost }: Here,
  there: There | null,
  reason: string | null,
  { ipv4, ipv6, evpn }: FamilyReasons,
): Session => ({
  host: here.host,
  ...vrfOf('vrf', here.vrf),
  peer: peer.name,
  port,
  farHost,
  ...vrfOf('farVrf', there?.vrf),
  farPeer: there === null ? null : there.peer,
  localAs: here.router.speaker.asn,
  remoteAsSaid: peer.remoteAs ?? null,
  remoteAsHad: there === null ? null : there.asn,
  up: reason === null,
  reason,
  ipv4: reason === null && ipv4 === null,
  ipv6: reason === null && ipv6 === null,
  evpn: reason === null && evpn === null,
  ipv4Reason: ipv4,
  ipv6Reason: ipv6,
  evpnReason: evpn,
});
const down = (at: Here, reason: string, there: There | null = null): Session => sessionOf(at, there, reason, NOT_ASKED);
/** What is not computed counts as down, and says so. */
const unknown = (at: Here, why: string): Session =>
  at.peer.shutdown ? down(at, CLOSED_HERE) : { ...down(at, why), unsure: why };

/** What becomes of a session, from the words of both ends. */
function both(at: Here, view: SwitchView, findEnd: () => FarEnd, filtering: readonly FilteringSwitch[]): Session {
  const { here, peer } = at;
  const farHost = at.farHost!;
  if (!view.config.bgp) return down(at, `${farHost} does not run BGP`);
  if (peer.shutdown) return down(at, CLOSED_HERE);
  const end = findEnd();
  if ('why' in end) return (end.unsure ? unknown : down)(at, end.why);
  const { far } = end;
  const there: There = { peer: end.peer.name, asn: end.peer.localAs ?? far.router.speaker.asn, vrf: far.vrf };
  const reason = whyDown(here, peer, far, end.peer);
  if (reason !== null) return down(at, reason, there);
  const own = sessionEnd(here, peer, at.port, end.peer);
  const filters = sessionFiltered(own, sessionEnd(far, end.peer, end.port, peer), filtering);
  const unsure = filters.unsure === null ? {} : { unsure: filters.unsure };
  if (filters.trouble) return { ...down(at, filters.trouble.words, there), stopped: filters.trouble, ...unsure };
  const reasonOf = (family: Family): string | null =>
    (peer.calls && !end.peer[family]) || (end.peer.calls && !peer[family])
      ? SPOKEN_BY_NONE
      : familyReason(peer[family], end.peer[family], farHost);
  const reasons = { ipv4: reasonOf('ipv4'), ipv6: reasonOf('ipv6'), evpn: reasonOf('evpn') };
  const none = Object.values(reasons).every((r) => r !== null) ? 'no address family in common' : null;
  return { ...sessionOf(at, there, none, reasons), ...unsure };
}
/** An end as filters see it: it is known by the address that the other end calls. */
const sessionEnd = (
  { host, view, vrf }: Speaker,
  { passive }: EffectivePeer,
  port: string | null,
  far: EffectivePeer,
): SessionEnd => ({
  host,
  view,
  vrf,
  port,
  address: far.kind === 'address' ? far.name : null,
  passive,
});
