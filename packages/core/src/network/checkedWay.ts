import type { LagConfig } from '../config/interfaces.ts';
import { familyOfText, hostPrefix } from '../numbers/prefix.ts';
import { onceFor } from '../onceFor.ts';
import { lagDevice, sviDevice, vxlanDevice } from './devices.ts';
import {
  CALLING_PORTS,
  ICMP6,
  filtered,
  filtersAnywhere,
  tunnelPacket,
  type Checkpoint,
  type Devices,
  type Filtered,
  type Packet,
} from './filters.ts';
import { ADVERTISEMENT, SOLICITATION } from './filteredSession.ts';
import type { FlowStep, Way } from './flows.ts';
import type { HostPort, NetworkModel, ReadSwitch } from './networkModel.ts';
import { fits, type PacketSize, type SizeCheck } from './packetSize.ts';
import { endKey } from './cablePlan.ts';
import type { SwitchView } from './switchView.ts';
import { underlaySteps, type UnderlayHop } from './underlayWays.ts';

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

/** One point at which filters are asked, and about what: the packet itself, what looks for its receiver, or the tunnel around it. */
interface FilterCheck {
  readonly at: Checkpoint;
  readonly packet: Packet | 'traffic';
  /** Its end is known from what it asked before: without this packet it may be known all the same. */
  readonly known?: true;
}
type Check = FilterCheck | SizeCheck;
/** Points one after the other; of several such rows packets take any. */
type Stage = readonly (readonly Check[])[];

const ARP: Packet = { family: 'arp', states: ['untracked'] };
/** Who has an address, and who says that he does (RFC 4861 §4.3, §4.4). */
const finding = (icmpType: number): Packet => ({
  family: 'ip6',
  protocol: ICMP6,
  icmpType,
  states: ['untracked'],
});
const ASKS = finding(SOLICITATION);
const TELLS = finding(ADVERTISEMENT);

/** Does every switch let every tunnel pass, whichever way it goes? Then no way need be worked out to know. */
const tunnelsPass = onceFor((model: NetworkModel): boolean => {
  const packet = tunnelPacket(undefined, undefined);
  return model.switches.every((sw) =>
    (['prerouting', 'input', 'forward', 'output', 'postrouting'] as const).every((hook) => {
      const { trouble, unsure } = filtered(sw, packet, { host: sw.host, layer: 'routed', hook, out: null });
      return trouble === null && unsure === null;
    }),
  );
});

/** What the checks of a way are of. */
interface ChecksOf {
  readonly sized: boolean;
  readonly six: boolean;
  readonly answers: boolean;
}
/** The ways of packets through the filters and devices of one model. */
class Checks {
  readonly stages: Stage[] = [];
  /** Why it is not known what they meet. */
  unknown: string | null = null;
  private readonly model: NetworkModel;
  /** Do sizes count? */
  private readonly sized: boolean;
  /** Is it IPv6, and is it an answer? */
  private readonly six: boolean;
  private readonly answers: boolean;

  constructor(model: NetworkModel, { sized, six, answers }: ChecksOf) {
    this.model = model;
    this.sized = sized;
    this.six = six;
    this.answers = answers;
  }

  private view(host: string): SwitchView {
    return this.model.views.get(host)!;
  }
  private add(...checks: readonly Check[]): void {
    this.stages.push([checks]);
  }

  private size(host: string, does: SizeCheck['does'], devices: Devices | null): void {
    if (!this.sized) return;
    for (const device of devices?.names ?? [null]) this.add({ host, device, does });
  }

