import { parseIpv4, type Cidr } from '../numbers/ipv4.ts';
import { holdsAny, formatAny, parseAnyCidr, parseAnyPrefix, networkOfAny, type AnyPrefix } from '../numbers/prefix.ts';
import type { UnicastFamily } from '../config/bgp.ts';
import { asksAround } from '../config/drained.ts';
import { onceFor } from '../onceFor.ts';
import { classesOf } from './alike.ts';
import { alikeOutside, type AlikeRouters } from './alikeOutside.ts';
import {
  bySelf,
  inPlaceOf,
  originInPlaceOf,
  together,
  type FamilyPaths,
  type Likeness,
  type OriginRows,
  type PathRow,
} from './familyRows.ts';
import { alikeWithin } from './alikeWithin.ts';
import { everybodyOf } from './bgp.ts';
import { chancesOf, type HeldRoute } from './bestRoute.ts';
import { settleRoutes, type Settled } from './bgpRoutes.ts';
import type { OspfRoute } from './ospf.ts';
import { BY_CHANCE, settlePaths, type PathEdge } from './pathVector.ts';
import { prefixQuestions } from './policyLists.ts';
import { DEFAULT_MAXIMUM_PATHS, plainEdges, routedFamily, type Routed, type RoutedFamily } from './routedFamily.ts';
import { type Family, LOCAL_PREFERENCE, OWN_ATTRIBUTES, type Attributes } from './routes.ts';
import { carriesAcross, isTenants, type Session } from './sessions.ts';
import type { SwitchView } from './switchView.ts';

/** Why the paths of a router to an address are not certain; 0 = they are. */
export const CERTAIN = 0;
/** The routes never come to rest, or in more than one way. */
export const RESTLESS = 1;
/** They were handed on by iBGP, with a next hop that may not be known there. */
export const HANDED_ON = 2;
/** They came over a session that was favoured. */
export const FAVOURED = 4;

const sameEdges = (a: readonly PathEdge[], b: readonly PathEdge[]): boolean =>
  a.length === b.length &&
  a.every((e, i) => e.from === b[i]!.from && e.to === b[i]!.to && e.ownAsAllowed === b[i]!.ownAsAllowed);

/** An aggregate of a switch, with its prefix as numbers. */
export interface OwnAggregate {
  readonly prefix: AnyPrefix;
  readonly summaryOnly: boolean;
}
export const aggregatesOf = onceFor(({ aggregates }: UnicastFamily): readonly OwnAggregate[] =>
  (aggregates ?? []).flatMap((a) => {
    const prefix = parseAnyPrefix(a.prefix);
    return prefix ? [{ prefix, summaryOnly: a.summaryOnly ?? false }] : [];
  }),
);
const NO_AGGREGATES: readonly OwnAggregate[] = [];
const aggregatesIn = ({ config }: SwitchView): readonly OwnAggregate[] =>
  config.bgp ? aggregatesOf(config.bgp.ipv4) : NO_AGGREGATES;
export const isWithin = (inner: AnyPrefix, outer: AnyPrefix): boolean =>
  inner.length > outer.length && holdsAny(outer, inner);
/** What aggregates of a router say of a prefix: that others are not told of it. */
export const isSuppressed = (aggregates: readonly OwnAggregate[], prefix: AnyPrefix): boolean =>
  aggregates.some((a) => a.summaryOnly && isWithin(prefix, a.prefix));

/** Every prefix that some switch announces in the underlay, aggregates among them; with the default route that is told to some. */
export const announcedPrefixes = onceFor((views: ReadonlyMap<string, SwitchView>): ReadonlyMap<Cidr, AnyPrefix> => {
  const out = new Map<Cidr, AnyPrefix>();
  for (const view of views.values()) {
    for (const [text, { prefix }] of view.ownRoutes) out.set(text, prefix);
    for (const { prefix } of aggregatesIn(view)) out.set(formatAny(prefix), prefix);
    if (everybodyOf(view).some((p) => p.ipv4Policy.defaultOriginate)) out.set('0.0.0.0/0', { address: 0, length: 0 });
  }
  return out;
});

/** Has a switch an aggregate of just that prefix, and something within it, so that it tells it? */
function tellsAggregate(routed: Routed, family: RoutedFamily, host: string, prefix: AnyPrefix): boolean {
  const view = routed.views.get(host)!;
  const text = formatAny(prefix);
  if (!aggregatesIn(view).some((a) => formatAny(a.prefix) === text)) return false;
  const inner = [...announcedPrefixes(routed.views).values()].filter((p) => isWithin(p, prefix));
  const own = inner.some((p) => view.ownRoutes.has(formatAny(p)));
  return own || inner.some((p) => settlePrefix(routed, family, p).held[routed.index.get(host)!]!.length > 0);
}

