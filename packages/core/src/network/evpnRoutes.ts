import { lagKey } from '../config/interfaces.ts';
import type { Esi } from '../config/pairing.ts';
import type { IpFamily } from '../numbers/address.ts';
import { familyOf, familyOfText, parseAnyPrefix } from '../numbers/prefix.ts';
import type { Cidr, Ipv4 } from '../numbers/ipv4.ts';
import type { Vni } from '../numbers/vni.ts';
import type { Place } from '../config/switchConfig.ts';
import { onceFor } from '../onceFor.ts';
import { groupBy } from '../numbers/order.ts';
import { pathsIn } from './families.ts';
import type { OwnRoute } from './bgp.ts';
import { heardHosts } from './heardHosts.ts';
import { pathsTo, type NetworkModel } from './networkModel.ts';
import { advertisePolicy } from './spokenFamily.ts';
import { halvesOf, segmentsIn, tellsSegment } from './segments.ts';
import { tenantsOf } from './tenants.ts';

/**
 * A route that a switch brings into EVPN: an Ethernet segment that it is up on, and each VNI on it (type 1, RFC 7432 §8.2 and
 * §8.4), a server once it has spoken (type 2), who floods a network (type 3, §11.1), who is at a segment (type 4, §8.1), a prefix
 * of a VRF (type 5, RFC 9136).
 */
export type EvpnRoute = {
  readonly from: string;
  /** Route distinguisher; undefined = the switch makes one up. */
  readonly rd: string | undefined;
  readonly vtep: Ipv4 | undefined;
  /** What says it. */
  readonly configPlace: Place;
} &
  /** No VNI: of the segment as a whole. */
  (
    | { readonly type: 1; readonly esi: Esi; readonly vni: Vni | null }
    | {
        readonly type: 2;
        readonly server: string;
        readonly ip: Ipv4;
        readonly vni: Vni;
        readonly vrf: string | undefined;
      }
    | { readonly type: 3; readonly vni: Vni }
    | { readonly type: 4; readonly esi: Esi }
    | { readonly type: 5; readonly prefix: Cidr; readonly vrf: string }
  );

/** What of the tables of a VRF goes into EVPN as prefixes: what the switch has of its own, or from neighbours there. */
function prefixesOf(model: NetworkModel, host: string, vrf: string): Cidr[] {
  const view = model.views.get(host)!;
  const said = view.config.bgp?.vrfs.find((v) => v.vrf === vrf);
  const carried = view.vrfs.get(vrf);
  if (!said || carried?.l3Vni === undefined || carried.broken !== null) return [];
  const router = view.router(vrf);
  const own = new Set<Cidr>();
  if (said.defaultRoute) own.add('0.0.0.0/0');
  if (said.defaultIpv6Route) own.add('::/0');
  const tell = (family: IpFamily, routes: ReadonlyMap<Cidr, OwnRoute> | undefined): void => {
    const policy = advertisePolicy(view.config, said, family);
    for (const [text, { attributes, prefix }] of routes ?? []) if (!policy || policy(attributes, prefix)) own.add(text);
    const group = tenantsOf(model, family).groupOf(host, vrf);
    if (!group?.talks) return;
    for (const [text, prefix] of group.prefixes) if (group.mayTellOn({ host, vrf }, prefix)) own.add(text);
  };
  if (said.advertiseIpv4) tell(4, router?.ownRoutes);
  if (said.advertiseIpv6) tell(6, router?.ownIpv6Routes);
  return [...own];
}

/** Servers by the switch that hears them: of a pair the half that they are listed at, where it is up. */
const hostsBySwitch = onceFor((model: NetworkModel) =>
  groupBy(
    heardHosts(model).map((h) => halvesOf(model, h)[0]!),
    (h) => h.switch,
  ),
);
const endsBySwitch = onceFor((model: NetworkModel) => groupBy([...segmentsIn(model).values()].flat(), (e) => e.host));

