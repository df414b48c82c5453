import { unicastOf } from '../config/bgp.ts';
import { advertises } from './spokenFamily.ts';
import type { IpFamily } from '../numbers/address.ts';
import { hostPart, type Cidr } from '../numbers/ipv4.ts';
import { familyOfText, holdsAny, hostPrefix, networkOfAny, parseAnyCidr, type AnyPrefix } from '../numbers/prefix.ts';
import { subnetsIn } from './localRoutes.ts';
import { lagKey, lagWords, sviKey, type SviConfig } from '../config/interfaces.ts';
import { checkedWay, type CheckedWay } from './checkedWay.ts';
import { packetOf, PING, type Traffic } from './traffic.ts';
import { follow, type Way } from './flows.ts';
import { gatewaysOfSvi } from './interfaces.ts';
import type { Place } from '../config/switchConfig.ts';
import { vniEnd, vrfEnd, whyUnheard, type HostPort, type Leg, type NetworkModel } from './networkModel.ts';
import type { SwitchView } from './switchView.ts';
import { tenantsOf } from './tenants.ts';
import { reachDoubt } from './uncertain.ts';
import type { Trouble } from './trouble.ts';
import type { CarriedVrf } from './vrfs.ts';
import { joinedOver, vlanAt } from './trunks.ts';

/** May one host send to another, and how; a refusal names the place where it stops. */
export interface Reach {
  readonly from: string;
  readonly to: string;
  readonly ok: boolean;
  readonly how: string;
  /** Why it may be otherwise: what that hangs on; null = it is certain. */
  readonly unsure: string | null;
}

/** Why a frame of the host does not get onto its VLAN; null = it does. */
export function portTrouble(view: SwitchView, h: Leg): Trouble | null {
  const at = (configPlace: Place, words: string): Trouble => ({ words, host: h.switch, configPlace });
  if (view.portByName.get(h.port)?.shut) return at(['ports', h.port, 'shut'], `port ${h.port} of ${h.switch} is shut`);
  const lag = view.lagOfPort.get(h.port);
  const port = lag ?? view.portByName.get(h.port);
  if (!port) return at(['ports', h.port], `port ${h.port} of ${h.switch} is not configured`);
  const b = port.bridging;
  if (!b || (b.untagged !== h.vlan && !b.tagged.includes(h.vlan)))
    return at(
      lag ? ['lags', lagKey(lag), 'bridging'] : ['ports', h.port, 'bridging'],
      `port ${h.port} of ${h.switch} does not carry VLAN ${h.vlan}`,
    );
  if (!(lag ? view.bridge.hasLag(lag) : view.bridge.hasPort(h.port)))
    return at(['bridge', 'ports'], `${lag ? lagWords(lag) : h.port} of ${h.switch} is not in the bridge`);
  if (!view.bridge.carries(h.vlan))
    return at(['bridge', 'vlans'], `the bridge of ${h.switch} does not carry VLAN ${h.vlan}`);
  return null;
}

/** Why the host does not find its gateway on its switch; null = it does, or has none. */
export function gatewayTrouble(view: SwitchView, h: Leg): Trouble | null {
  if (h.gateway === '') return null;
  const svi = view.sviByVlan.get(h.vlan);
  if (svi && gatewaysOf(view, svi, familyOfText(h.gateway)).some((g) => hostPart(g) === h.gateway)) return null;
  return {
    words: `${h.switch} does not have gateway ${h.gateway} on VLAN ${h.vlan}`,
    host: h.switch,
    configPlace: svi ? ['svis', sviKey(svi)] : ['svis'],
  };
}

/** Addresses of a family, with their length, that servers in a VLAN may have as their gateway; the usual one first. */
function gatewaysOf({ config }: SwitchView, svi: SviConfig, family: IpFamily): readonly Cidr[] {
  if (family === 4) return gatewaysOfSvi(svi);
  return subnetsIn(config, svi.vrf, 6).flatMap((c) => (c.svi === svi ? [c.address] : []));
}
/** Lengths of subnets of which nothing is said. */
const USUAL_LENGTH: Readonly<Record<IpFamily, number>> = { 4: 24, 6: 64 };