/**
 * Settles one prefix of the underlay, announced by those that announce it, and told as an aggregate by those that have one.
 * @param only of those that announce it this one alone
 */
export function settlePrefix(routed: Routed, family: RoutedFamily, prefix: AnyPrefix, only?: string): Settled {
  const { switches, views, index } = routed;
  const own = new Map<number, Attributes>();
  const text = formatAny(prefix);
  for (const { host } of only === undefined ? switches : [{ host: only }]) {
    const route = views.get(host)!.ownRoutes.get(text);
    if (route) own.set(index.get(host)!, route.attributes);
    else if (tellsAggregate(routed, family, host, prefix)) own.set(index.get(host)!, OWN_ATTRIBUTES);
  }
  const passes = (r: number): boolean => !isSuppressed(aggregatesIn(views.get(switches[r]!.host)!), prefix);
  return settleRoutes(family.routers, family.edges, prefix, own, passes);
}

function rowOf({ held, rests }: Settled, size: number): PathRow {
  const counts = new Uint16Array(size);
  const unsure = new Uint8Array(size);
  held.forEach((routes, r) => {
    counts[r] = routes.length;
    if (!rests) unsure[r] = RESTLESS;
    if (chancesOf(routes).some((c) => c.length !== routes.length)) unsure[r] = unsure[r]! | BY_CHANCE;
    for (const h of routes)
      unsure[r] =
        unsure[r]! | (h.handedOn || h.via !== undefined ? HANDED_ON : CERTAIN) | (h.favoured ? FAVOURED : CERTAIN);
  });
  return { counts, unsure };
}

/** Routes of OSPF come before what iBGP brings, and after what eBGP does (administrative distances of FRR: 20, 110, 200). */
export const ospfComesFirst = (held: readonly HeldRoute[], route: OspfRoute | null | undefined): route is OspfRoute =>
  route !== null && route !== undefined && route.kind !== 'own' && (held[0]?.internal ?? true);

function besideOspf(row: PathRow, { held }: Settled, routes: readonly (OspfRoute | null)[] | undefined): PathRow {
  routes?.forEach((route, r) => {
    if (!ospfComesFirst(held[r]!, route)) return;
    row.counts[r] = route.over.length;
    row.unsure[r] = CERTAIN;
  });
  return row;
}

/** What policies of a fabric can tell a prefix by: two that answer alike settle alike, where the same switch announces them. */
function tellerApart({ switches, views }: Routed): (prefix: AnyPrefix) => string {
  const questions = new Map(switches.flatMap((s) => [...prefixQuestions(s.config)]));
  const around = [...views.values()].flatMap((v) => aggregatesIn(v).map((a) => a.prefix));
  return (prefix) =>
    [...questions.values()].map((q) => (q(prefix) ? '1' : '0')).join('') +
    around.map((a) => (isWithin(prefix, a) ? '1' : '0')).join('');
}

/** All that decides how an address of a switch settles, but for whose it is. */
function wordsOfAddress(view: SwitchView, prefix: AnyPrefix, apart: (p: AnyPrefix) => string): string {
  const text = formatAny(prefix);
  const { area = '', cost = 0 } = view.ospf?.origins.get(text) ?? {};
  return `${apart(prefix)} ${area} ${cost} ${JSON.stringify(view.ownRoutes.get(text)?.attributes)}`;
}
/** What one switch announces with policies: a class of addresses that nothing tells apart is settled once. */
function settleAddresses(
  routed: Routed,
  family: RoutedFamily,
  host: string,
  apart: (p: AnyPrefix) => string,
): OriginRows {
  const view = routed.views.get(host)!;
  const size = routed.switches.length;
  const counts = new Uint16Array(size);
  const unsure = new Uint8Array(size);
  const byAddress = new Map<string, PathRow>();
  const classes = new Map<string, PathRow>();
  for (const address of view.announced) {
    const prefix = loopbackPrefix(view, address);
    const key = wordsOfAddress(view, prefix, apart);
    let paths = classes.get(key);
    // Each switch by itself: an address that two have is uncertain anyway.
    if (!paths) {
      const settled = settlePrefix(routed, family, prefix, host);
      const routes = routed.ospf?.routesTo(formatAny(prefix), host);
      classes.set(key, (paths = besideOspf(rowOf(settled, size), settled, routes)));
    }
    for (let r = 0; r < size; r++) {
      counts[r] = byAddress.size === 0 ? paths.counts[r]! : Math.min(counts[r]!, paths.counts[r]!);
      unsure[r] = unsure[r]! | paths.unsure[r]!;
    }
    byAddress.set(address, paths);
  }
  if (byAddress.size === 0) counts[routed.index.get(host)!] = 1;
  return { counts, unsure, byAddress };
}
/** Switches whose addresses settle alike: OSPF alone leads to them, or eBGP alone, and they may change places in it. */
function alikeInUnderlay(
  { switches, views, ospf }: Routed,
  { routers, edges }: RoutedFamily,
  apart: (p: AnyPrefix) => string,
): AlikeRouters | undefined {
  if (ospf && edges.length > 0) return undefined;
  const { classes, swaps } = ospf ? { classes: ospf.alike(), swaps: bySelf } : alikeOutside(routers, edges);
  return {
    classes: classesOf(
      switches.map(({ host }, i) => {
        const view = views.get(host)!;
        if (classes[i]! < 0 || aggregatesIn(view).length > 0) return null;
        const own = [...view.announced].map((a) => wordsOfAddress(view, loopbackPrefix(view, a), apart));
        return `${classes[i]}\n${own.join('\n')}`;
      }),
    ),
    swaps,
  };
}
/** Switches whose EVPN routes settle alike: all speak iBGP, or all eBGP. */
const alikeInEvpn = ({ routers, edges }: RoutedFamily): AlikeRouters =>
  edges.some((e) => !e.internal)
    ? alikeOutside(routers, edges)
    : { classes: alikeWithin(routers, edges), swaps: bySelf };

