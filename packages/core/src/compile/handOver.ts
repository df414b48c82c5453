import type { BgpPeer, PeerPolicy } from '../config/bgp.ts';
import type { PrefixList } from '../config/policy.ts';
import type { SwitchConfig } from '../config/switchConfig.ts';
import { neighbourLists } from '../config/neighbours.ts';
import { listFrom, listTo } from '../config/seatNeighbours.ts';
import { linux } from '../dialects/linux/linux.ts';
import { outsideKey, type FabricIntent } from '../intent/intent.ts';
import { hostPart } from '../numbers/ipv4.ts';
import type { Values } from '../pools/drawValues.ts';
import { subnetKey } from '../pools/demands.ts';
import type { CompiledFabric } from './compileFabric.ts';

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
  return fabric.outside.switches.map(({ host, config }) => {
    const ports = new Map(config.ports.map((p) => [p.name, p]));
    const cables = fabric.outside.cables.filter((c) => c.b.host === host);
    const said = cables.flatMap(({ a, b }) => {
      const link = intent.outside.find((o) => o.system === host && o.farPort === b.port)!;
      const n = intent.neighbours.find((x) => outsideKey(x) === outsideKey(link))!;
      return [{ n, a, port: ports.get(b.port)! }];
    });
    const lists = new Map<string, PrefixList>();
    const policies = said.map(({ n, a }): PeerPolicy => {
      const subnets = intent.networks.flatMap((w) => (w.vrf === n.vrf ? (values.get(subnetKey(w.name)) ?? []) : []));
      // What we take is what it tells, and the other way round; two leaves may have ports of one name.
      const named = { [listFrom(n)]: `TO-${a.host}-${n.port}`, [listTo(n)]: `FROM-${a.host}-${n.port}` };
      for (const list of neighbourLists([{ ...n, subnets }]))
        lists.set(named[list.name]!, { ...list, name: named[list.name]! });
      return {
        peer: hostPart(n.address),
        prefixListIn: named[listTo(n)]!,
        prefixListOut: named[listFrom(n)]!,
        ...(n.takes.length === 0 ? { defaultOriginate: true } : {}),
      };
    });
    const bgp = config.bgp!;
    const peers = bgp.peers.map(({ password: _, ...peer }): BgpPeer => peer);
    const other: SwitchConfig = {
      ...config,
      ports: [],
      prefixLists: [...lists.values()],
      bgp: { ...bgp, peers, ipv4: { active: [], ownAsAllowed: {}, policies } },
    };
    const { staticRoutes: _, ...told } = other;
    const body = linux.render(told).files['frr.conf']!.replace(HEAD, '');
    const top = said.map(
      ({ n, a, port }) =>
        `! ${port.name}: ${port.addresses.join(', ')}, MTU ${port.mtu}, to ${a.host} ${a.port} (tenant ${n.vrf})\n` +
        (n.password === undefined
          ? ''
          : `! neighbor ${hostPart(n.address)} password: that of the secret ${n.password}\n`),
    );
    return { system: host, text: `${top.join('')}!\n${body}` };
  });
}
