import { DIALECT_NAMES, type DialectName } from '../hardware/dialects.ts';
import { rackPatternAt, type FabricIntent, type SeatId, type ServerPort } from '../intent/intent.ts';
import { numberedBy } from '../layout/halves.ts';
import { endAt, farEnd, type Layout, type OutwardLink, type Link, type LinkKind } from '../layout/links.ts';
import { hasServers, isOn, type Seat } from '../layout/seats.ts';
import { linkEnds, parseNetwork } from '../numbers/address.ts';
import { formatIpv4, hostPart, parseCidr, type Cidr, type Ipv4 } from '../numbers/ipv4.ts';
import type { Asn } from '../numbers/asn.ts';
import { sameContent } from '../numbers/content.ts';
import { groupBy, naturally } from '../numbers/order.ts';
import { hasUnderlay6, isRouted, ledByOspf, type Pairing } from '../patterns/patterns.ts';
import {
  asnKey,
  link6Key,
  linkKey,
  loopback6Key,
  loopbackKey,
  suitsRole,
  vtepKey,
  type ValueKey,
} from '../pools/demands.ts';
import type { Values } from '../pools/drawValues.ts';
import type { Pool } from '../pools/pool.ts';
import { onceFor } from '../onceFor.ts';
import { carriagesOf, EVERYWHERE, NOTHING_CARRIED, sameItems, type Carriage, type CarriageMemo } from './carriage.ts';
import { internalOf, type InternalNeighbour } from './internalNeighbours.ts';
import { neighboursOf, type SeatNeighbour } from './seatNeighbours.ts';
import { carriedOnSide } from './sideRoutes.ts';
import { speakersOn, type SeatSpeakers } from './seatSpeakers.ts';

/** A link as a seat sees it. */
export interface SeatLink extends Pick<Link, 'kind' | 'shut'> {
  readonly port: string;
  readonly farHost: string;
  readonly farPort: string;
  /** Where links are numbered: own address with its length, and that of the far end. */
  readonly numbered: { readonly own: Cidr; readonly far: Ipv4; readonly farAs: Asn } | null;
  /** Own address of IPv6 with its length, where links have that. */
  readonly own6?: Cidr;
}

/** What follows from the layout alone. */
interface SeatPlan {
  readonly seat: Seat;
  readonly links: readonly {
    readonly kind: LinkKind;
    readonly port: string;
    readonly far: Seat;
    readonly farPort: string;
    readonly atB: boolean;
    readonly link: Link;
    readonly key: ValueKey;
    readonly key6: ValueKey;
  }[];
  /** Ports to what has no seat here, as far as they are the switch's to configure. */
  readonly outward: readonly OutwardPort[];
}
/** The management port of a switch is its own affair. */
const outwardPorts = onceFor(
  (outward: Layout['outward']): Map<SeatId, OutwardPort[]> =>
    new Map(
      [...groupBy(outward, (o) => o.a.seat)].map(([seat, links]) => [
        seat,
        links.flatMap(({ kind, a, far, driven, lag }) =>
          kind === 'management' ? [] : [{ port: a.port, far, driven, ...(lag === undefined ? {} : { lag }) }],
        ),
      ]),
    ),
);
const NOWHERE: readonly OutwardPort[] = [];
const NO_LINKS: readonly Link[] = [];

/** Plans of seats by their links: of a layout in which other links are shut they are the same. */
const planned = new WeakMap<readonly Link[], { readonly seats: Layout['seatById']; readonly plan: SeatPlan }>();
function planOf({ linksOf, seatById: seats }: Layout, seat: Seat, outward: readonly OutwardPort[]): SeatPlan {
  const own = linksOf.get(seat.id) ?? NO_LINKS;
  const known = planned.get(own);
  if (known && known.seats === seats && known.plan.seat === seat && known.plan.outward === outward) return known.plan;
  const links = own.map((link) => {
    const far = farEnd(link, seat.id);
    return {
      kind: link.kind,
      port: endAt(link, seat.id).port,
      far: seats.get(far.seat)!,
      farPort: far.port,
      atB: link.b.seat === seat.id,
      link,
      key: linkKey(link.id),
      key6: link6Key(link.id),
    };
  });
  const plan: SeatPlan = { seat, outward, links };
  planned.set(own, { seats, plan });
  return plan;
}
const plansOf = onceFor((layout: Layout): SeatPlan[] => {
  const outward = outwardPorts(layout.outward);
  return layout.seats.map((seat) => planOf(layout, seat, outward.get(seat.id) ?? NOWHERE));
});

