import {
  lagName,
  sviName,
  type Bridging,
  type BridgeEntry,
  type NeighbourEntry,
  type SwitchConfig,
} from '@anthemion/core';
import { createHash } from 'node:crypto';

/** A made-up server behind a port of a stand-in switch, in one VLAN. */
interface Standing {
  readonly mac: string;
  readonly device: string;
  readonly vlan: number;
  /** Tells servers apart in their subnet: the number its name ends with. */
  readonly number: number;
}

/** The same server has the same MAC on both halves of a pair; it is locally administered. */
function macOfServer(name: string): string {
  const digest = createHash('sha256').update(name).digest('hex');
  return `06:${digest.slice(0, 10).replaceAll(/(..)(?!$)/g, '$1:')}`;
}

function* standing(config: SwitchConfig): Generator<Standing> {
  const on = function* (device: string, bridging: Bridging | undefined, description = ''): Generator<Standing> {
    const number = Number(/(?<!\d)(\d+)$/.exec(description)?.[1] ?? 1);
    for (const vlan of bridging ? [bridging.untagged ?? [], bridging.tagged].flat() : [])
      yield { mac: macOfServer(description), device, vlan, number };
  };
  for (const p of config.ports) if (p.shut !== true) yield* on(p.name, p.bridging, p.description);
  for (const l of config.lags)
    if (l.members.some((m) => config.ports.find((p) => p.name === m)?.shut !== true))
      yield* on(lagName(l), l.bridging, l.description);
}

/** What the bridge of a stand-in switch has learnt, as `bridge -j fdb show` says it. */
export const bridgeEntries = (config: SwitchConfig): BridgeEntry[] =>
  [...standing(config)].map(({ mac, device, vlan }) => ({ mac, ifname: device, vlan, flags: [], state: '' }));

/** Who has spoken to its gateways over IPv4, as `ip -j neigh show` says it. */
export function neighbourEntries(config: SwitchConfig): NeighbourEntry[] {
  return [...standing(config)].flatMap(({ mac, vlan, number }) => {
    const svi = config.svis.find((s) => s.vlan === vlan);
    const [address, length] = (svi?.addresses[0] ?? '').split('/');
    if (!svi || address === undefined || length === undefined) return [];
    const [a = 0, b = 0, c = 0, d = 0] = address.split('.').map(Number);
    // Behind the gateway, within the subnet.
    const host = d + 1 + (number % Math.max(1, 2 ** (32 - Number(length)) - 4));
    const dst = [a, b, c + Math.floor(host / 256), host % 256].join('.');
    return [{ dst, dev: sviName(svi), lladdr: mac, state: ['REACHABLE'] }];
  });
}