  /** A frame that a bridge takes to another port of its own. */
  bridged(host: string, from: Devices, to: Devices): void {
    this.size(host, 'hears', from);
    this.size(host, 'bridges', to);
    // Who asks is known from that; who answers is found by his answer.
    for (const what of [...this.finding(this.answers ? TELLS : ASKS), { packet: 'traffic' } as const])
      this.add(
        { ...what, at: { host, layer: 'bridged', hook: 'prerouting', in: from, out: null } },
        { ...what, at: { host, layer: 'bridged', hook: 'forward', in: from, out: to } },
        { ...what, at: { host, layer: 'bridged', hook: 'postrouting', in: from, out: to } },
      );
  }
  /**
   * What looks for addresses: of IPv4 frames of their own, which filters of packets do not see; of IPv6 packets as others are.
   * @param sure the one without which nobody is found; without the other he may be known from what he asked himself
   */
  private finding(sure: Packet): Pick<FilterCheck, 'packet' | 'known'>[] {
    return this.six ? [{ packet: sure }, { packet: sure === ASKS ? TELLS : ASKS, known: true }] : [{ packet: ARP }];
  }
  /** A frame from a port, or from a tunnel, to the switch itself; `gateway` = the interface that servers ask for there. */
  up(host: string, from: Devices, gateway?: Devices | null): void {
    this.size(host, 'hears', from);
    const found = gateway === undefined ? [] : this.finding(ASKS);
    for (const what of [...found, { packet: 'traffic' } as const])
      this.add(
        { ...what, at: { host, layer: 'bridged', hook: 'prerouting', in: from, out: null } },
        { ...what, at: { host, layer: 'bridged', hook: 'input', in: from } },
      );
    if (!this.six || !gateway) return;
    for (const what of found)
      this.add(
        ...seenAs(gateway).map((at): Check => ({ ...what, at: { host, layer: 'routed', hook: 'prerouting', ...at } })),
        { ...what, at: { host, layer: 'routed', hook: 'input', in: gateway } },
      );
  }
  /** The other way. */
  down(host: string, to: Devices, gateway?: Devices | null): void {
    this.size(host, 'bridges', to);
    const found = gateway === undefined ? [] : this.finding(TELLS);
    for (const what of [...found, { packet: 'traffic' } as const])
      this.add(
        { ...what, at: { host, layer: 'bridged', hook: 'output', out: to } },
        { ...what, at: { host, layer: 'bridged', hook: 'postrouting', out: to } },
      );
    if (!this.six || !gateway) return;
    // Of packets that a switch sends itself in a VRF two interfaces are seen, one after the other.
    const out = gateway.vrf === undefined ? gateway : null;
    for (const what of found)
      for (const hook of ['output', 'postrouting'] as const)
        this.add({ ...what, at: { host, layer: 'routed', hook, out } });
  }
  /** A packet that a switch routes. */
  routed(host: string, from: Devices | null, to: Devices | null): void {
    const ports = from?.names.filter((name) => this.view(host).portByName.has(name)) ?? [];
    if (ports.length > 0) this.size(host, 'hears', { names: ports });
    this.size(host, 'routes', to);
    this.add(...passing(host, 'traffic', from, to));
  }
  /** What is around the packet on its way to the other end of a tunnel. */
  tunnel(from: string, to: string, vtep: string | undefined, own: string | undefined): void {
    if (vtep === undefined || own === undefined || (!this.sized && tunnelsPass(this.model))) return;
    const packet = tunnelPacket(own, vtep);
    const routed = { layer: 'routed' as const };
    this.add(
      { packet, at: { ...routed, host: from, hook: 'output', out: null } },
      { packet, at: { ...routed, host: from, hook: 'postrouting', out: null } },
    );
    const steps = underlaySteps(this.model, from, to, vtep);
    if (this.sized && steps.length === 0) this.unknown ??= `over which links ${from} reaches ${vtep} is not known`;
    steps.forEach((hops, i) => {
      const before = i === 0 ? [] : steps[i - 1]!;
      if (this.sized) this.stages.push(hops.map((h) => this.link(h, i === 0 ? 'tunnels' : 'carries')));
      const through = [...new Set(hops.map((h) => h.host))].filter((h) => h !== from);
      if (through.length === 0) return;
      this.stages.push(
        through.map((host) => {
          const came = before.flatMap((h) => (h.to === host ? [this.farPort(h.host, h.port)] : []));
          const leaves = hops.flatMap((h) => (h.host === host ? [h.port] : []));
          return passing(host, packet, devicesOf(came), devicesOf(leaves));
        }),
      );
    });
    const last = steps.at(-1) ?? [];
    const came = devicesOf(last.flatMap((h) => (h.to === to ? [this.farPort(h.host, h.port)] : [])));
    this.add(
      { packet, at: { ...routed, host: to, hook: 'prerouting', ...(came ? { in: came } : {}), out: null } },
      { packet, at: { ...routed, host: to, hook: 'input', ...(came ? { in: came } : {}) } },
    );
  }
  /** What is around the packet leaves by a port, and comes in by that at the other end. */
  private link({ host, port, to }: UnderlayHop, does: 'tunnels' | 'carries'): Check[] {
    const far = this.farPort(host, port);
    return [{ host, device: port, does }, ...(far === null ? [] : [{ host: to, device: far, does: 'hears' as const }])];
  }
  private farPort(host: string, port: string | null): string | null {
    return port === null ? null : (this.model.plan.get(endKey(host, port))?.port ?? null);
  }

