import { evpnOf, type EvpnRouteAnswer, type NetworkModel } from '@anthemion/core';
import type { Lab } from './lab.ts';

/** A route of EVPN that the model or the daemons of a switch hold; `about` is the same in both. */
export interface EvpnSight {
  readonly about: string;
  readonly model: EvpnRouteAnswer | null;
  readonly seen: boolean;
}

/**
 * `[3]:[0]:[32]:[10.255.1.1]`, `[5]:[0]:[24]:[10.1.1.0]`, `[2]:[0]:[48]:[MAC]:[32]:[10.1.1.7]`, `[4]:[ESI]:[32]:[10.255.1.1]`: type
 * and address, with the segment; null = it has none.
 */
function aboutSeen(name: string): { readonly type: string; readonly of: string } | null {
  const parts = [...name.matchAll(/\[([^\][]*)\]/g)].map((m) => m[1]!);
  const [type, , length] = parts;
  if (type === '3') return { type, of: parts[3]! };
  if (type === '4') return { type, of: `${parts[1]} ${parts[3]}` };
  if (type === '5') return { type, of: `${parts[3]}/${length}` };
  return type === '2' && parts[5] !== undefined ? { type, of: parts[5] } : null;
}
const aboutModel = (r: EvpnRouteAnswer): string =>
  r.type === 4
    ? `${r.about.split(' ').at(-1)} ${r.vtep}`
    : r.type === 3
      ? (r.vtep ?? '')
      : r.type === 5
        ? r.about.split(' of ')[0]!
        : / (\S+) in VNI /.exec(r.about)![1]!;

/**
 * Routes of EVPN of a switch by type, as the model has them and as BGP holds them. Those of which the route distinguisher is
 * made up are left out but for segments (type 4), and servers that are not plugged in; routes of what is on a segment (type 1)
 * are none here, as this kernel tells FRR of no VLAN of a port.
 */
export async function evpnSights(lab: Lab, network: NetworkModel, host: string): Promise<EvpnSight[]> {
  const answer = evpnOf(network, host);
  if (typeof answer === 'string') return [];
  const said = new Set(
    network.switches.flatMap(({ config }) => [
      ...(config.bgp?.evpn.vnis ?? []).flatMap((v) => v.rd ?? []),
      ...(config.bgp?.vrfs ?? []).flatMap((v) => v.rd ?? []),
    ]),
  );
  const servers = new Set(network.hosts.map((h) => h.ip));
  const table = (await lab.askJson<Readonly<Record<string, unknown>>>(host, 'show bgp l2vpn evpn route')) ?? {};
  const seen = new Set<string>();
  for (const [rd, routes] of Object.entries(table)) {
    if (typeof routes !== 'object' || routes === null) continue;
    for (const name of Object.keys(routes)) {
      const about = aboutSeen(name);
      if (about?.type === '4') seen.add(`type 4 ${about.of}`);
      else if (about !== null && said.has(rd) && (about.type !== '2' || servers.has(about.of)))
        seen.add(`type ${about.type} ${rd} ${about.of}`);
    }
  }
  const known = new Map<string, EvpnRouteAnswer>(
    answer.routes.flatMap((r) => {
      if (r.type === 1 || (r.rd === null && r.type !== 4)) return [];
      return [[`type ${r.type} ${r.type === 4 ? '' : `${r.rd} `}${aboutModel(r)}`, r] as const];
    }),
  );
  return [...new Set([...known.keys(), ...seen])].map((about) => ({
    about,
    model: known.get(about) ?? null,
    seen: seen.has(about),
  }));
}
