import { vlanOfPort } from '../config/vlanOfPort.ts';
import { naturally } from '../numbers/order.ts';
import { modelNetwork } from '../network/modelNetwork.ts';
import type { HostPort, NetworkModel } from '../network/networkModel.ts';
import { ospfIn, type OspfName } from '../network/ospfIn.ts';
import { isTenants } from '../network/sessions.ts';
import { type Cable } from '../network/cablePlan.ts';
import { linkStates, tanglesOf, type LinkState, type Move } from './links.ts';
import { adjacencyStates, sessionStates, type SessionState } from './sessions.ts';
import type { ExpectedCaller, PlannedLink, WatchedSwitch } from './seen.ts';
import { CAUSE_KINDS, draft, type Cause, type Draft } from './cause.ts';
import { drainStands, openLegs, type DrainStand } from './drained.ts';
import { lagCauses } from './lags.ts';
import { legsLost, routesLost, type ServerLeg } from './hanging.ts';
import { silent } from './silent.ts';

/** A fabric as it was read, judged against what is meant. */
export interface WatchReport {
  readonly links: readonly LinkState[];
  readonly sessions: readonly SessionState[];
  /** Neighbours by OSPF. */
  readonly adjacencies: readonly SessionState[];
  readonly causes: readonly Cause[];
  /** Switches that are meant to be drained. */
  readonly drained: readonly DrainStand[];
}

export interface WatchInputs {
  readonly switches: readonly WatchedSwitch[];
  readonly links: readonly PlannedLink[];
  /** Servers, once for each switch port they are on. */
  readonly servers: readonly ServerLeg[];
  /** Servers that speak BGP to their switch; absent = none. */
  readonly callers?: readonly ExpectedCaller[];
  /** Say which cables are mixed up also where nothing is live yet: a plan is being cabled. */
  readonly anyway?: boolean;
}
/** Above so many switches or causes, routes are not counted: the picture must not wait for them. */
const ROUTES_UP_TO_SWITCHES = 300;
const ROUTES_UP_TO_CAUSES = 12;

const linkWords = (l: PlannedLink): string => `${l.a.host} ${l.a.port} – ${l.b.host} ${l.b.port}`;
const overWords = ({ by, port, vrf }: SessionState): string =>
  `${port === null ? 'between their loopbacks' : `over ${port}`}${vrf === undefined ? '' : ` in ${vrf}`}${by === undefined ? '' : ` by ${by}`}`;
const sessionWords = (s: SessionState): string => `${s.host} – ${s.farHost} ${overWords(s)}`;

/**
 * What is wrong in a fabric now: causes first, each with the links, sessions, routes and servers that hang on it. A switch
 * that nobody reaches stands before its links, a hand edit before the sessions it closes, a cable before its session.
 */
