import type { ServerPort } from '../intent/intent.ts';
import { carries, endAt, farEnd } from '../layout/links.ts';
import { isOn } from '../layout/seats.ts';
import { parseCidr, type Cidr } from '../numbers/ipv4.ts';
import { gatewayMac, localMac } from '../numbers/mac.ts';
import { groupBy, naturally } from '../numbers/order.ts';
import type { VlanId } from '../numbers/vni.ts';
import { link6Key, linkKey, loopback6Key, loopbackKey, subnet6Key, subnetKey } from '../pools/demands.ts';
import { driveOf } from '../hardware/drive.ts';
import { lagNumber } from '../hardware/lagNumber.ts';
import { bridgingOf, trunkLags, trunkOf } from './bridging.ts';
import {
  lagKey,
  sviKey,
  type InterfacesPart,
  type LagConfig,
  type PortConfig,
  type SviConfig,
} from './interfaceParts.ts';
import { deriveOutward, outwardLagCause, outwardPortCause } from './outward.ts';
import { actorOf, segmentOf, tracksUplinks } from './pairing.ts';
import {
  drainCause,
  patternCause,
  settingCause,
  type Cause,
  type ConfigSection,
  type OriginContext,
} from './section.ts';
import { onceFor } from '../onceFor.ts';
import { describedBy } from '../patterns/descriptions.ts';
import { gatewaysOf, type Carriage } from './carriage.ts';
import type { SeatInputs, SeatLink } from './seatInputs.ts';

export * from './interfaceParts.ts';

/**
 * A port to another switch: routed, with an address of its own where links are numbered.
 * @param borrowed the loopback’s, where OSPF needs one and the link has none
 */
function routedPort(l: SeatLink, { settings }: SeatInputs['fabric'], tracked: boolean, borrowed?: Cidr): PortConfig {
  const address = l.numbered?.own ?? (carries(l) ? borrowed : undefined);
  const port: { -readonly [K in keyof PortConfig]: PortConfig[K] } = {
    name: l.port,
    description: describedBy(settings, 'linkDescription', { far: l.farHost, port: l.farPort, own: l.port }),
    mtu: settings.linkMtu,
    addresses: address ? [address] : [],
  };
  if (l.own6 !== undefined) port.ipv6Addresses = [l.own6];
  if (settings.linkFec !== 'unsaid') port.fec = settings.linkFec;
  if (l.shut) port.shut = true;
  // A link to the other half is no way up.
  if (tracked && l.kind === 'fabric') port.tracked = tracked;
  return port;
}

/** Where nothing is routed: ports with every VLAN on them, parallel ones in a LAG. */
function deriveTrunks(inputs: SeatInputs): { readonly ports: PortConfig[]; readonly lags: LagConfig[] } {
  const { fabric, links, carriage } = inputs;
  const { linkMtu: mtu } = fabric.settings;
  const bundles = trunkLags(inputs);
  const bundled = new Set(bundles.flat());
  const isTrunk = (l: SeatLink): boolean => l.kind !== 'keep-alive' && carriage.networks.length > 0 && !bundled.has(l);
  return {
    ports: links.map((l) => ({
      ...routedPort(l, fabric, false),
      ...(isTrunk(l) ? { bridging: trunkOf(carriage) } : {}),
    })),
    lags: bundles.map((members) => ({
      number: lagNumber(members[0]!.port),
      description: members[0]!.farHost,
      mtu,
      members: members.map((m) => m.port),
      bridging: trunkOf(carriage),
    })),
  };
}

function derivePorts(inputs: SeatInputs): Pick<InterfacesPart, 'ports' | 'lags'> {
  const { fabric, links, servers, carriage, outward, routing, drained } = inputs;
  const tracked = tracksUplinks(inputs);
  const { ports, lags } = routing
    ? {
        ports: links.map((l) => routedPort(l, fabric, tracked, routing.internal && routing.loopback)),
        lags: [] as LagConfig[],
      }
    : deriveTrunks(inputs);
  const { settings } = fabric;
  for (const bundle of groupBy(outward, (o) => o.lag ?? o.port).values())
    deriveOutward(bundle, inputs, { ports, lags });
  for (const p of servers) {
    const bridging = bridgingOf(p, carriage);
    const mtu = Math.max(
      ...[p.untagged, ...p.tagged].map((n) => (n === undefined ? 0 : (carriage.byName.get(n)?.mtu ?? 0))),
    );
    // A LAG goes on at the other half.
    const shut = p.shut || (drained && p.side === 'both') ? { shut: true } : {};
    const description = describedBy(settings, 'serverDescription', { server: p.server, rack: p.rack, own: p.port });
    const port: PortConfig = { name: p.port, description, mtu, addresses: [], ...shut, ...driveOf(p) };
    if (p.side === 'both') {
      const number = lagNumber(p.port);
      ports.push(port);
      lags.push({
        number,
        description,
        mtu,
        members: [p.port],
        bridging,
        segment: segmentOf(p, number, inputs),
        actorSystem: actorOf(p, inputs),
      });
    } else ports.push({ ...port, bridging });
  }
  return {
    ports: ports.sort((a, b) => naturally(a.name, b.name)),
    lags: lags.sort((a, b) => naturally(lagKey(a), lagKey(b))),
  };
}

