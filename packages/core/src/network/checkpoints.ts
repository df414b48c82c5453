import type { LagConfig } from '../config/interfaces.ts';
import { onceFor } from '../onceFor.ts';
import { lagDevice, sviDevice, vxlanDevice } from './devices.ts';
import { ADVERTISEMENT, SOLICITATION } from './filteredSession.ts';
import { filtered, ICMP6, tunnelPacket, type Checkpoint, type Devices, type Packet } from './filters.ts';
import type { HostPort, NetworkModel } from './networkModel.ts';
import type { SizeCheck } from './packetSize.ts';
import type { SwitchView } from './switchView.ts';
import { underlaySteps, type UnderlayHop } from './underlayWays.ts';

/** One point at which filters are asked, and about what: the packet itself, what looks for its receiver, or the tunnel around it. */
interface FilterCheck {
  readonly at: Checkpoint;
  readonly packet: Packet | 'traffic';
  /** Its end is known from what it asked before: without this packet it may be known all the same. */
  readonly known?: true;
}
export type Check = FilterCheck | SizeCheck;
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
export interface ChecksOf {
  readonly sized: boolean;
  readonly six: boolean;
  readonly answers: boolean;
}
/** The ways of packets through the filters and devices of one model. */
export class Checks {
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
    return port === null ? null : (this.model.plan.end(host, port)?.port ?? null);
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