/** A port that leads out of the fabric, and what is at its far end. */
export interface OutwardPort extends Pick<OutwardLink, 'far' | 'driven' | 'lag'> {
  readonly port: string;
}

/** Who a seat is in the underlay. */
export interface SeatRouting {
  readonly asn: Asn;
  readonly loopback: Cidr;
  readonly routerId: Ipv4;
  /** Where there are servers. */
  readonly vtep: Cidr | undefined;
  /** Absent = its switches have IPv4 alone for one another. */
  readonly loopback6?: Cidr;
  /** Where OSPF leads: by loopback. */
  readonly internal?: readonly InternalNeighbour[];
}

/** All that a seat's configuration follows from; what is the same for all seats of a fabric is one object. */
export interface SeatInputs {
  readonly fabric: FabricInputs;
  readonly seat: Seat;
  /** What its switches are written in. */
  readonly dialect: DialectName;
  /** Absent = the fabric is switched, and nothing of the seat is routed. */
  readonly routing?: SeatRouting;
  readonly links: readonly SeatLink[];
  readonly outward: readonly OutwardPort[];
  /** Routers outside it speaks to for tenants. */
  readonly neighbours: readonly SeatNeighbour[];
  /** Servers that may call it by BGP. */
  readonly speakers: readonly SeatSpeakers[];
  /** The servers on its ports. */
  readonly servers: readonly ServerPort[];
  readonly carriage: Carriage;
  /** Where it is a half of a pair that shares servers in another way than the usual one. */
  readonly pairing?: Pairing;
  /** Others are asked to go round it. */
  readonly drained?: true;
}
export interface FabricInputs {
  readonly settings: FabricIntent['settings'];
  /** /32s of loopbacks and VTEPs, or prefixes they are all drawn from. */
  readonly loopbackPrefixes: readonly Cidr[];
  /** The same of IPv6; absent = switches have none. */
  readonly loopback6Prefixes?: readonly Cidr[];
}

/** What was made last, by seat, with the words it was made from. */
export interface InputsMemo extends CarriageMemo {
  readonly seats: Map<string, { readonly words: readonly unknown[]; readonly made: SeatInputs }>;
  /** What all seats were made from last, their servers left aside. */
  last?: {
    readonly intent: FabricIntent;
    readonly layout: Layout;
    readonly values: Values;
    readonly pools: readonly Pool[];
    readonly made: readonly SeatInputs[];
  };
}
export const inputsMemo = (): InputsMemo => ({ networks: new Map(), carriages: new Map(), seats: new Map() });

/** The end nearer to the servers has the upper address of the link's /31, the other the lower. */
function numberedLink(prefix: Cidr, atB: boolean, farAs: Asn): SeatLink['numbered'] {
  const { address, length } = parseCidr(prefix)!;
  const upper = formatIpv4(address + 1);
  return atB ? { own: prefix, far: upper, farAs } : { own: `${upper}/${length}`, far: hostPart(prefix), farAs };
}
/** The same of a /127, which is read once for both its ends. */
function ends6(): (prefix: Cidr, atB: boolean) => Cidr {
  const known = new Map<Cidr, readonly [lower: Cidr, upper: Cidr]>();
  return (prefix, atB) => {
    let ends = known.get(prefix);
    if (!ends) known.set(prefix, (ends = linkEnds(parseNetwork(prefix)!)!));
    return ends[atB ? 0 : 1];
  };
}

/** The prefixes of the pools that loopbacks and VTEPs come from, or the held /32s where no pool is known. */
function loopbackPrefixes(intent: FabricIntent, values: Values, layout: Layout, pools: readonly Pool[]): Cidr[] {
  const names = new Set([intent.pools.loopback, intent.pools.vtep]);
  const prefixes = pools.filter((p) => names.has(p.name) && p.kind === 'ipv4').flatMap((p) => p.ranges);
  if (prefixes.length > 0) return [...prefixes].sort(naturally);
  return layout.seats
    .flatMap((s) => [values.get(loopbackKey(s.id)), values.get(vtepKey(s.id))])
    .filter((v): v is string => v !== undefined);
}
/** The same of IPv6. */
function loopback6Prefixes(intent: FabricIntent, values: Values, layout: Layout, pools: readonly Pool[]): Cidr[] {
  const pool = pools.find((p) => p.name === intent.pools.loopback6 && suitsRole(p, 'loopback6'));
  return pool ? [...pool.ranges].sort(naturally) : layout.seats.flatMap((s) => values.get(loopback6Key(s.id)) ?? []);
}

