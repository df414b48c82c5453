import { contains, hostPart, parseCidr, parseIpv4, prefixOf } from '../numbers/ipv4.ts';
import { lagWords, type SviConfig } from '../config/interfaces.ts';
import { gatewayOfSvi } from './interfaces.ts';
import { whyUnheard, type HostPort, type Leg, type NetworkModel } from './networkModel.ts';
import type { SwitchView } from './switchView.ts';
import { reachDoubt } from './uncertain.ts';
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
export function portTrouble(view: SwitchView, h: Leg): string | null {
  if (view.portByName.get(h.port)?.shut) return `port ${h.port} of ${h.switch} is shut`;
  const lag = view.lagOfPort.get(h.port);
  const port = lag ?? view.portByName.get(h.port);
  if (!port) return `port ${h.port} of ${h.switch} is not configured`;
  const b = port.bridging;
  if (!b || (b.untagged !== h.vlan && !b.tagged.includes(h.vlan)))
    return `port ${h.port} of ${h.switch} does not carry VLAN ${h.vlan}`;
  if (!(lag ? view.bridge.hasLag(lag) : view.bridge.hasPort(h.port)))
    return `${lag ? lagWords(lag) : h.port} of ${h.switch} is not in the bridge`;
  if (!view.bridge.carries(h.vlan)) return `the bridge of ${h.switch} does not carry VLAN ${h.vlan}`;
  return null;
}

/** Why the host does not find its gateway on its switch; null = it does, or has none. */
export function gatewayTrouble(view: SwitchView, h: Leg): string | null {
  if (h.gateway === '') return null;
  const svi = view.sviByVlan.get(h.vlan);
  const gateway = svi && gatewayOfSvi(svi);
  return gateway && hostPart(gateway) === h.gateway
    ? null
    : `${h.switch} does not have gateway ${h.gateway} on VLAN ${h.vlan}`;
}

const sameSubnet = (a: HostPort, b: HostPort, svi: SviConfig | undefined): boolean => {
  // Without a gateway hosts have nobody to send to but those on their own network.
  const gateway = svi && gatewayOfSvi(svi);
  const cidr = parseCidr(
    a.length === undefined ? (gateway ?? `${a.gateway === '' ? a.ip : a.gateway}/24`) : `${a.ip}/${a.length}`,
  );
  const other = parseIpv4(b.ip);
  return cidr !== null && other !== null && contains(prefixOf(cidr), { address: other, length: 32 });
};

/** Does a frame on VLAN `vlan` at `from` come out on the same VNI at `to`? Null = yes. */
function bridged(model: NetworkModel, from: string, to: string, vlan: number, toVlan: number): string | null {
  if (from === to) return vlan === toVlan ? null : `VLAN ${vlan} and VLAN ${toVlan} of ${from} are not one network`;
  if (model.trunks.length > 0 && joinedOver(model.trunks, model.views, from, vlan).has(vlanAt(to, toVlan))) return null;
  const here = model.views.get(from)!;
  const there = model.views.get(to)!;
  const vni = here.vniOfVlan.get(vlan);
  if (vni === undefined)
    return model.trunks.length > 0
      ? `VLAN ${vlan} of ${from} is not joined to VLAN ${toVlan} of ${to}`
      : `VLAN ${vlan} has no VNI on ${from}`;
  if (there.vniOfVlan.get(toVlan) !== vni) return `VLAN ${toVlan} of ${to} is not VNI ${vni}`;
  const mine = here.l2Vnis.get(vni);
  const theirs = there.l2Vnis.get(vni);
  if (!mine || !theirs) return `VNI ${vni} is not announced on ${mine ? to : from}`;
  return whyUnheard(model, from, to, theirs.exports, mine.imports, theirs.vxlan.localAddress);
}

/** One direction of a packet from host a to host b; null = it arrives, else where it stops. */
function oneWay(model: NetworkModel, a: HostPort, b: HostPort): string | null {
  const va = model.views.get(a.switch);
  const vb = model.views.get(b.switch);
  if (!va || !vb) return `${va ? b.switch : a.switch} was not read`;
  const stuck = portTrouble(va, a) ?? portTrouble(vb, b);
  if (stuck !== null) return stuck;
  const sviA = va.sviByVlan.get(a.vlan);
  if (sameSubnet(a, b, sviA)) return bridged(model, a.switch, b.switch, a.vlan, b.vlan);
  // Routed: the host sends to its gateway, which must be on its own switch (anycast).
  const lost = gatewayTrouble(va, a);
  if (lost !== null || !sviA) return lost ?? `${a.host} has no gateway`;
  const target = parseIpv4(b.ip);
  if (target === null) return `${b.ip} is no address`;
  const vrfName = sviA.vrf ?? '';
  // A subnet that is on this switch too is reached over its own VLAN.
  const localSvi = va.config.svis.find((s) => {
    const g = gatewayOfSvi(s);
    const cidr = g === undefined ? null : parseCidr(g);
    return (s.vrf ?? '') === vrfName && cidr !== null && contains(prefixOf(cidr), { address: target, length: 32 });
  });
  if (a.switch === b.switch)
    return localSvi?.vlan === b.vlan ? null : `${b.ip} is not in VRF ${vrfName} on ${a.switch}`;
  const sviB = vb.sviByVlan.get(b.vlan);
  const gatewayB = sviB && gatewayOfSvi(sviB);
  const cidrB = gatewayB ? parseCidr(gatewayB) : null;
  const here = va.vrfs.get(vrfName);
  const there = sviB?.vrf === undefined ? undefined : vb.vrfs.get(sviB.vrf);
  let routed: string | null;
  if (!here) routed = `VLAN ${a.vlan} of ${a.switch} is in no VRF`;
  else if (!sviB || !cidrB || !contains(prefixOf(cidrB), { address: target, length: 32 }))
    routed = `${b.switch} has no gateway for ${b.ip}`;
  else if (!there) routed = `VLAN ${b.vlan} of ${b.switch} is in no VRF`;
  else if (here.broken !== null) routed = `${a.switch}: ${here.broken}`;
  else if (there.broken !== null) routed = `${b.switch}: ${there.broken}`;
  else if (here.l3Vni !== there.l3Vni)
    routed = `L3 VNIs differ: ${a.switch} has ${here.l3Vni}, ${b.switch} has ${there.l3Vni}`;
  else {
    routed = whyUnheard(model, a.switch, b.switch, there.exports, here.imports, there.vtep);
    const talk = vb.config.bgp?.vrfs.find((v) => v.vrf === there.name);
    // Host routes (type 2) exist where the host's VNI is announced; prefix routes (type 5) where the VRF advertises.
    if (routed === null && !vb.vniOfVlan.has(b.vlan) && !(talk?.advertiseIpv4 && talk.connected))
      routed = `${b.switch} announces neither ${b.ip} nor its subnet`;
  }
  if (routed === null) return null;
  return localSvi ? bridged(model, a.switch, b.switch, localSvi.vlan, b.vlan) : routed;
}

/** Reach between two hosts, both ways: a packet there and an answer back. */
export function hostReach(model: NetworkModel, a: HostPort, b: HostPort): Reach {
  const there = oneWay(model, a, b);
  const back = there === null ? oneWay(model, b, a) : null;
  const vlanOf = model.views.get(a.switch)?.sviByVlan.get(a.vlan);
  return {
    from: a.host,
    to: b.host,
    ok: there === null && back === null,
    unsure: reachDoubt(model, a, b),
    how: there ?? (back === null ? (sameSubnet(a, b, vlanOf) ? 'bridged' : 'routed') : `the answer stops: ${back}`),
  };
}
