import type { BgpPeer, PeerPolicy, UnicastFamily } from '../config/bgp.ts';
import type { SwitchConfig } from '../config/switchConfig.ts';
import { neighbourLists, type ListNames } from '../config/neighbours.ts';
import { portTo, type ToldNeighbour } from '../config/seatNeighbours.ts';
import { vlanPort } from '../config/vlanOfPort.ts';
import { driveWords } from '../hardware/drive.ts';
import { linux } from '../dialects/linux/linux.ts';
import type { FabricIntent } from '../intent/intent.ts';
import { familyWith } from '../intent/neighbourPlace.ts';
import type { IpFamily } from '../numbers/address.ts';
import { hostPart } from '../numbers/ipv4.ts';
import { groupBy } from '../numbers/order.ts';
import type { Values } from '../pools/drawValues.ts';
import type { CompiledFabric } from './compileFabric.ts';
import { speakingIn } from './speaking.ts';

/** What a router outside has to be told to speak with a fabric. */
export interface HandedOver {
  readonly system: string;
  /** In the words of FRR; secrets are named, not said. */
  readonly text: string;
}

/** Lines that are about the daemons of a switch of ours. */
const HEAD = /^(frr (defaults|version) .*|hostname .*|service .*|log .*|!)\n/gm;

/**
 * The lines of the other side of every session with a router outside, to be handed over to who runs it: its addresses, its
 * neighbours, and policy both ways (RFC 8212): it tells what is taken, and takes what it is told.
 */
export function handOver(intent: FabricIntent, fabric: CompiledFabric, values: Values): HandedOver[] {
  const configs = new Map(fabric.switches.map((s) => [s.seat.id, s.config]));
  const bySystem = groupBy(speakingIn(intent, fabric.layout, configs, values), (s) => s.system);
  return fabric.outside.switches.map(({ host, config }) => {
    const ports = new Map(config.ports.map((p) => [p.name, p]));
    const said = (bySystem.get(host) ?? []).map((s) => ({ ...s, told: { ...s.neighbour, subnets: s.subnets } }));
    const speaks = said.map((s) => s.told);
    // What we take is what it tells, and the other way round; two leaves may have ports of one name.
    const ours = new Map<ToldNeighbour, string>(said.map((s) => [s.told, s.host]));
    const names: ListNames = {
      from: (n) => `TO-${ours.get(n)}-${portTo(n)}`,
      to: (n) => `FROM-${ours.get(n)}-${portTo(n)}`,
    };
    const policies = (family: IpFamily): PeerPolicy[] =>
      speaks
        .filter((n) => familyWith(n) === family)
        .map((n) => ({
          peer: hostPart(n.address),
          prefixListIn: names.to(n),
          prefixListOut: names.from(n),
          ...(n.takes.length === 0 ? { defaultOriginate: true } : {}),
        }));
    const { ipv6, ...bgp } = config.bgp!;
    const told = ({ active, inactive = [] }: UnicastFamily, family: IpFamily): UnicastFamily => ({
      active,
      ...(inactive.length > 0 ? { inactive } : {}),
      ownAsAllowed: {},
      policies: policies(family),
    });
    const { staticRoutes: _, ...other } = config;
    const lines: SwitchConfig = {
      ...other,
      ports: [],
      prefixLists: neighbourLists(speaks, 4, names),
      ...(ipv6 ? { ipv6PrefixLists: neighbourLists(speaks, 6, names) } : {}),
      bgp: {
        ...bgp,
        peers: bgp.peers.map(({ password: __, ...peer }): BgpPeer => peer),
        ipv4: told(bgp.ipv4, 4),
        ...(ipv6 ? { ipv6: told(ipv6, 6) } : {}),
      },
    };
    const body = linux.render(lines).files['frr.conf']!.replace(HEAD, '');
    const top = said.map(({ told: n, farPort, host: at, cables, isLag, driven }) => {
      const { name, addresses, ipv6Addresses = [], mtu } = ports.get(vlanPort(farPort, n.vlan))!;
      const lag = isLag ? `LAG (LACP) of ${cables.map((c) => c.farPort).join(', ')}` : [];
      return (
        `! ${name}: ${[...addresses, ...ipv6Addresses].join(', ')}, ${[lag, `MTU ${mtu}`, driveWords(driven)].flat().join(', ')}, to ${at} ${portTo(n)} (tenant ${n.vrf})\n` +
        (n.loopback === undefined ? '' : `! ${n.loopback} is its own, behind the link\n`) +
        (n.password === undefined
          ? ''
          : `! neighbor ${hostPart(n.address)} password: that of the secret ${n.password}\n`)
      );
    });
    // Of both families it is said once.
    return { system: host, text: `${[...new Set(top)].join('')}!\n${body}` };
  });
}
