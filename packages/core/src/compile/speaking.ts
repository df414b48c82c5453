import { gatewayOf } from '../config/carriage.ts';
import { maskFor, subnetsToldTo } from '../config/seatNeighbours.ts';
import type { SwitchConfig } from '../config/switchConfig.ts';
import {
  cablesOfLink,
  networkMtu,
  outsideKey,
  type FabricIntent,
  type Network,
  type NetworkSpeakers,
  type OutsideCable,
  type OutsideNeighbour,
  type ServerPort,
} from '../intent/intent.ts';
import { driveOf, type Drive } from '../hardware/drive.ts';
import { whyNotPlugged } from '../intent/edits/checkSpeakers.ts';
import type { Layout } from '../layout/links.ts';
import { sideOf, type Seat } from '../layout/seats.ts';
import { holds, parseNetwork } from '../numbers/address.ts';
import type { Asn } from '../numbers/asn.ts';
import type { Values } from '../pools/drawValues.ts';
import { subnetsOfFamily } from '../pools/subnets.ts';
import type { ExpectedCaller } from '../watch/seen.ts';

/** A session of a switch with somebody of whom nobody here sends the text: a router outside, or a server. */
export interface Speaking {
  readonly neighbour: OutsideNeighbour;
  /** Subnets it is told where nothing is said of that. */
  readonly subnets: readonly string[];
  readonly system: string;
  /** Its port, or what its LAG is taken to be called. */
  readonly farPort: string;
  /** The cables to it; more than one, or one of a LAG, where `isLag`. */
  readonly cables: readonly OutsideCable[];
  readonly isLag: boolean;
  /** MTU of the port at its end. */
  readonly mtu: number;
  /** How the port at its end is driven: as ours. */
  readonly driven: Drive;
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
              farPort: link.lag ? `lag-${link.farPort}` : link.farPort,
              cables: cablesOfLink(link),
              isLag: link.lag !== undefined,
              driven: driveOf(link),
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

/** A server that is known to call, and where. */
interface KnownCaller {
  readonly speakers: NetworkSpeakers;
  readonly network: Network;
  readonly server: string;
  readonly address: string;
  /** The subnet it is in, with the gateway that it calls. */
  readonly subnet: string;
  readonly port: ServerPort;
  readonly side: 'a' | 'b';
}

/** Servers of networks that are known to call, each at the switch it is on. */
function knownIn(intent: FabricIntent, values: Values): KnownCaller[] {
  return intent.speakers.flatMap((s) => {
    const network = intent.networks.find((n) => n.name === s.network);
    const range = parseNetwork(s.from);
    const subnets = network && range ? subnetsOfFamily(network, values, range.family) : [];
    const subnet = subnets.find((x) => holds(parseNetwork(x)!, range!));
    if (!network || subnet === undefined) return [];
    return (s.known ?? []).flatMap(({ server, address }): KnownCaller[] => {
      const port = intent.ports.find((p) => p.server === server && p.untagged === s.network);
      return !port || port.shut === true || whyNotPlugged(intent, s.network, server) !== null
        ? []
        : [{ speakers: s, network, server, address, subnet, port, side: port.side === 'b' ? 'b' : 'a' }];
    });
  });
}

/** Sessions with servers of networks, as far as they are known: each with the gateway of its own switch. */
const withServers = (intent: FabricIntent, layout: Layout, configs: Configs, values: Values): Speaking[] =>
  knownIn(intent, values).flatMap(({ speakers, network, server, address, subnet, port, side }) => {
    const { network: _, from: __, known: ___, ...said } = speakers;
    const at = { rack: port.rack, side };
    return withSeat(layout, configs, at, ({ host }, ourAs) => [
      {
        neighbour: { ...said, ...at, port: port.port, vrf: network.vrf, address: gatewayOf(subnet), far: address },
        subnets: [],
        system: server,
        farPort: SERVER_PORT,
        cables: [{ port: port.port, farPort: SERVER_PORT }],
        isLag: false,
        mtu: networkMtu(intent, network),
        driven: driveOf(port),
        host,
        ourAs,
        mask: maskFor(intent, speakers),
      },
    ]);
  });

/** Servers that are meant to have a session with their switch, and where each comes in. */
export const callersIn = (intent: FabricIntent, layout: Layout, values: Values): ExpectedCaller[] =>
  knownIn(intent, values).flatMap(({ speakers, network, address, port, side }) => {
    const seat = layout.seats.find((s) => s.rack === port.rack && sideOf(s) === side);
    return !seat || speakers.closed ? [] : [{ host: seat.host, vrf: network.vrf, port: port.port, address }];
  });

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

/** Servers that stand in the model by themselves, with the addresses they have. */
export const speakingServers = (intent: FabricIntent, values: Values): ReadonlySet<string> =>
  new Set(knownIn(intent, values).map((k) => k.server));
/** Servers that are named as those that speak. */
export const knownServers = (intent: FabricIntent): ReadonlySet<string> =>
  new Set(intent.speakers.flatMap((s) => (s.known ?? []).map((k) => k.server)));