export function watchFabric({ switches, links, servers, callers = [], anyway = false }: WatchInputs): WatchReport {
  const byHost = new Map(switches.map((s) => [s.host, s]));
  const states = linkStates(links, byHost);
  const meant = modelOf(switches, links, (s) => s.meant);
  const runs = modelOf(switches, links, (s) => s.runs ?? s.meant);
  const sessions = sessionStates(meant, byHost, callers);
  const adjacencies = adjacencyStates(meant, byHost);
  // What is wrong with a switch that has nothing of ours yet is not wrong with the fabric.
  const judged = (l: PlannedLink): boolean => [l.a, l.b].every((e) => byHost.get(e.host)?.meant != null);
  const causes: Draft[] = [...silent(switches, states), ...edited(switches, states)];
  const linkCause = new Map<string, Draft>();
  const claim = (c: Draft, own: readonly LinkState[]): void => {
    for (const l of own) linkCause.set(l.id, c);
  };
  for (const c of causes) claim(c, c.links);
  for (const tangle of tanglesOf(states)) {
    if (!anyway && !tangle.links.every(judged)) continue;
    const c = tangleCause(tangle.links, tangle.moves);
    causes.push(c);
    claim(c, tangle.links);
  }
  for (const l of states) {
    if ((l.stand !== 'no signal' && l.stand !== 'not seen') || linkCause.has(l.id) || !judged(l)) continue;
    const c = cableCause(l, byHost);
    causes.push(c);
    claim(c, [l]);
  }
  const lags = lagCauses(switches);
  causes.push(...lags.map((l) => l.cause));
  const darkLags = new Map(lags.flatMap((l) => (l.isDark ? [[`${l.host} ${l.lag}`, l.cause] as const] : [])));
  // Sessions go by what OSPF leads to: it comes first.
  const isDark = (host: string, port: string): boolean => byHost.get(host)?.seen?.signal.get(port) === false;
  hangSessions([...adjacencies, ...sessions], { causes, linkCause, darkLags, isDark, states, runs });
  const counted = causes.length <= ROUTES_UP_TO_CAUSES && switches.length <= ROUTES_UP_TO_SWITCHES;
  const open = openLegs(servers, byHost);
  const legs = legsLost(causes, open, byHost, states);
  const order = (c: Draft): number => CAUSE_KINDS.indexOf(c.kind);
  return {
    links: states,
    sessions,
    adjacencies,
    drained: drainStands(switches, open, runs),
    causes: causes
      .map((c): Cause => ({
        key: c.key,
        kind: c.kind,
        hosts: c.hosts,
        title: c.title,
        details: c.details,
        links: c.links.map(linkWords),
        sessions: c.sessions.map(sessionWords),
        ...legs(c),
        routes: counted ? routesLost(meant, c, links) : null,
        moves: c.moves,
        maybeSettling: c.maybeSettling,
      }))
      .map((c, i) => ({ c, at: order(causes[i]!) }))
      .sort((x, y) => x.at - y.at || naturally(x.c.key, y.c.key))
      .map(({ c }) => c),
  };
}

function modelOf(
  switches: readonly WatchedSwitch[],
  links: readonly PlannedLink[],
  which: (s: WatchedSwitch) => WatchedSwitch['meant'],
): NetworkModel {
  const read = switches.flatMap((s) => {
    const config = which(s);
    return config === null ? [] : [{ host: s.host, config, unread: [] }];
  });
  return modelNetwork(
    read,
    links.map(({ a, b }): Cable => ({ a, b })),
    [] as HostPort[],
  );
}

function edited(switches: readonly WatchedSwitch[], states: readonly LinkState[]): Draft[] {
  return switches.flatMap((s) => {
    if (s.byHand.length === 0 || s.out) return [];
    const shut = (s.runs?.ports ?? []).filter(
      (p) => p.shut === true && s.meant?.ports.find((m) => m.name === p.name)?.shut !== true,
    );
    const names = new Set(shut.map((p) => p.name));
    return [
      draft({
        key: `edited:${s.host}`,
        kind: 'edited',
        hosts: [s.host],
        title: `${s.host} was edited by hand`,
        details: [...s.byHand],
        links: states.filter(
          (l) =>
            l.stand === 'shut' &&
            ((l.a.host === s.host && names.has(l.a.port)) || (l.b.host === s.host && names.has(l.b.port))),
        ),
        deadPorts: new Set(shut.map((p) => `${s.host} ${p.name}`)),
      }),
    ];
  });
}

function tangleCause(links: readonly LinkState[], moves: readonly Move[]): Draft {
  const first = links[0]!;
  const hosts = [...new Set(moves.flatMap((m) => [m.from.host, m.to.host]))];
  return draft({
    key: `miscabled:${links
      .map((l) => l.id)
      .sort(naturally)
      .join(',')}`,
    kind: 'miscabled',
    hosts: hosts.length > 0 ? hosts : [first.a.host, first.b.host],
    title:
      links.length === 1
        ? `A cable of ${first.a.host} is in the wrong port`
        : `${links.length} cables are mixed up at ${hosts.slice(0, 3).join(', ')}`,
    details: links.slice(0, 6).map((l) => {
      const sees = (end: LinkState['a'], far: LinkState['aSees']): string =>
        `${end.host} ${end.port} sees ${far ? `${far.host} ${far.port}` : 'nobody'}`;
      return `${sees(l.a, l.aSees)}, meant ${l.b.host} ${l.b.port}`;
    }),
    links: [...links],
    moves,
  });
}