/** Who a seat is in the underlay; undefined = some of it is not drawn yet. */
function routingOf(seat: Seat, asn: string | undefined, values: Values, six: boolean): SeatRouting | undefined {
  const loopback = values.get(loopbackKey(seat.id));
  const vtep = hasServers(seat) ? values.get(vtepKey(seat.id)) : undefined;
  if (asn === undefined || loopback === undefined || (hasServers(seat) && vtep === undefined)) return undefined;
  const routing = { asn: Number(asn), loopback, routerId: hostPart(loopback), vtep };
  if (!six) return routing;
  const loopback6 = values.get(loopback6Key(seat.id));
  return loopback6 === undefined ? undefined : { ...routing, loopback6 };
}

/**
 * The inputs of every seat whose values are all drawn. With a memo, a seat for which nothing changed gets the very object
 * of last time.
 */
export function seatInputsOf(
  intent: FabricIntent,
  layout: Layout,
  values: Values,
  pools: readonly Pool[],
  memo?: InputsMemo,
): readonly SeatInputs[] {
  const made =
    (memo && onlyServersDiffer(memo, intent, layout, values, pools)) ?? makeAll(intent, layout, values, pools, memo);
  if (memo) memo.last = { intent, layout, values, pools, made };
  return made;
}

const serversOf = (seat: Seat, portsOfRack: ReadonlyMap<number, readonly ServerPort[]>): ServerPort[] =>
  seat.rack === undefined ? [] : (portsOfRack.get(seat.rack) ?? []).filter((p) => isOn(p, seat));

/** What of an intent no seat hangs on but by its servers. */
const ASIDE: ReadonlySet<keyof FabricIntent> = new Set(['ports', 'seating', 'snippets']);
const sameValues = (a: Values, b: Values): boolean => {
  if (a === b) return true;
  if (a.size !== b.size) return false;
  for (const [key, value] of a) if (b.get(key) !== value) return false;
  return true;
};
/** The inputs of last time with other servers, where nothing else has changed; null = something has. */
function onlyServersDiffer(
  { last }: InputsMemo,
  intent: FabricIntent,
  layout: Layout,
  values: Values,
  pools: readonly Pool[],
): readonly SeatInputs[] | null {
  if (last?.layout !== layout || !sameContent(last.pools, pools)) return null;
  const parts = new Set([...Object.keys(intent), ...Object.keys(last.intent)]) as ReadonlySet<keyof FabricIntent>;
  for (const part of parts) if (!ASIDE.has(part) && !sameContent(last.intent[part], intent[part])) return null;
  if (!sameValues(last.values, values)) return null;
  const portsOfRack = groupBy(intent.ports, (p) => p.rack);
  return last.made.map((known) => {
    const servers = serversOf(known.seat, portsOfRack);
    return sameContent(known.servers, servers) ? known : { ...known, servers };
  });
}

/** What the pattern of a seat's rack says of its pair beside the usual. */
function pairingOf(intent: FabricIntent, { rack }: Seat): Pairing | undefined {
  const { esiType, forwards, untracked } = rackPatternAt(intent, rack) ?? {};
  return esiType === undefined && forwards === undefined && !untracked
    ? undefined
    : {
        ...(esiType === undefined ? {} : { esiType }),
        ...(forwards === undefined ? {} : { forwards }),
        ...(untracked ? { untracked } : {}),
      };
}