  /** The port of a server as its switch calls it. */
  server(h: HostPort): Devices {
    const lag: LagConfig | undefined = this.view(h.switch).lagOfPort.get(h.port);
    return { names: [lag ? lagDevice(lag) : h.port] };
  }
  /** The interface of a VLAN; null = there is none. */
  svi(host: string, vlan: number | undefined): Devices | null {
    const svi = vlan === undefined ? undefined : this.view(host).sviByVlan.get(vlan);
    return svi ? { names: [sviDevice(svi)], ...(svi.vrf === undefined ? {} : { vrf: svi.vrf }) } : null;
  }
  /** The end of a tunnel in the bridge. */
  vxlan(host: string, vni: number): Devices {
    const found = this.view(host).vxlanByVni.get(vni);
    return { names: found ? [vxlanDevice(found)] : [] };
  }
  /** Through the tunnel of a VNI, from bridge to bridge. */
  across(vni: number, from: string, to: string): void {
    const own = this.view(from).vxlanByVni.get(vni)?.localAddress;
    this.tunnel(from, to, this.view(to).vxlanByVni.get(vni)?.localAddress, own);
  }
  /** The interface of a VRF through which it is routed across the fabric. */
  l3(host: string, vni: number): Devices | null {
    return this.svi(host, this.view(host).vxlanByVni.get(vni)?.vlan);
  }
}

function passing(host: string, packet: FilterCheck['packet'], from: Devices | null, to: Devices | null): Check[] {
  const came = from ? { in: from } : {};
  const point = (hook: 'prerouting' | 'forward' | 'postrouting', rest: Partial<Checkpoint>): Check => ({
    packet,
    at: { host, layer: 'routed', hook, ...rest },
  });
  return [
    ...(from ? seenAs(from) : [{ out: null }]).map((at) => point('prerouting', at)),
    point('forward', { ...came, out: to }),
    point('postrouting', { ...came, out: to }),
  ];
}
/** As what an interface is seen that packets come in by: before a VRF takes them, they are of the interface itself. */
const seenAs = (device: Devices): Pick<Checkpoint, 'in' | 'out'>[] => [
  ...(device.vrf === undefined ? [] : [{ in: { names: device.names }, out: null }]),
  { in: device, out: null },
];
const devicesOf = (ports: readonly (string | null)[]): Devices | null =>
  ports.length === 0 || ports.includes(null) ? null : { names: ports as readonly string[] };

/** Every filter that packets meet from one server to another, and what they have to fit where their size counts. */
function checksOn(model: NetworkModel, a: HostPort, b: HostPort, way: Way, of: ChecksOf): Checks {
  const out = new Checks(model, of);
  const [from, to] = [out.server(a), out.server(b)];
  const far = a.switch !== b.switch;
  if (way.bridged && !far) out.bridged(a.switch, from, to);
  else if (way.bridged && way.vni !== null && model.trunks.length === 0) {
    out.bridged(a.switch, from, out.vxlan(a.switch, way.vni));
    out.across(way.vni, a.switch, b.switch);
    out.bridged(b.switch, out.vxlan(b.switch, way.vni), to);
  } else if (way.bridged) out.unknown = 'which bridges it goes through is spanning tree’s choice';
  else {
    out.up(a.switch, from, out.svi(a.switch, a.vlan));
    if (way.steps) overTables(out, model, a, b, way.steps);
    else overVrf(out, a, b, way.vni);
    out.down(b.switch, to, out.svi(b.switch, b.vlan));
  }
  return out;
}

/** Routed within a VRF: at its own switch, or there and at the far one. */
function overVrf(out: Checks, a: HostPort, b: HostPort, vni: number | null): void {
  const own = out.svi(a.switch, a.vlan);
  if (a.switch === b.switch) {
    out.routed(a.switch, own, out.svi(b.switch, b.vlan));
    return;
  }
  const l3 = vni === null ? null : out.l3(a.switch, vni);
  const there = vni === null ? null : out.l3(b.switch, vni);
  if (vni === null || !l3 || !there) {
    out.routed(a.switch, own, null);
    out.unknown = 'over which bridges it goes then is not known';
    return;
  }
  out.routed(a.switch, own, l3);
  out.down(a.switch, out.vxlan(a.switch, vni));
  out.across(vni, a.switch, b.switch);
  // In the VNI of one network it is bridged there; in that of a VRF it is routed once more.
  if (out.svi(b.switch, b.vlan)?.names[0] === there.names[0]) {
    out.bridged(b.switch, out.vxlan(b.switch, vni), out.server(b));
    return;
  }
  out.up(b.switch, out.vxlan(b.switch, vni));
  out.routed(b.switch, there, out.svi(b.switch, b.vlan));
}