/**
 * What routers settle to for EVPN routes of one switch.
 * @param attributes of the route as the switch has it; absent = as of what it has itself
 */
export function settleEvpn(
  { switches, views }: Routed,
  { routers, edges }: RoutedFamily,
  origin: number,
  attributes?: Attributes,
): Settled {
  const localPreference = views.get(switches[origin]!.host)!.config.bgp?.localPreference ?? LOCAL_PREFERENCE;
  return settleRoutes(
    routers,
    edges,
    ANY_PREFIX,
    new Map([[origin, attributes ?? { ...EVPN_ROUTE, localPreference }]]),
  );
}
function evpnRow(routed: Routed, family: RoutedFamily, origin: number): PathRow {
  const { counts, unsure } = rowOf(settleEvpn(routed, family, origin), routed.switches.length);
  // Its next hop is a VTEP, which the underlay leads to.
  return { counts, unsure: unsure.map((u) => u & ~(HANDED_ON | BY_CHANCE)) };
}

const loopbackPrefix = (view: SwitchView, address: string): AnyPrefix =>
  networkOfAny(parseAnyCidr(view.config.loopbacks.find((l: Cidr) => l.startsWith(`${address}/`))!)!);

/** What EVPN routes look like to policies: of their prefixes these do not ask. */
const ANY_PREFIX: AnyPrefix = { address: 0, length: 32 };
export const EVPN_ROUTE: Attributes = { ...OWN_ATTRIBUTES, origin: 'igp' };
/**
 * Paths of both families over some sessions. Where no policy comes in, shortest paths say all there is to say; else every
 * prefix that policies can tell apart is settled by itself.
 */
export function settleFamilies(routed: Routed, sessions: readonly Session[]): Families {
  const { underlay, evpn } = familiesOver(routed, sessions);
  return { underlay, evpn: evpn() };
}
/** As `settleFamilies`, with paths of EVPN for those who ask. */
export function familiesOver(
  routed: Routed,
  sessions: readonly Session[],
): { readonly underlay: FamilyPaths; readonly evpn: () => FamilyPaths } {
  const size = routed.switches.length;
  const plain = isPlain(routed, sessions);
  const policed = rowsByOrigin(routed, sessions);
  const ipv4Edges = plain.ipv4 ? plainEdges(sessions, routed, 'ipv4') : null;
  const underlay: FamilyPaths = ipv4Edges
    ? settlePaths(plainRouters(routed), ipv4Edges)
    : together(size, policed.ipv4, policed.alikeInUnderlay());
  const evpn = (): FamilyPaths => {
    if (!plain.evpn) return together(size, policed.evpn, policed.alikeInEvpn());
    const evpnEdges = plainEdges(sessions, routed, 'evpn');
    const same = ipv4Edges !== null && sameEdges(ipv4Edges, evpnEdges);
    return same ? underlay : settlePaths(plainRouters(routed), evpnEdges);
  };
  return { underlay, evpn };
}
export interface Families {
  readonly underlay: FamilyPaths;
  readonly evpn: FamilyPaths;
}

/** Families whose paths are settled for all switches at once; tables of IPv6 are as they are asked about. */
type SettledFamily = Exclude<Family, 'ipv6'>;

