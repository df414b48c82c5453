import { maskFor } from '../config/seatNeighbours.ts';
import { blankConfig } from '../config/sections.ts';
import type { BgpPeer, PeerPolicy } from '../config/bgp.ts';
import type { SwitchConfig } from '../config/switchConfig.ts';
import { outsideKey, type FabricIntent, type OutsideNeighbour } from '../intent/intent.ts';
import type { Layout } from '../layout/links.ts';
import { sideOf } from '../layout/seats.ts';
import type { Cable } from '../network/cablePlan.ts';
import type { ReadSwitch } from '../network/readSwitch.ts';
import type { Asn } from '../numbers/asn.ts';
import { hostPart } from '../numbers/ipv4.ts';
import { groupBy, naturally } from '../numbers/order.ts';

/** What is known of routers outside, as far as a fabric speaks to them. */
export interface RoutersOutside {
  readonly switches: readonly ReadSwitch[];
  readonly cables: readonly Cable[];
}

interface Speaking {
  readonly neighbour: OutsideNeighbour;
  readonly system: string;
  readonly farPort: string;
  readonly host: string;
  readonly ourAs: Asn;
  readonly mask: string | undefined;
}

const isDefault = (prefix: string): boolean => prefix === '0.0.0.0/0';

/**
 * Routers outside as the fabric expects them: each has the address and the AS number that are said of it, and tells just
 * what it may tell. What they do besides nobody here knows.
 */
export function routersOutside(
  intent: FabricIntent,
  layout: Layout,
  configs: ReadonlyMap<string, SwitchConfig>,
): RoutersOutside {
  const links = new Map(intent.outside.map((o) => [outsideKey(o), o]));
  const speaking = intent.neighbours.flatMap((neighbour): Speaking[] => {
    const link = links.get(outsideKey(neighbour));
    const seat = layout.seats.find((s) => s.rack === neighbour.rack && sideOf(s) === neighbour.side);
    const ourAs = seat && configs.get(seat.id)?.bgp?.asn;
    return link && seat && ourAs !== undefined
      ? [
          {
            neighbour,
            system: link.system,
            farPort: link.farPort,
            host: seat.host,
            ourAs,
            mask: maskFor(intent, neighbour),
          },
        ]
      : [];
  });
  return {
    switches: [...groupBy(speaking, (s) => s.system)].map(([host, all]) => ({
      host,
      config: routerOf(host, all, intent.settings.linkMtu),
      unread: [],
    })),
    cables: speaking.map(({ neighbour, system, farPort, host }) => ({
      a: { host, port: neighbour.port },
      b: { host: system, port: farPort },
    })),
  };
}

function routerOf(hostname: string, all: readonly Speaking[], mtu: number): SwitchConfig {
  const told = (s: Speaking): readonly string[] => (s.neighbour.takes.length === 0 ? ['0.0.0.0/0'] : s.neighbour.takes);
  const prefixes = [...new Set(all.flatMap(told))].filter((p) => !isDefault(p)).sort(naturally);
  const peers = all.map((s): BgpPeer => ({
    name: hostPart(s.neighbour.address),
    kind: 'address',
    remoteAs: s.ourAs,
    ...(s.mask === undefined ? {} : { password: s.mask }),
    ...(s.neighbour.bfd === true ? { bfd: true } : {}),
  }));
  const policies = all.flatMap((s): PeerPolicy[] =>
    told(s).some(isDefault) ? [{ peer: hostPart(s.neighbour.address), defaultOriginate: true }] : [],
  );
  const length = (s: Speaking): string => s.neighbour.address.slice(s.neighbour.address.indexOf('/'));
  return {
    ...blankConfig(hostname),
    ports: all
      .map((s) => ({ name: s.farPort, mtu, addresses: [`${s.neighbour.far}${length(s)}`] }))
      .sort((a, b) => naturally(a.name, b.name)),
    ...(prefixes.length > 0 ? { staticRoutes: prefixes.map((prefix) => ({ prefix })) } : {}),
    bgp: {
      asn: all[0]!.neighbour.asn,
      routerId: all[0]!.neighbour.far,
      defaultIpv4: true,
      policyRequired: false,
      multipathRelax: true,
      peers: peers.sort((a, b) => naturally(a.name, b.name)),
      ipv4: {
        active: [],
        ownAsAllowed: {},
        ...(prefixes.length > 0 ? { static: {} } : {}),
        ...(policies.length > 0 ? { policies } : {}),
      },
      evpn: { active: [], ownAsAllowed: {}, advertiseAllVni: false, vnis: [] },
      vrfs: [],
    },
  };
}
