import { evpnOf, type EvpnRouteAnswer, type NetworkModel } from '@anthemion/core';
import type { Lab } from './lab.ts';

/** A route of EVPN that the model or the daemons of a switch hold; `about` is the same in both. */
export interface EvpnSight {
  readonly about: string;
  readonly model: EvpnRouteAnswer | null;
  readonly seen: boolean;
}

const KINDS = { 2: 'macip', 3: 'multicast', 5: 'prefix' } as const;
/** `[3]:[0]:[32]:[10.255.1.1]`, `[5]:[0]:[24]:[10.1.1.0]`, `[2]:[0]:[48]:[MAC]:[32]:[10.1.1.7]`: whom it is about; null = no address. */
function subjectOf(name: string): string | null {
  const parts = [...name.matchAll(/\[([^\][]*)\]/g)].map((m) => m[1]!);
  const [type, , length] = parts;
  if (type === '3') return parts[3]!;
  if (type === '5') return `${parts[3]}/${length}`;
  return parts[5]?.includes('.') ? parts[5] : null;
}
const aboutModel = (r: EvpnRouteAnswer): string =>
  r.type === 3 ? (r.vtep ?? '') : r.type === 5 ? r.about.split(' of ')[0]! : / (\S+) in VNI /.exec(r.about)![1]!;

/**
 * Routes of EVPN of a switch by type, as the model has them and as BGP holds them. Those of which the route distinguisher is
 * made up are left out, and servers that are not plugged in.
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
  const out: EvpnSight[] = [];
  for (const type of [2, 3, 5] as const) {
    const table =
      (await lab.askJson<Readonly<Record<string, unknown>>>(host, `show bgp l2vpn evpn route type ${KINDS[type]}`)) ??
      {};
    const seen = new Set<string>();
    for (const [rd, routes] of Object.entries(table)) {
      if (!said.has(rd) || typeof routes !== 'object' || routes === null) continue;
      for (const name of Object.keys(routes)) {
        const about = name.startsWith('[') ? subjectOf(name) : null;
        if (about !== null && (type !== 2 || servers.has(about))) seen.add(`type ${type} ${rd} ${about}`);
      }
    }
    const known = new Map(
      answer.filter((r) => r.type === type && r.rd !== null).map((r) => [`type ${type} ${r.rd} ${aboutModel(r)}`, r]),
    );
    for (const about of new Set([...known.keys(), ...seen]))
      out.push({ about, model: known.get(about) ?? null, seen: seen.has(about) });
  }
  return out;
}