/** Every route that a switch brings into EVPN. */
export function evpnRoutesFrom(model: NetworkModel, host: string): EvpnRoute[] {
  const view = model.views.get(host)!;
  const { bgp } = view.config;
  if (!bgp?.evpn.advertiseAllVni) return [];
  const out: EvpnRoute[] = [];
  const rdOf = new Map(bgp.evpn.vnis.map((v) => [v.vni, v.rd]));
  const ofVni = (vni: Vni, vtep: Ipv4 | undefined) => {
    const configPlace: Place = ['bgp', 'evpn', 'vnis', String(vni)];
    return { from: host, rd: rdOf.get(vni), vtep, vni, configPlace };
  };
  for (const [vni, { vxlan }] of view.l2Vnis) out.push({ type: 3, ...ofVni(vni, vxlan.localAddress) });
  for (const h of hostsBySwitch(model).get(host) ?? []) {
    const vni = view.vniOfVlan.get(h.vlan);
    const carried = vni === undefined ? undefined : view.l2Vnis.get(vni);
    if (!carried) continue;
    const vrf = view.sviByVlan.get(h.vlan)?.vrf;
    out.push({ type: 2, ...ofVni(vni!, carried.vxlan.localAddress), server: h.host, ip: h.ip, vrf });
  }
  for (const end of endsBySwitch(model).get(host) ?? []) {
    if (!tellsSegment(end)) continue;
    const { esi, lag, vtep, vnis } = end;
    // The switch makes up what tells routes of a segment apart; those of a VNI have that of the VNI.
    const whole = { from: host, rd: undefined, vtep, esi, configPlace: ['lags', lagKey(lag), 'segment'] as Place };
    out.push({ type: 4, ...whole });
    if (vnis.length > 0) out.push({ type: 1, vni: null, ...whole });
    for (const vni of vnis) out.push({ type: 1, ...whole, rd: rdOf.get(vni), vni });
  }
  const rdOfVrf = new Map(bgp.vrfs.map((v) => [v.vrf, v.rd]));
  for (const { name, vtep } of view.vrfs.values()) {
    for (const prefix of prefixesOf(model, host, name)) {
      const said = familyOfText(prefix) === 4 ? 'advertiseIpv4' : 'advertiseIpv6';
      const configPlace: Place = ['bgp', 'vrfs', name, said];
      out.push({ type: 5, from: host, rd: rdOfVrf.get(name), vtep, prefix, vrf: name, configPlace });
    }
  }
  return out;
}

/** Who speaks EVPN with whom. */
const speakers = onceFor((model: NetworkModel): ReadonlyMap<string, readonly string[]> => {
  const up = model.sessions.filter((s) => s.up && s.evpn && s.farHost !== null);
  return new Map([...groupBy(up, (s) => s.host)].map(([host, own]) => [host, own.map((s) => s.farHost!)]));
});
const spreads = onceFor((_: NetworkModel) => new Map<string, ReadonlySet<string> | null>());
/**
 * Switches that routes of an origin come to: a switch tells on what it could use itself, so that one without a route to the
 * VTEP keeps them from those behind it (RFC 4271 §9.1.2.1). Null = none is without.
 */
function spreadOf(model: NetworkModel, origin: string, vtep: Ipv4): ReadonlySet<string> | null {
  const key = `${origin} ${vtep}`;
  const known = spreads(model).get(key);
  if (known !== undefined) return known;
  const passes = (host: string): boolean => host === origin || pathsTo(model, host, origin, vtep) > 0;
  let reached: Set<string> | null = null;
  if (!model.switches.every((s) => passes(s.host))) {
    reached = new Set([origin]);
    for (const at of reached)
      if (passes(at))
        for (const next of speakers(model).get(at) ?? []) if (arrives(model, next, origin)) reached.add(next);
  }
  spreads(model).set(key, reached);
  return reached;
}
const arrives = (model: NetworkModel, host: string, origin: string): boolean =>
  pathsIn(model.evpn, model.index.get(origin)!, model.index.get(host)!) > 0;

/** Does a switch hold a route? What leads to an address of its own it does not take (RFC 4271 §5.1.3). */
export function holds(model: NetworkModel, host: string, route: EvpnRoute): boolean {
  const { from, vtep } = route;
  if (host === from) return true;
  if (!arrives(model, host, from)) return false;
  if (route.type === 5) {
    const prefix = parseAnyPrefix(route.prefix)!;
    const group = tenantsOf(model, familyOf(prefix)).groupOf(from, route.vrf);
    if (group?.talks && !group.comesTo({ host: from, vrf: route.vrf }, prefix, host)) return false;
  }
  if (vtep === undefined) return true;
  if (model.views.get(host)!.ownAddresses.has(vtep)) return false;
  return spreadOf(model, from, vtep)?.has(host) ?? true;
}

/** A route of EVPN in a word: what it is about. */
export function evpnRouteWords(r: EvpnRoute): string {
  switch (r.type) {
    case 1:
      return r.vni === null ? `segment ${r.esi}` : `segment ${r.esi} in VNI ${r.vni}`;
    case 2:
      return `${r.server} ${r.ip} in VNI ${r.vni}`;
    case 3:
      return `VNI ${r.vni}`;
    case 4:
      return `end of segment ${r.esi}`;
    case 5:
      return `${r.prefix} of ${r.vrf}`;
  }
}