/** Do shortest paths say all there is to say? */
function isPlain({ views, ospf }: Routed, sessions: readonly Session[]): Readonly<Record<SettledFamily, boolean>> {
  const all = [...views.values()];
  // Next hops that are not next door are resolved by other routes.
  const overRoutes = sessions.some((s) => s.up && s.ipv4 && (s.port === null || carriesAcross(s)) && !isTenants(s));
  // Within an AS the path does not grow, and what one hears there he tells nobody else there.
  const within = (f: SettledFamily): boolean =>
    sessions.some((s) => s.up && s[f] && s.localAs === s.remoteAsHad && !isTenants(s));
  return {
    ipv4: !ospf && !overRoutes && !within('ipv4') && all.every((v) => v.plain.ipv4 && !asksAround(v.config)),
    evpn: !within('evpn') && all.every((v) => v.plain.evpn && !asksAround(v.config)),
  };
}
const plainRouters = ({ switches }: Routed) =>
  switches.map((s) => ({
    asn: s.config.bgp?.asn ?? 0,
    routerId: parseIpv4(s.config.bgp?.routerId ?? '') ?? 0,
    maximumPaths: s.config.bgp?.ipv4.maximumPaths ?? DEFAULT_MAXIMUM_PATHS,
    multipathRelax: s.config.bgp?.multipathRelax ?? false,
  }));

/** Both families with policies, a switch at a time. */
function rowsByOrigin(routed: Routed, sessions: readonly Session[], favoured?: ReadonlySet<Session>) {
  const families = { ipv4: null as RoutedFamily | null, evpn: null as RoutedFamily | null };
  const family = (which: SettledFamily): RoutedFamily =>
    (families[which] ??= routedFamily(sessions, routed, which, favoured));
  let known: ((prefix: AnyPrefix) => string) | null = null;
  const apart = (prefix: AnyPrefix): string => (known ??= tellerApart(routed))(prefix);
  return {
    ipv4: (o: number): OriginRows => settleAddresses(routed, family('ipv4'), routed.switches[o]!.host, apart),
    evpn: (o: number): PathRow => evpnRow(routed, family('evpn'), o),
    alikeInUnderlay: (): Likeness<OriginRows> | undefined => {
      const alike = alikeInUnderlay(routed, family('ipv4'), apart);
      return alike && { ...alike, inPlaceOf: (row, swaps) => originInPlaceOf(routed, row, swaps) };
    },
    alikeInEvpn: (): Likeness<PathRow> => ({ ...alikeInEvpn(family('evpn')), inPlaceOf }),
  };
}

/** Paths to one switch: with one row, or with its row among all. */
export interface PathsTo {
  readonly paths: (family: 'underlay' | 'evpn', router: number, address?: string) => number;
  readonly unsure: (family: 'underlay' | 'evpn', router: number, address?: string) => number;
}
/** Paths as they were settled for all, seen from one origin. */
export const pathsOf = (families: Families, origin: number): PathsTo => ({
  paths: (family, router, address) => pathsIn(families[family], origin, router, address),
  unsure: (family, router, address) => unsureIn(families[family], origin, router, address),
});
/**
 * Paths over some sessions, settled for an origin when it is asked about.
 * @param favoured sessions of which it is asked what were if all that comes over them was taken before all else
 */
export function settleAsAsked(
  routed: Routed,
  sessions: readonly Session[],
  favoured?: ReadonlySet<Session>,
): (origin: number) => PathsTo {
  const plain = isPlain(routed, sessions);
  if (!favoured && plain.ipv4 && plain.evpn) {
    const families = settleFamilies(routed, sessions);
    return (origin) => pathsOf(families, origin);
  }
  const rows = rowsByOrigin(routed, sessions, favoured);
  const known = new Map<number, PathsTo>();
  return (origin) => {
    let made = known.get(origin);
    if (!made) {
      const all: Partial<Record<'underlay' | 'evpn', PathRow & Partial<OriginRows>>> = {};
      const row = (f: 'underlay' | 'evpn', address?: string): PathRow => {
        const own: PathRow & Partial<OriginRows> = (all[f] ??=
          f === 'underlay' ? rows.ipv4(origin) : rows.evpn(origin));
        return (address === undefined ? undefined : own.byAddress?.get(address)) ?? own;
      };
      made = { paths: (f, r, a) => row(f, a).counts[r]!, unsure: (f, r, a) => row(f, a).unsure[r]! };
      known.set(origin, made);
    }
    return made;
  };
}

/** Equal paths of a router to an address of a switch, by the underlay’s rows. */
export function pathsIn(paths: FamilyPaths, origin: number, router: number, address?: string): number {
  const row = address === undefined ? undefined : paths.byAddress?.get(address);
  return row ? row.counts[router]! : paths.counts[origin * paths.size + router]!;
}
/** How sure that is. */
export function unsureIn(paths: FamilyPaths, origin: number, router: number, address?: string): number {
  const row = address === undefined ? undefined : paths.byAddress?.get(address);
  return row ? row.unsure[router]! : (paths.unsure?.[origin * paths.size + router] ?? CERTAIN);
}