const sameSubnet = (a: HostPort, b: HostPort, view: SwitchView, svi: SviConfig | undefined): boolean => {
  const family = familyOfText(a.ip);
  // Without a gateway hosts have nobody to send to but those on their own network.
  const gateways = svi ? gatewaysOf(view, svi, family) : [];
  const own = gateways.length > 1 ? hostPrefix(a.ip) : null;
  const gateway = (own && gateways.find((g) => isAround(g, own))) ?? gateways[0];
  const cidr = parseAnyCidr(
    a.length === undefined
      ? (gateway ?? `${a.gateway === '' ? a.ip : a.gateway}/${USUAL_LENGTH[family]}`)
      : `${a.ip}/${a.length}`,
  );
  const other = hostPrefix(b.ip);
  return cidr !== null && other !== null && holdsAny(networkOfAny(cidr), other);
};

/** Does a frame on VLAN `vlan` at `from` come out on the same VNI at `to`? Null = yes. */
function bridged(model: NetworkModel, from: string, to: string, vlan: number, toVlan: number): Trouble | null {
  const at = (host: string, configPlace: Place, words: string): Trouble => ({ words, host, configPlace });
  if (from === to)
    return vlan === toVlan
      ? null
      : at(from, ['bridge', 'vlans'], `VLAN ${vlan} and VLAN ${toVlan} of ${from} are not one network`);
  if (model.trunks.length > 0 && joinedOver(model.trunks, model.views, from, vlan).has(vlanAt(to, toVlan))) return null;
  const here = model.views.get(from)!;
  const there = model.views.get(to)!;
  const vni = here.vniOfVlan.get(vlan);
  if (vni === undefined)
    return model.trunks.length > 0
      ? at(from, ['bridge', 'vlans'], `VLAN ${vlan} of ${from} is not joined to VLAN ${toVlan} of ${to}`)
      : at(from, ['vxlans'], `VLAN ${vlan} has no VNI on ${from}`);
  if (there.vniOfVlan.get(toVlan) !== vni) return at(to, ['vxlans'], `VLAN ${toVlan} of ${to} is not VNI ${vni}`);
  const mine = here.l2Vnis.get(vni);
  const theirs = there.l2Vnis.get(vni);
  if (!mine || !theirs)
    return at(
      mine ? to : from,
      ['bgp', 'evpn', 'advertiseAllVni'],
      `VNI ${vni} is not announced on ${mine ? to : from}`,
    );
  return whyUnheard(model, vniEnd(from, vni, mine), vniEnd(to, vni, theirs));
}

/** Does the subnet of an address of a switch hold another? */
function isAround(address: Cidr, target: AnyPrefix): boolean {
  const cidr = parseAnyCidr(address);
  return cidr !== null && holdsAny(networkOfAny(cidr), target);
}

