import type { NetworkModel } from '../network/networkModel.ts';
import { ospfIn, type OspfName } from '../network/ospfIn.ts';
import { isTenants } from '../network/sessions.ts';
import { NO_CABLES } from '../network/cablePlan.ts';
import { speakerOf, wayTo } from '../network/sessionWays.ts';
import { viewOf } from '../network/switchView.ts';
import { familyOfText } from '../numbers/prefix.ts';
import { seenAdjacent, seenPeer, type ExpectedCaller, type WatchedSwitch } from './seen.ts';

/** A BGP session between two switches of the fabric, both ends together, or of a tenant to a router outside or a server; or OSPF over a link. */
export interface SessionState {
  /** Absent = BGP. */
  readonly by?: OspfName;
  readonly host: string;
  /** The tenant whose it is. */
  readonly vrf?: string;
  /** By OSPF the port. */
  readonly peer: string;
  /** Port it runs over at this end; null = between loopbacks, by whatever way leads there. */
  readonly port: string | null;
  /** What it is meant to carry. */
  readonly carries: { readonly ipv4: boolean; readonly ipv6: boolean; readonly evpn: boolean };
  /** Of a router outside, or a server, its address. */
  readonly farHost: string;
  readonly farPeer: string;
  readonly stand: 'up' | 'down' | 'unread' | 'out';
  /** Word an end that was read has for it where it is down, such as Active. */
  readonly word: string | null;
}

/** Sessions that are meant to be up, each once, beside what the switches say of them. */
export function sessionStates(
  meant: NetworkModel,
  switches: ReadonlyMap<string, WatchedSwitch>,
  callers: readonly ExpectedCaller[] = [],
): SessionState[] {
  const out: SessionState[] = [];
  const done = new Set<string>();
  for (const s of meant.sessions) {
    if (!s.up || s.farHost === null || s.farPeer === null || isTenants(s)) continue;
    if (done.has(`${s.farHost} ${s.farPeer}`)) continue;
    done.add(`${s.host} ${s.peer}`);
    const ends = [
      [switches.get(s.host), s.peer],
      [switches.get(s.farHost), s.farPeer],
    ] as const;
    const { host, peer, port, farHost, farPeer } = s;
    const base = { host, peer, port, farHost, farPeer, carries: { ipv4: s.ipv4, ipv6: s.ipv6, evpn: s.evpn } };
    if (ends.some(([w]) => !w || w.out)) {
      out.push({ ...base, stand: 'out', word: null });
      continue;
    }
    const words = ends.flatMap(([w, peer]) => {
      if (!w?.seen) return [];
      const said = w.seen.peers.get(peer);
      const bad = (
        [
          [s.ipv4, said?.ipv4],
          [s.ipv6, said?.ipv6],
          [s.evpn, said?.evpn],
        ] as const
      ).find(([wanted, word]) => wanted && word !== 'Established');
      return [bad ? (bad[1] ?? 'not there') : null];
    });
    const word = words.find((w) => w !== null) ?? null;
    out.push({ ...base, stand: words.length === 0 ? 'unread' : word === null ? 'up' : 'down', word });
  }
  return [...out, ...outsideSessions(switches, callers)];
}

/** Neighbours by OSPF that are meant to be there, each once, beside what the switches say of them. */
export function adjacencyStates(meant: NetworkModel, switches: ReadonlyMap<string, WatchedSwitch>): SessionState[] {
  const out: SessionState[] = [];
  for (const { by, ospf } of ospfIn(meant)) {
    const done = new Set<string>();
    for (const { up, host, port, farHost, farPort } of ospf.adjacencies) {
      if (!up || farHost === null || farPort === null || done.has(`${farHost} ${farPort}`)) continue;
      done.add(`${host} ${port}`);
      const carries = { ipv4: false, ipv6: false, evpn: false };
      const base = { by, host, peer: port, port, carries, farHost, farPeer: farPort };
      const ends = [switches.get(host), switches.get(farHost)];
      if (ends.some((w) => !w || w.out)) {
        out.push({ ...base, stand: 'out', word: null });
        continue;
      }
      const words = [port, farPort].flatMap((own, i) => {
        const adjacent = ends[i]!.seen?.adjacent;
        return adjacent ? (adjacent.get(seenAdjacent(by, own)) ?? 'not there') : [];
      });
      const word = words.find((w) => w !== 'Full') ?? null;
      out.push({ ...base, stand: words.length === 0 ? 'unread' : word === null ? 'up' : 'down', word });
    }
  }
  return out;
}

/** A session of a tenant of which one end is ours to read. */
function oneEnded(w: WatchedSwitch, vrf: string, peer: string, port: string | null): SessionState {
  const six = familyOfText(peer) === 6;
  const word = w.seen?.peers.get(seenPeer(vrf, peer))?.[six ? 'ipv6' : 'ipv4'] ?? 'not there';
  const stand = w.out ? 'out' : !w.seen ? 'unread' : word === 'Established' ? 'up' : 'down';
  return {
    host: w.host,
    vrf,
    peer,
    port,
    carries: { ipv4: !six, ipv6: six, evpn: false },
    farHost: peer,
    farPeer: w.host,
    stand,
    word: stand === 'down' ? word : null,
  };
}

/** Sessions of tenants to routers outside and to servers. */
function outsideSessions(
  switches: ReadonlyMap<string, WatchedSwitch>,
  callers: readonly ExpectedCaller[],
): SessionState[] {
  const servers = callers.flatMap(({ host, vrf, address, port }) => {
    const w = switches.get(host);
    // What is meant there may be older than what is live.
    const caller = w?.meant && viewOf(w.meant).router(vrf)?.peer(address);
    return w && caller && !caller.shutdown ? oneEnded(w, vrf, address, port) : [];
  });
  const routers = [...switches.values()].flatMap((w) =>
    (w.meant?.bgp?.vrfs ?? []).flatMap(({ vrf, peers }) =>
      peers.flatMap((p): SessionState[] =>
        p.kind !== 'address' || p.shutdown ? [] : [oneEnded(w, vrf, p.name, outwardPort(w, vrf, p.name))],
      ),
    ),
  );
  return [...routers, ...servers];
}

/** The port that a router outside is next door on, or behind; null = it is on none. */
function outwardPort({ host, meant }: WatchedSwitch, vrf: string, address: string): string | null {
  const view = viewOf(meant!);
  const router = speakerOf(host, view, vrf);
  const peer = router?.router.peer(address);
  if (!router || !peer) return null;
  const way = wayTo(router, peer, new Map([[host, view]]), NO_CABLES);
  return 'why' in way ? null : way.port;
}