function cableCause(l: LinkState, byHost: ReadonlyMap<string, WatchedSwitch>): Draft {
  const dark = [l.a, l.b].filter((e) => byHost.get(e.host)?.seen?.signal.get(e.port) === false);
  const read = [l.a, l.b].filter((e) => byHost.get(e.host)?.seen);
  const said =
    dark.length === 2
      ? 'both ends say no signal'
      : dark.length === 1
        ? `${dark[0]!.host} says no signal${read.length === 2 ? '' : `, ${[l.a, l.b].find((e) => !read.includes(e))!.host} was not read`}`
        : 'there is signal, but neither end sees a neighbour';
  return draft({
    key: `cable:${l.id}`,
    kind: 'cable',
    hosts: [l.a.host, l.b.host],
    title:
      l.stand === 'no signal'
        ? `Cable out between ${l.b.host} ${l.b.port} and ${l.a.host} ${l.a.port}`
        : `Nobody is seen between ${l.b.host} ${l.b.port} and ${l.a.host} ${l.a.port}`,
    details: [said],
    links: [l],
  });
}

/** What the texts that run make of a session: is it in both, would it be down, and why. */
interface Said {
  readonly there: boolean;
  readonly bad: boolean;
  readonly why: string | null;
}
/** What explains that sessions are down. */
interface Explaining {
  readonly causes: Draft[];
  /** By link. */
  readonly linkCause: ReadonlyMap<string, Draft>;
  /** LAGs without a cable, by `host lag`. */
  readonly darkLags: ReadonlyMap<string, Draft>;
  /** Does a switch say that a port has no signal? */
  readonly isDark: (host: string, port: string) => boolean;
  readonly states: readonly LinkState[];
  readonly runs: NetworkModel;
}
/** Every session that is down hangs on what explains it, or stands for itself with what both ends say. */
function hangSessions(
  sessions: readonly SessionState[],
  { causes, linkCause, darkLags, isDark, states, runs }: Explaining,
): void {
  const linkAt = new Map(states.flatMap((l) => [l.a, l.b].map((e) => [`${e.host} ${e.port}`, l.id] as const)));
  const modelled = new Map(runs.sessions.filter((s) => !isTenants(s)).map((s) => [`${s.host} ${s.peer}`, s]));
  /** What the texts that run would make of a session. */
  const saidOf = (s: SessionState): Said => {
    const ends = [modelled.get(`${s.host} ${s.peer}`), modelled.get(`${s.farHost} ${s.farPeer}`)];
    const { ipv4, ipv6, evpn } = s.carries;
    const bad = ends.find((e) => e && !(e.up && (e.ipv4 || !ipv4) && (e.ipv6 || !ipv6) && (e.evpn || !evpn)));
    const reasons = bad && [bad.reason, ipv4 ? bad.ipv4Reason : null, ipv6 ? bad.ipv6Reason : null, bad.evpnReason];
    return { there: !ends.includes(undefined), bad: bad !== undefined, why: reasons?.find((r) => r !== null) ?? null };
  };
  const adjacencies = new Map(
    ospfIn(runs).flatMap(({ by, ospf }) => ospf.adjacencies.map((a) => [`${by} ${a.host} ${a.port}`, a] as const)),
  );
  const adjacentOf = (s: SessionState, by: OspfName): Said => {
    const ends = [adjacencies.get(`${by} ${s.host} ${s.peer}`), adjacencies.get(`${by} ${s.farHost} ${s.farPeer}`)];
    const bad = ends.find((e) => e && !e.up);
    return { there: !ends.includes(undefined), bad: bad !== undefined, why: bad?.reason ?? null };
  };
  const edits = new Map(causes.filter((c) => c.kind === 'edited').map((c) => [c.hosts[0]!, c]));
  const unread = new Map(causes.filter((c) => c.kind === 'unread').flatMap((c) => c.hosts.map((h) => [h, c] as const)));
  /** What takes all of some links; undefined = one is left. */
  const takenBy = (own: readonly LinkState[]): Draft | undefined =>
    own.every((l) => linkCause.has(l.id)) ? linkCause.get(own[0]?.id ?? '') : undefined;
  const linksOf = (host: string): LinkState[] => states.filter((l) => l.a.host === host || l.b.host === host);
  /** Why there is no way between two switches: what takes the links that join them, or the last ones of either. */
  const noWay = (host: string, far: string): Draft | undefined =>
    takenBy(linksOf(host).filter((l) => l.a.host === far || l.b.host === far)) ??
    takenBy(linksOf(host)) ??
    takenBy(linksOf(far));
  for (const s of sessions) {
    if (s.stand !== 'down') continue;
    const linkOf = (port: string): string | undefined => linkAt.get(`${s.host} ${port}`);
    const whole = s.port === null ? null : vlanOfPort(s.port, (port) => linkOf(port) !== undefined);
    const link = s.port === null ? undefined : linkOf(whole?.port ?? s.port);
    const onLag = (port: string): Draft | undefined => darkLags.get(`${s.host} ${port}`);
    const ofLag =
      s.port === null
        ? undefined
        : (onLag(s.port) ?? onLag(vlanOfPort(s.port, (port) => onLag(port) !== undefined)?.port ?? ''));
    const { there, bad, why } = s.by === undefined ? saidOf(s) : adjacentOf(s, s.by);
    const cause =
      (link === undefined ? undefined : linkCause.get(link)) ??
      ofLag ??
      (s.port === null ? noWay(s.host, s.farHost) : undefined) ??
      (bad || !there ? (edits.get(s.host) ?? edits.get(s.farHost)) : undefined) ??
      unread.get(s.host) ??
      unread.get(s.farHost);
    if (cause) {
      cause.sessions.push(s);
      continue;
    }
    if (s.vrf !== undefined) {
      const port = s.port === null ? null : (vlanOfPort(s.port, (p) => isDark(s.host, p))?.port ?? s.port);
      causes.push(outsideCause(s, s.vrf, port !== null && isDark(s.host, port) ? port : null));
      continue;
    }
    causes.push(
      draft({
        key: `session:${s.host} ${s.by === undefined ? '' : `${s.by} `}${s.peer}`,
        kind: 'session',
        hosts: [s.host, s.farHost],
        title:
          s.by === undefined
            ? `Session between ${s.host} and ${s.farHost} is down`
            : `${s.host} and ${s.farHost} are no neighbours by ${s.by}`,
        details: [
          `it is ${s.word ?? 'down'} ${overWords(s)}${s.port === null ? '' : ', with signal at both ends'}`,
          why === null ? 'both texts would bring it up: it may still be settling, or the daemon does not run' : why,
        ],
        sessions: [s],
        maybeSettling: why === null,
      }),
    );
  }
}

/**
 * A router outside is not ours to read: only our end is known.
 * @param dark the port it is spoken to over, where that says that it has no signal
 */
const outsideCause = (s: SessionState, vrf: string, dark: string | null): Draft =>
  draft({
    key: `session:${s.host} ${vrf} ${s.peer}`,
    kind: 'session',
    hosts: [s.host],
    title: `Session of ${vrf} from ${s.host} to ${s.peer} is down`,
    details: [
      `it is ${s.word ?? 'down'}${s.port === null ? '' : ` over ${s.port}`}`,
      dark === null
        ? 'the router is not ours to read: look at its cable, its address, its AS number and what it says of us'
        : `${dark} says no signal: look at its cable, and whether the port at the far end is open`,
    ],
    sessions: [s],
    maybeSettling: dark === null,
  });