/** One direction of a packet from host a to host b. */
export function oneWay(model: NetworkModel, a: HostPort, b: HostPort): Way {
  const va = model.views.get(a.switch);
  const vb = model.views.get(b.switch);
  const unread = va ? b.switch : a.switch;
  if (!va || !vb) return { bridged: false, vni: null, trouble: { words: `${unread} was not read`, host: unread } };
  const sviA = va.sviByVlan.get(a.vlan);
  const family = familyOfText(a.ip);
  if (familyOfText(b.ip) !== family)
    return {
      bridged: false,
      vni: null,
      trouble: { words: `${a.ip} and ${b.ip} are of different families`, host: a.switch },
    };
  const sameNetwork = sameSubnet(a, b, va, sviA);
  const far = a.switch !== b.switch;
  const vniOf = (vlan: number): number | null => (far ? (va.vniOfVlan.get(vlan) ?? null) : null);
  const by = (vni: number | null, trouble: Trouble | null): Way => ({ bridged: sameNetwork, vni, trouble });
  const stuck = portTrouble(va, a) ?? portTrouble(vb, b);
  if (stuck) return by(null, stuck);
  if (sameNetwork) return by(vniOf(a.vlan), bridged(model, a.switch, b.switch, a.vlan, b.vlan));
  // Routed: the host sends to its gateway, which must be on its own switch (anycast).
  const at = (host: string, configPlace: Place, words: string): Trouble => ({ words, host, configPlace });
  const lost = gatewayTrouble(va, a);
  if (lost || !sviA) return by(null, lost ?? at(a.switch, ['svis'], `${a.host} has no gateway`));
  const target = hostPrefix(b.ip);
  if (target === null) return by(null, { words: `${b.ip} is no address`, host: b.switch });
  const followed = (): Way => {
    const deliver = (host: string, vlan: number): Trouble | null => bridged(model, host, b.switch, vlan, b.vlan);
    const { vni, trouble, unsure, steps } = follow(model, { host: a.switch, vrf: sviA.vrf }, b.ip, deliver);
    return { ...by(vni, trouble), unsure, steps };
  };
  const group = tenantsOf(model, family).groupOf(a.switch, sviA.vrf);
  if (group?.talks) return followed();
  const vrfName = sviA.vrf ?? '';
  // A subnet that is on this switch too is reached over its own VLAN.
  const localSvi = va.config.svis.find(
    (s) => (s.vrf ?? '') === vrfName && gatewaysOf(va, s, family).some((g) => isAround(g, target)),
  );
  if (!far)
    return by(
      null,
      localSvi?.vlan === b.vlan ? null : at(a.switch, ['svis'], `${b.ip} is not in VRF ${vrfName} on ${a.switch}`),
    );
  const here = va.vrfs.get(vrfName);
  const routed = routedTrouble(model, a, b, target, here);
  if (routed === null) return by(here?.l3Vni ?? null, null);
  if (localSvi) return by(vniOf(localSvi.vlan), bridged(model, a.switch, b.switch, localSvi.vlan, b.vlan));
  // Not from switch to switch; by another that has the subnet it may still come there.
  const found = group ? followed() : null;
  // Who is in no VRF is no part of the tenant: where its table stops counts.
  const outside = vb.sviByVlan.get(b.vlan)?.vrf === undefined;
  return found && (found.trouble === null || outside) ? found : by(here?.l3Vni ?? null, routed);
}

/** Why the switch of a routes nothing to b, which sits at another. */
function routedTrouble(
  model: NetworkModel,
  a: HostPort,
  b: HostPort,
  target: AnyPrefix,
  here: CarriedVrf | undefined,
): Trouble | null {
  const at = (host: string, configPlace: Place, words: string): Trouble => ({ words, host, configPlace });
  const vb = model.views.get(b.switch)!;
  const sviB = vb.sviByVlan.get(b.vlan);
  const family = familyOfText(b.ip);
  const hasSubnet = sviB !== undefined && gatewaysOf(vb, sviB, family).some((g) => isAround(g, target));
  const there = sviB?.vrf === undefined ? undefined : vb.vrfs.get(sviB.vrf);
  const sviOf = (host: string, vlan: number): Place => {
    const svi = model.views.get(host)!.sviByVlan.get(vlan);
    return svi ? ['svis', sviKey(svi)] : ['svis'];
  };
  if (!here) return at(a.switch, sviOf(a.switch, a.vlan), `VLAN ${a.vlan} of ${a.switch} is in no VRF`);
  if (!sviB || !hasSubnet) return at(b.switch, sviOf(b.switch, b.vlan), `${b.switch} has no gateway for ${b.ip}`);
  if (!there) return at(b.switch, sviOf(b.switch, b.vlan), `VLAN ${b.vlan} of ${b.switch} is in no VRF`);
  if (here.broken !== null) return at(a.switch, ['vrfs', here.name], `${a.switch}: ${here.broken}`);
  if (there.broken !== null) return at(b.switch, ['vrfs', there.name], `${b.switch}: ${there.broken}`);
  if (here.l3Vni !== there.l3Vni && here.name !== there.name)
    return at(b.switch, sviOf(b.switch, b.vlan), `${a.host} is in VRF ${here.name}, ${b.host} in VRF ${there.name}`);
  if (here.l3Vni !== there.l3Vni)
    return at(
      a.switch,
      ['vrfs', here.name, 'l3Vni'],
      `L3 VNIs differ: ${a.switch} has ${here.l3Vni}, ${b.switch} has ${there.l3Vni}`,
    );
  const unheard = whyUnheard(model, vrfEnd(a.switch, here), vrfEnd(b.switch, there));
  if (unheard) return unheard;
  const talk = vb.config.bgp?.vrfs.find((v) => v.vrf === there.name);
  // Host routes (type 2) exist where the host's VNI is announced; prefix routes (type 5) where the VRF advertises.
  const tells = talk !== undefined && advertises(talk, family) && unicastOf(talk, family)?.connected !== undefined;
  return vb.vniOfVlan.has(b.vlan) || tells
    ? null
    : at(b.switch, ['bgp', 'vrfs', there.name], `${b.switch} announces neither ${b.ip} nor its subnet`);
}

