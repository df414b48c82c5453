import { hostPart, parseIpv4 } from '../numbers/ipv4.ts';
import { familyOfText, hostPrefix } from '../numbers/prefix.ts';
import { sviDevice } from './devices.ts';
import {
  CALLING_PORTS,
  ICMP6,
  filtered,
  filtersOf,
  type Checkpoint,
  type Devices,
  type Filtered,
  type Packet,
} from './filters.ts';
import { subnetOf, subnetsIn } from './localRoutes.ts';
import type { SwitchView } from './switchView.ts';

/** One end of a session as filters see it. */
export interface SessionEnd {
  readonly host: string;
  readonly view: SwitchView;
  readonly vrf: string | undefined;
  /** The port it leads over; null = over routes. */
  readonly port: string | null;
  /** Own address by which the other end knows it, of either family; null = one of the link alone, of IPv6. */
  readonly address: string | null;
  readonly passive: boolean;
}

const BGP_PORT = { from: 179, to: 179 };
const TCP = 6;
const OSPF = 89;
/** What neighbours of IPv6 find one another by (RFC 4861 §4): who has an address, and who says that he does. */
export const SOLICITATION = 135;
export const ADVERTISEMENT = 136;
const FINDING = [SOLICITATION, ADVERTISEMENT];
/** Those without addresses hear of one another by advertisements of routers. */
const FINDING_UNNUMBERED = [134, ...FINDING];

/** The interface that packets of an end come in on; null = any. */
function devicesOf({ view, vrf, port, address }: SessionEnd): Devices | null {
  const inVrf = vrf === undefined ? {} : { vrf };
  if (port === null) return null;
  // What comes in on a bridged port is for the interface of its VLAN.
  const svi = address === null ? undefined : subnetOf(subnetsIn(view.config, vrf, familyOfText(address)), address)?.svi;
  return { names: [svi ? sviDevice(svi) : port], ...inVrf };
}

/** Does an end speak over a VLAN whose frames its bridge filters? What comes of that is not computed. */
const isBridged = ({ view, vrf, address }: SessionEnd): boolean =>
  filtersOf(view.config).bridged &&
  address !== null &&
  subnetOf(subnetsIn(view.config, vrf, familyOfText(address)), address)?.svi !== undefined;

/** A packet from one end to the other: out of the one, through whoever may lie between, into the other. */
function oneWay(from: SessionEnd, to: SessionEnd, between: readonly FilteringSwitch[], packet: Packet): Filtered {
  const [out, into] = [devicesOf(from), devicesOf(to)];
  // Of packets that a switch sends itself in a VRF two interfaces are seen, one after the other.
  const leaves = from.vrf === undefined ? out : null;
  const point = (end: SessionEnd, hook: Checkpoint['hook'], rest: Partial<Checkpoint>) =>
    ({ end, at: { host: end.host, layer: 'routed', hook, ...rest } as Checkpoint }) as const;
  const came = into ? { in: into } : {};
  const points = [
    point(from, 'output', { out: leaves }),
    point(from, 'postrouting', { out: leaves }),
    ...(into?.vrf === undefined ? [] : [point(to, 'prerouting', { in: { names: into.names }, out: null })]),
    point(to, 'prerouting', { ...came, out: null }),
    point(to, 'input', came),
  ];
  let unsure: string | null = null;
  for (const { end, at } of points) {
    const found = filtered({ host: end.host, config: end.view.config, unread: [] }, packet, at);
    unsure ??= found.unsure;
    if (found.trouble) return { trouble: found.trouble, unsure };
  }
  for (const { host, view } of between)
    for (const hook of ['prerouting', 'forward', 'postrouting'] as const) {
      const at: Checkpoint = { host, layer: 'routed', hook, out: null };
      const found = filtered({ host, config: view.config, unread: [] }, packet, at);
      // Whether it goes by that switch is not looked at.
      if (found.trouble) unsure ??= `${found.trouble.words}, if it goes by there`;
    }
  return { trouble: null, unsure };
}
/** A switch that filters what it routes or hears. */
export interface FilteringSwitch {
  readonly host: string;
  readonly view: SwitchView;
}

const first = (parts: Iterable<Filtered>): Filtered => {
  let unsure: string | null = null;
  for (const p of parts) {
    unsure ??= p.unsure;
    if (p.trouble) return { trouble: p.trouble, unsure };
  }
  return { trouble: null, unsure };
};

/**
 * What filters do with a session, whichever end calls; each direction with its answers.
 * @param filtering all switches that filter
 */
export function sessionFiltered(a: SessionEnd, b: SessionEnd, filtering: readonly FilteringSwitch[]): Filtered {
  if (filtering.length === 0) return { trouble: null, unsure: null };
  // Next door nobody lies between.
  const between = a.port === null ? filtering.filter(({ host }) => host !== a.host && host !== b.host) : [];
  const unnumbered = a.address === null || b.address === null;
  const family = unnumbered || familyOfText(a.address) === 6 ? ('ip6' as const) : ('ip' as const);
  const ends = (from: SessionEnd, to: SessionEnd) =>
    unnumbered ? {} : { source: hostPrefix(from.address!)!.address, target: hostPrefix(to.address!)!.address };
  const found =
    family === 'ip' || a.port === null
      ? []
      : (unnumbered ? FINDING_UNNUMBERED : FINDING).flatMap((icmpType) =>
          [[a, b] as const, [b, a] as const].map(([from, to]) =>
            oneWay(from, to, between, { family, protocol: ICMP6, icmpType, states: ['untracked'] }),
          ),
        );
  const lost = first(found);
  if (lost.trouble) return lost;
  const called = [[a, b] as const, [b, a] as const].flatMap(([from, to]) => {
    if (from.passive) return [];
    const tcp = { family, protocol: TCP } as const;
    const asks: Packet = {
      ...tcp,
      ...ends(from, to),
      sourcePort: CALLING_PORTS,
      targetPort: BGP_PORT,
      states: ['new'],
    };
    const answers: Packet = {
      ...tcp,
      ...ends(to, from),
      sourcePort: BGP_PORT,
      targetPort: CALLING_PORTS,
      states: ['established'],
    };
    return [
      first([
        oneWay(from, to, between, asks),
        oneWay(to, from, between, answers),
        oneWay(from, to, between, { ...asks, states: ['established'] }),
      ]),
    ];
  });
  const open = called.find((c) => c.trouble === null && c.unsure === null) ?? called.find((c) => c.unsure !== null);
  const best = open ?? called[0]!;
  const over = [a, b].find(isBridged);
  const bridged = over ? `${over.host} filters what it bridges, and the session leads over a VLAN` : null;
  return { trouble: best.trouble, unsure: best.unsure ?? lost.unsure ?? bridged };
}

/** What filters do with what two neighbours by OSPF of a family say to one another; both directions. */
export function helloFiltered(a: SessionEnd, b: SessionEnd, family: Packet['family'] = 'ip'): Filtered {
  if (!filtersOf(a.view.config).routed && !filtersOf(b.view.config).routed) return { trouble: null, unsure: null };
  const said = (from: SessionEnd): Packet => ({
    family,
    protocol: OSPF,
    // Of IPv6 they speak from the address of the link.
    ...(from.address === null || family === 'ip6' ? {} : { source: parseIpv4(hostPart(`${from.address}/32`))! }),
    states: ['new', 'established'],
  });
  return first([oneWay(a, b, [], said(a)), oneWay(b, a, [], said(b))]);
}
