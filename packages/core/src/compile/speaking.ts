import { gatewayOf } from '../config/carriage.ts';
import { maskFor, subnetsToldTo } from '../config/seatNeighbours.ts';
import type { SwitchConfig } from '../config/switchConfig.ts';
import { networkMtu, outsideKey, type FabricIntent, type OutsideNeighbour } from '../intent/intent.ts';
import { whyNotPlugged } from '../intent/edits/checkSpeakers.ts';
import type { Layout } from '../layout/links.ts';
import { sideOf, type Seat } from '../layout/seats.ts';
import { holds, parseNetwork } from '../numbers/address.ts';
import type { Asn } from '../numbers/asn.ts';
import type { Values } from '../pools/drawValues.ts';
import { subnetsOfFamily } from '../pools/subnets.ts';

/** A session of a switch with somebody of whom nobody here sends the text: a router outside, or a server. */
export interface Speaking {
  readonly neighbour: OutsideNeighbour;
  /** Subnets it is told where nothing is said of that. */
  readonly subnets: readonly string[];
  readonly system: string;
  readonly farPort: string;
  /** MTU of the port at its end. */
  readonly mtu: number;
  readonly host: string;
  readonly ourAs: Asn;
  readonly mask: string | undefined;
}
type Configs = ReadonlyMap<string, SwitchConfig>;

const withSeat = (
  layout: Layout,
  configs: Configs,
  at: { readonly rack: number; readonly side: string },
  make: (seat: Seat, ourAs: Asn) => Speaking[],
): Speaking[] => {
  const seat = layout.seats.find((s) => s.rack === at.rack && sideOf(s) === at.side);
  const ourAs = seat && configs.get(seat.id)?.bgp?.asn;
  return seat && ourAs !== undefined ? make(seat, ourAs) : [];
};

/** Sessions with routers outside. */
function withRouters(intent: FabricIntent, layout: Layout, configs: Configs, values: Values): Speaking[] {
  const links = new Map(intent.outside.map((o) => [outsideKey(o), o]));
  return intent.neighbours.flatMap((neighbour) => {
    const link = links.get(outsideKey(neighbour));
    return withSeat(layout, configs, neighbour, ({ host }, ourAs) =>
      link
        ? [
            {
              neighbour,
              subnets: subnetsToldTo(intent, values, neighbour),
              system: link.system,
              farPort: link.farPort,
              mtu: intent.settings.linkMtu,
              host,
              ourAs,
              mask: maskFor(intent, neighbour),
            },
          ]
        : [],
    );
  });
}

/** The port by which a server that speaks is known. */
const SERVER_PORT = 'eth0';

/** Sessions with servers of networks, as far as they are known: each with the gateway of its own switch. */
function withServers(intent: FabricIntent, layout: Layout, configs: Configs, values: Values): Speaking[] {
  return intent.speakers.flatMap((s) => {
    const network = intent.networks.find((n) => n.name === s.network);
    const range = parseNetwork(s.from);
    if (!network || !range) return [];
    const subnet = subnetsOfFamily(network, values, range.family).find((x) => holds(parseNetwork(x)!, range));
    if (subnet === undefined) return [];
    const { network: _, from: __, known = [], ...said } = s;
    return known.flatMap(({ server, address }) => {
      const port = intent.ports.find((p) => p.server === server && p.untagged === s.network);
      if (!port || port.shut === true || whyNotPlugged(intent, s.network, server) !== null) return [];
      const side = port.side === 'b' ? 'b' : 'a';
      return withSeat(layout, configs, { rack: port.rack, side }, ({ host }, ourAs) => [
        {
          neighbour: {
            ...said,
            rack: port.rack,
            side,
            port: port.port,
            vrf: network.vrf,
            address: gatewayOf(subnet),
            far: address,
          },
          subnets: [],
          system: server,
          farPort: SERVER_PORT,
          mtu: networkMtu(intent, network),
          host,
          ourAs,
          mask: maskFor(intent, s),
        },
      ]);
    });
  });
}

/** All sessions with who is not of the fabric, with what is said of them. */
export const speakingIn = (
  intent: FabricIntent,
  layout: Layout,
  configs: Configs,
  values: Values,
): readonly Speaking[] => [
  ...withRouters(intent, layout, configs, values),
  ...withServers(intent, layout, configs, values),
];

/** Servers that are known to speak, and so have addresses of their own. */
export const knownServers = (intent: FabricIntent): ReadonlySet<string> =>
  new Set(intent.speakers.flatMap((s) => (s.known ?? []).map((k) => k.server)));