function makeAll(
  intent: FabricIntent,
  layout: Layout,
  values: Values,
  pools: readonly Pool[],
  memo?: InputsMemo,
): SeatInputs[] {
  const { settings } = intent;
  const six = hasUnderlay6(intent);
  const fabric: FabricInputs = {
    settings,
    loopbackPrefixes: loopbackPrefixes(intent, values, layout, pools),
    ...(six ? { loopback6Prefixes: loopback6Prefixes(intent, values, layout, pools) } : {}),
  };
  const fabricWords = JSON.stringify(fabric);
  const carriages = carriagesOf(intent, values, memo);
  const portsOfRack = groupBy(intent.ports, (p) => p.rack);
  const speaksTo = neighboursOf(intent, values);
  const onSide = carriedOnSide(intent);
  const calledBy = speakersOn(intent);
  const routed = isRouted(intent);
  const numbered = numberedBy(intent);
  const asnOf = new Map(layout.seats.map((s) => [s, values.get(asnKey(intent, s))]));
  const drained = new Set(intent.drained.map((d) => d.seat));
  const dialects = new Map(intent.models.map((m) => [m.name, m.dialect]));
  const own6 = ends6();
  const out: SeatInputs[] = [];
  for (const plan of plansOf(layout)) {
    const { seat, links } = plan;
    const routing = routed ? routingOf(seat, asnOf.get(seat), values, six) : undefined;
    if (routed && !routing) continue;
    /** Of its numbered links: the prefix of each, and the AS number of its far end; all drawn, or the seat is left out. */
    const prefixes: (Cidr | undefined)[] = [];
    const prefixes6: (Cidr | undefined)[] = [];
    const farAses: (string | undefined)[] = [];
    let drawn = true;
    links.forEach((l, i) => {
      if (!numbered(l.link)) return;
      prefixes[i] = values.get(l.key);
      if (six) prefixes6[i] = values.get(l.key6);
      if (prefixes[i] === undefined || (six && prefixes6[i] === undefined)) drawn = false;
      farAses[i] = asnOf.get(l.far);
    });
    if (!drawn) continue;
    const internal =
      routing && ledByOspf(settings)
        ? internalOf(
            seat,
            links.flatMap((l) => (l.kind === 'fabric' ? l.far : [])),
            layout,
            values,
          )
        : undefined;
    if (internal === null) continue;
    const carriage = onSide(carriages.get(routed ? (seat.rack ?? -1) : EVERYWHERE) ?? NOTHING_CARRIED, seat);
    const servers = serversOf(seat, portsOfRack);
    const dialect = dialects.get(seat.model) ?? DIALECT_NAMES[0];
    const words: unknown[] = [fabricWords, plan, dialect, carriage, routing?.asn, routing?.loopback, routing?.vtep];
    const pairing = pairingOf(intent, seat);
    if (pairing) words.push(JSON.stringify(pairing));
    const isDrained = drained.has(seat.id);
    if (isDrained) words.push('drained');
    const neighbours = routed && carriage !== NOTHING_CARRIED ? speaksTo(seat) : [];
    const speakers = routed ? calledBy(carriage) : [];
    if (servers.length > 0) words.push(JSON.stringify(servers));
    if (neighbours.length > 0) words.push(JSON.stringify(neighbours));
    if (speakers.length > 0) words.push(JSON.stringify(speakers));
    words.push(...prefixes, ...farAses, ...prefixes6, routing?.loopback6, JSON.stringify(internal));
    const known = memo?.seats.get(seat.id);
    if (known && sameItems(known.words, words)) {
      out.push(known.made);
      continue;
    }
    const made: SeatInputs = {
      fabric,
      seat,
      dialect,
      ...(routing ? { routing: internal ? { ...routing, internal } : routing } : {}),
      links: links.map((l, i): SeatLink => {
        const [prefix, prefix6] = [prefixes[i], prefixes6[i]];
        const link: { -readonly [K in keyof SeatLink]: SeatLink[K] } = {
          kind: l.kind,
          port: l.port,
          farHost: l.far.host,
          farPort: l.farPort,
          numbered: prefix === undefined ? null : numberedLink(prefix, l.atB, Number(farAses[i] ?? 0)),
        };
        if (l.link.shut) link.shut = true;
        if (prefix6 !== undefined) link.own6 = own6(prefix6, l.atB);
        return link;
      }),
      outward: plan.outward,
      neighbours,
      speakers,
      servers,
      carriage,
      ...(pairing ? { pairing } : {}),
      ...(isDrained ? { drained: true } : {}),
    };
    memo?.seats.set(seat.id, { words, made });
    out.push(made);
  }
  return out;
}