/** Gateways are the same wherever they are; only the interfaces of L3 VNIs have a MAC of the switch. */
const gateways = onceFor(({ networks, vrfs }: Carriage) =>
  [
    ...networks.flatMap((n): SviConfig[] => {
      const [addresses, ipv6Addresses] = [gatewaysOf(n, 4), gatewaysOf(n, 6)];
      return addresses.length === 0 && ipv6Addresses.length === 0
        ? []
        : [
            {
              vlan: n.vlan,
              vrf: n.vrf,
              addresses,
              ...(ipv6Addresses.length === 0 ? {} : { ipv6Addresses, advertises: true }),
              mac: gatewayMac(n.vlan),
              mtu: n.mtu,
            },
          ];
    }),
    ...vrfs.map(({ vrf }): SviConfig => ({ vlan: vrf.transitVlan, vrf: vrf.name, addresses: [] })),
  ].sort((a, b) => a.vlan - b.vlan),
);

function deriveSvis({ carriage, routing }: SeatInputs): SviConfig[] {
  if (!routing) return [];
  const mac = localMac(parseCidr(routing.loopback)!.address);
  return gateways(carriage).map((s) => (s.mac === undefined ? { ...s, mac } : s));
}

/** The server that a port or LAG of the seat carries. */
function serverCause(carries: (p: ServerPort) => boolean, context: OriginContext, field = ''): Cause {
  const { intent, seat } = context;
  const found = intent.ports.find((p) => p.rack === seat.rack && isOn(p, seat) && carries(p));
  if (field === 'shut' && !found?.shut) return drainCause(context);
  return found
    ? { subject: `port:${found.rack}.${found.side}.${found.port}`, label: `server ${found.server}` }
    : patternCause(context);
}

function portCause(name: string, field: string, context: OriginContext): Cause {
  const { layout, seat } = context;
  const link = layout.linksOf.get(seat.id)?.find((l) => endAt(l, seat.id).port === name);
  const out = outwardPortCause(name, field, context);
  if (out) return out;
  if (!link) return serverCause((p) => p.port === name, context, field);
  if (field === 'shut') return { subject: `link:${link.id}`, label: 'link that is shut' };
  const pattern = patternCause(context);
  if (field === 'addresses') return { ...pattern, label: 'link address', key: linkKey(link.id), role: 'link' };
  if (field === 'ipv6Addresses')
    return { ...pattern, label: 'IPv6 address of the link', key: link6Key(link.id), role: 'link6' };
  if (field === 'mtu') return settingCause('linkMtu', 'link MTU');
  if (field === 'fec') return settingCause('linkFec', 'FEC of links');
  return { ...pattern, label: `cable to ${layout.seatById.get(farEnd(link, seat.id).seat)!.host}` };
}

/** What a VLAN is for: its network, or the VRF whose L3 VNI it carries. */
export function vlanCause(vlan: VlanId, context: OriginContext): Cause {
  const network = context.intent.networks.find((n) => n.vlan === vlan);
  if (network) return { subject: `network:${network.name}`, label: `network ${network.name}` };
  const vrf = context.intent.vrfs.find((v) => v.transitVlan === vlan);
  return vrf ? { subject: `vrf:${vrf.name}`, label: `VRF ${vrf.name}` } : patternCause(context);
}

export const interfaces: ConfigSection<InterfacesPart> = {
  blank: { loopbacks: [], ports: [], lags: [], svis: [] },
  derive: (inputs) => ({
    loopbacks: [inputs.routing?.loopback ?? [], inputs.routing?.vtep ?? []].flat(),
    ...(inputs.routing?.loopback6 === undefined ? {} : { ipv6Loopbacks: [inputs.routing.loopback6] }),
    ...derivePorts(inputs),
    svis: deriveSvis(inputs),
  }),
  members: {
    ports: { key: (p: PortConfig) => p.name, word: 'port' },
    lags: { key: lagKey, word: 'LAG' },
    svis: { key: sviKey, word: 'VLAN interface' },
  },
  words: {
    loopbacks: 'loopback addresses',
    description: 'description',
    mtu: 'MTU',
    addresses: 'addresses',
    ipv6Addresses: 'IPv6 addresses',
    ipv6Loopbacks: 'IPv6 loopback addresses',
    members: 'members',
    tracked: 'uplink tracking',
    speed: 'speed',
    fec: 'FEC',
    segment: 'Ethernet segment',
    systemMac: 'system MAC',
    actorSystem: 'system that LACP shows',
    esi: 'ESI',
    preference: 'preference for what is flooded',
    mac: 'MAC address',
    advertises: 'router advertisements',
    vlan: 'VLAN',
  },
  causeOf: ([part, name = '', field = ''], context) => {
    switch (part) {
      case 'loopbacks':
        return {
          ...patternCause(context),
          label: 'loopback of the seat',
          key: loopbackKey(context.seat.id),
          role: 'loopback',
        };
      case 'ipv6Loopbacks':
        return {
          ...patternCause(context),
          label: 'IPv6 loopback of the seat',
          key: loopback6Key(context.seat.id),
          role: 'loopback6',
        };
      case 'ports':
        return portCause(name, field, context);
      case 'lags':
        return (
          outwardLagCause(name, context) ??
          serverCause((p) => p.side === 'both' && String(lagNumber(p.port)) === name, context)
        );
      default: {
        const cause = vlanCause(Number(name), context);
        const network = cause.subject.startsWith('network:') ? cause.subject.slice('network:'.length) : null;
        if (network === null) return cause;
        if (field === 'addresses') return { ...cause, key: subnetKey(network), role: 'subnet' };
        return field === 'ipv6Addresses' ? { ...cause, key: subnet6Key(network), role: 'subnet6' } : cause;
      }
    }
  },
};