/** Both directions of what two servers say to one another, filters included; null = no answer is sent. */
export interface BothWays {
  readonly there: Way;
  readonly back: Way | null;
}
/** @param answers the ends between which the answer goes, where servers have several */
export function bothWays(
  model: NetworkModel,
  a: HostPort,
  b: HostPort,
  traffic: Traffic = PING,
  answers: readonly [HostPort, HostPort] = [b, a],
): BothWays {
  const through = (way: Way, f: CheckedWay): Way => ({
    ...way,
    trouble: f.trouble,
    unsure: way.unsure ?? f.unsure,
    filtered: way.filtered === true || f.asked,
  });
  const { protocol, size } = traffic;
  // An answer to a ping may be cut (Linux); what TCP and UDP send is not.
  const [asks, tells] = [true, protocol !== 'icmp'].map((whole) =>
    size === undefined ? null : { bytes: size, whole },
  );
  const way = oneWay(model, a, b);
  if (way.trouble) return { there: way, back: null };
  const asked = packetOf(a, b, traffic, false);
  const first = checkedWay(model, a, b, way, asked, asks!);
  const there = through(way, first);
  if (there.trouble) return { there, back: null };
  const [from, to] = answers;
  const answer = oneWay(model, from, to);
  if (answer.trouble) return { there, back: answer };
  const second = checkedWay(model, from, to, answer, packetOf(b, a, traffic, true), tells!, first.routers);
  const back = through(answer, second);
  if (back.trouble) return { there, back };
  // One question and its answer are all there is to a ping, and to much of UDP; a call of TCP goes on, in a flow that is known.
  if (protocol !== 'tcp') return { there, back };
  return { there: through(there, checkedWay(model, a, b, way, asked, asks!, second.routers)), back };
}

/** Are they two servers with addresses of one family? A server of both stands there twice. */
export const mayAsk = (a: HostPort, b: HostPort): boolean =>
  a !== b &&
  familyOfText(a.ip) === familyOfText(b.ip) &&
  (a.host !== b.host || a.switch !== b.switch || a.port !== b.port || a.vlan !== b.vlan);

/** What becomes of a packet there and an answer back, in words. */
export function reachBy(model: NetworkModel, a: HostPort, b: HostPort, { there, back }: BothWays): Reach {
  const stopped = back?.trouble ?? null;
  return {
    from: a.host,
    to: b.host,
    ok: there.trouble === null && stopped === null,
    unsure: reachDoubt(model, a, b) ?? there.unsure ?? back?.unsure ?? null,
    how:
      there.trouble?.words ??
      (stopped === null ? (there.bridged ? 'bridged' : 'routed') : `the answer stops: ${stopped.words}`),
  };
}
/** Reach between two servers by the switches they are listed at alone, as if they had no other. */
export const legReach = (model: NetworkModel, a: HostPort, b: HostPort, traffic: Traffic = PING): Reach =>
  reachBy(model, a, b, bothWays(model, a, b, traffic));