/** From table to table, by the first way of each. */
function overTables(out: Checks, model: NetworkModel, a: HostPort, b: HostPort, steps: readonly FlowStep[]): void {
  let came = out.svi(a.switch, a.vlan);
  steps.forEach(({ node, route }, i) => {
    const { host, vrf } = node;
    const next = steps[i + 1]?.node;
    const ways = 'ways' in route ? route.ways : [];
    if (ways.length > 1 || ('written' in route && route.written.length > 1)) out.unknown ??= 'the load is shared';
    if (!next) {
      const svi = route.kind === 'connected' ? route.subnets.find((s) => s.svi)?.svi : undefined;
      out.routed(host, came, svi ? out.svi(host, svi.vlan) : null);
      const vni = svi && model.views.get(host)!.vniOfVlan.get(svi.vlan);
      if (host === b.switch) return;
      if (vni === undefined) {
        out.unknown ??= 'over which bridges it goes then is not known';
        return;
      }
      out.down(host, out.vxlan(host, vni), null);
      out.across(vni, host, b.switch);
      return;
    }
    const vni = vrf === undefined ? undefined : model.views.get(host)!.vrfs.get(vrf)?.l3Vni;
    const session = ways[0]?.session;
    if (session === null && vni !== undefined) {
      out.routed(host, came, out.l3(host, vni));
      out.down(host, out.vxlan(host, vni));
      out.across(vni, host, next.host);
      out.up(next.host, out.vxlan(next.host, vni));
      came = out.l3(next.host, vni);
      return;
    }
    // Over a port or the interface of a VLAN: the cable says which.
    const port = session?.port ?? null;
    const routedPort = port !== null && model.views.get(host)!.portByName.get(port)?.bridging === undefined;
    const end = port === null ? undefined : model.plan.get(endKey(host, port));
    const inVrf = (of: string | undefined): Partial<Devices> => (of === undefined ? {} : { vrf: of });
    out.routed(host, came, routedPort ? { names: [port], ...inVrf(vrf) } : null);
    const farPort = end && model.views.get(end.host)?.portByName.get(end.port);
    came = routedPort && farPort && !farPort.bridging ? { names: [farPort.name], ...inVrf(next.vrf) } : null;
    if (!routedPort) out.unknown ??= 'over which port it goes there is not known';
  });
}

/** What becomes of packets on a way, and who routes them, so that it knows the flow. */
export interface CheckedWay extends Filtered {
  readonly routers: ReadonlySet<string>;
}
/**
 * Takes packets through every filter on their way, and, where their size is said, through every device.
 * @param known switches that routed what this answers: they know the flow; undefined = it is the first of its flow
 */
export function checkedWay(
  model: NetworkModel,
  a: HostPort,
  b: HostPort,
  way: Way,
  packet: Packet,
  size: PacketSize | null,
  known?: ReadonlySet<string>,
): CheckedWay {
  const routers = new Set<string>();
  const filtering = filtersAnywhere(model);
  if (size === null && !filtering) return { trouble: null, unsure: null, routers };
  const of = { sized: size !== null, six: packet.family === 'ip6', answers: known !== undefined };
  const { stages, unknown } = checksOn(model, a, b, way, of);
  let unsure = unknown;
  const judge = (check: Check): Filtered => {
    if (!('at' in check)) return fits(model.views.get(check.host)!.config, check, size!);
    const { at, packet: what } = check;
    const sw: ReadSwitch = model.switches[model.index.get(at.host)!]!;
    if (what !== 'traffic') {
      const found = filtered(sw, what, at);
      return check.known && found.trouble
        ? { trouble: null, unsure: found.unsure ?? `${found.trouble.words}, but its end may be known already` }
        : found;
    }
    if (at.layer === 'routed') routers.add(at.host);
    const states: Packet['states'] =
      known === undefined ? packet.states : known.has(at.host) ? ['established'] : ['new', 'invalid'];
    return filtered(sw, { ...packet, states }, at);
  };
  const along = (row: readonly Check[]): Filtered => {
    let doubt: string | null = null;
    for (const check of row) {
      const { trouble, unsure: why } = judge(check);
      doubt ??= why;
      if (trouble) return { trouble, unsure: doubt };
    }
    return { trouble: null, unsure: doubt };
  };
  /** What may stop it, where its size is asked about: something further on may stop it for certain. */
  let perhaps: CheckedWay | null = null;
  for (const stage of stages) {
    const rows = stage.map(along);
    const stopped = rows.find((r) => r.trouble !== null);
    unsure ??= rows.find((r) => r.unsure !== null)?.unsure ?? null;
    if (!stopped) continue;
    const everyWay = rows.every((r) => r.trouble !== null);
    if (!everyWay) unsure ??= `the load is shared, and on one of the ways ${stopped.trouble!.words}`;
    if (size === null) return { trouble: stopped.trouble, unsure, routers };
    if (everyWay && rows.every((r) => r.unsure === null)) return { trouble: stopped.trouble, unsure: unknown, routers };
    perhaps ??= { trouble: stopped.trouble, unsure, routers };
  }
  return perhaps ?? { trouble: null, unsure, routers };
}
