import { hostPart } from '../numbers/ipv4.ts';
import { familyOfText } from '../numbers/prefix.ts';
import type { EffectivePeer } from './bgp.ts';
import type { CableEnd, CablePlan } from './cablePlan.ts';
import { answersIn, inVrf, speakerOf, wayTo, type Speaker, type Way } from './sessionWays.ts';
import type { SwitchView } from './switchView.ts';

/** Which statement of whom answers a statement: over a cable, behind one, or over routes. */

/** Is an address reached from a switch over its routes? */
export type Reaches = (host: string, address: string) => boolean;
/** The same of IPv6: whether, and why that may be otherwise; null = it may not. */
export type Reaches6 = (host: string, address: string) => { readonly ok: boolean; readonly unsure: string | null };

/** Loopback addresses of the family of an address. */
const loopbacksOf = ({ config }: SwitchView, address: string): string[] =>
  (familyOfText(address) === 6 ? (config.ipv6Loopbacks ?? []) : config.loopbacks).map(hostPart);

/** Does an end call from an address of its own that is the one the other end knows? */
function callsFrom(view: SwitchView, { updateSource }: EffectivePeer, known: string): boolean {
  if (updateSource === known || updateSource === 'lo') return true;
  // Without an address on any port the first loopback is the only one there is.
  const six = familyOfText(known) === 6;
  const first = loopbacksOf(view, known)[0];
  return (
    updateSource === undefined &&
    first === known &&
    view.config.ports.every((p) => (six ? (p.ipv6Addresses ?? []) : p.addresses).length === 0)
  );
}

/** The far end, and its port; null = over routes. */
export type FarEnd =
  | { readonly far: Speaker; readonly peer: EffectivePeer; readonly port: string | null }
  /** There is none; `unsure`: that is not computed. */
  | { readonly why: string; readonly unsure?: true };

/** Where statements lead by the cables that there are. */
export interface Ways {
  readonly views: ReadonlyMap<string, SwitchView>;
  readonly plan: CablePlan;
}

/** The statement at the far end of a cable. */
export function acrossCable(here: Speaker, peer: EffectivePeer, way: Way, end: CableEnd, ways: Ways): FarEnd {
  const { port, own } = way;
  const view = ways.views.get(end.host)!;
  const inUnknown = (vrf: string | undefined): string => `${end.host} runs no BGP ${inVrf(vrf)}`;
  if (peer.kind === 'interface') {
    const farPort = view.portByName.get(end.port);
    const far = speakerOf(end.host, view, farPort?.vrf);
    const farPeer = far?.router.peerByName.get(end.port);
    if (!farPeer) return { why: `${end.host} has no neighbour statement on ${end.port}` };
    return farPort
      ? { far: far!, peer: farPeer, port: end.port }
      : { why: `${end.port} of ${end.host} is not in its interfaces file` };
  }
  const answers =
    way.behind === undefined ? answersIn(view, end, peer.name) : answersBehind(view, end, peer.name, way.behind);
  if ('why' in answers) return answers;
  const far = speakerOf(end.host, view, answers.vrf);
  if (!far) return { why: inUnknown(answers.vrf) };
  // Another statement may call it by its address of the other family.
  const called = own.filter((a) => familyOfText(a) === familyOfText(peer.name));
  const farPeer = called.map((a) => far.router.peer(a)).find((p) => p !== undefined);
  if (farPeer && (!way.behind || called.some((a) => meets(peer, farPeer, [a, port], peer.name))))
    return { far, peer: farPeer, port: end.port };
  if (farPeer) return { why: CALLS_FROM_ELSEWHERE };
  return (
    behindHere(here, peer, port, far, end, ways) ?? {
      why: `${end.host} has no neighbour statement for ${called[0] ?? port}`,
    }
  );
}
const CALLS_FROM_ELSEWHERE = 'neither end calls from the address that the other end knows (update-source)';

/** Is an address behind a port one that whoever is there has by itself, and is he the next hop? */
function answersBehind(
  view: SwitchView,
  end: CableEnd,
  address: string,
  nextHop: string,
): ReturnType<typeof answersIn> {
  const there = answersIn(view, end, nextHop);
  if ('why' in there) return there;
  return there.vrf === undefined && loopbacksOf(view, address).includes(address)
    ? { vrf: undefined }
    : { why: `${end.host} is not known to have ${address}` };
}

/**
 * Does one of two ends call from the address that the other knows, where one of them is spoken to behind the link?
 * @param near what the end on the link says, which calls from there unless it says otherwise
 * @param from its own names there: address and port
 */
const meets = (
  near: EffectivePeer,
  behind: EffectivePeer,
  from: readonly (string | null)[],
  loopback: string,
): boolean =>
  near.updateSource === undefined ||
  from.includes(near.updateSource) ||
  behind.updateSource === loopback ||
  behind.updateSource === 'lo';

/** The statement at the far end of a cable that knows this end by an address behind it; null = there is none. */
function behindHere(
  here: Speaker,
  peer: EffectivePeer,
  port: string | null,
  far: Speaker,
  end: CableEnd,
  { views, plan }: Ways,
): FarEnd | null {
  if (here.vrf !== undefined) return null;
  let unsure: FarEnd | null = null;
  for (const loopback of loopbacksOf(here.view, peer.name)) {
    const farPeer = far.router.peer(loopback);
    if (!farPeer) continue;
    const way = wayTo(far, farPeer, views, plan);
    if ('why' in way) continue;
    if (way.port === null)
      unsure ??= { why: `over which routes ${far.host} speaks to ${loopback} is not computed`, unsure: true };
    if (way.behind === undefined || way.port !== end.port) continue;
    if (here.view.portByAddress.get(way.behind) !== port) continue;
    return meets(farPeer, peer, [peer.name, end.port], loopback)
      ? { far, peer: farPeer, port: end.port }
      : { why: CALLS_FROM_ELSEWHERE };
  }
  return unsure;
}

/** The statement at the far end of routes: of whoever has the address. */
export function acrossRoutes(
  here: Speaker,
  peer: EffectivePeer,
  farHost: string,
  view: SwitchView,
  reaches: Reaches,
): FarEnd {
  const { host } = here;
  const far = speakerOf(farHost, view, undefined)!;
  const own = loopbacksOf(here.view, peer.name);
  const farPeer = own.map((a) => far.router.peer(a)).find((p) => p !== undefined);
  if (!farPeer) return { why: `${farHost} has no neighbour statement for a loopback of ${host}` };
  const internal = peer.remoteAs === 'internal' || peer.remoteAs === here.router.speaker.asn;
  const near = [peer, farPeer].some((p) => p.multihop === undefined && p.ttlSecurity === undefined);
  if (!internal && near) return { why: 'eBGP over routes needs ebgp-multihop at both ends' };
  if (!callsFrom(here.view, peer, farPeer.name) && !callsFrom(view, farPeer, peer.name))
    return { why: CALLS_FROM_ELSEWHERE };
  if (!reaches(host, peer.name)) return { why: `no route to ${peer.name} of ${farHost}` };
  return reaches(farHost, farPeer.name)
    ? { far, peer: farPeer, port: null }
    : { why: `${farHost} has no route back to ${farPeer.name}` };
}
