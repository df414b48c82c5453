import type { BgpFamily, BgpPeer, BgpSpeaker, UnicastFamily } from '../config/bgpParts.ts';
import { sortPeers } from '../config/bgpParts.ts';
import type { FilterTable, FilterValues } from '../config/filters.ts';
import type { OspfPort } from '../config/ospf.ts';
import { staticKey } from '../config/static.ts';
import type { Place, SwitchConfig } from '../config/switchConfig.ts';
import { naturally } from '../numbers/order.ts';
import { familyOfText } from '../numbers/prefix.ts';

type Rename = (name: string) => string;

const sorted = (names: readonly string[], to: Rename): string[] => names.map(to).sort(naturally);
const byName = <T extends { readonly name: string }>(items: readonly T[], to: Rename): T[] =>
  items.map((i) => ({ ...i, name: to(i.name) })).sort((a, b) => naturally(a.name, b.name));
const keys = <V>(of: Readonly<Record<string, V>>, to: Rename): Record<string, V> =>
  Object.fromEntries(Object.entries(of).map(([k, v]) => [to(k), v]));

function peer(p: BgpPeer, to: Rename): BgpPeer {
  const name = p.kind === 'interface' ? to(p.name) : p.name;
  return p.updateSource === undefined ? { ...p, name } : { ...p, name, updateSource: to(p.updateSource) };
}
const family = <T extends BgpFamily | UnicastFamily>(f: T, to: Rename): T => ({
  ...f,
  active: sorted(f.active, to),
  ...(f.inactive ? { inactive: sorted(f.inactive, to) } : {}),
  ownAsAllowed: keys(f.ownAsAllowed, to),
  ...(f.policies
    ? { policies: f.policies.map((p) => ({ ...p, peer: to(p.peer) })).sort((a, b) => naturally(a.peer, b.peer)) }
    : {}),
});
const speaker = <T extends BgpSpeaker>(s: T, to: Rename): T => ({
  ...s,
  peers: sortPeers(s.peers.map((p) => peer(p, to))),
  ipv4: family(s.ipv4, to),
  ...(s.ipv6 ? { ipv6: family(s.ipv6, to) } : {}),
});

const ofInterfaces = new Set(['in', 'inMember', 'out']);
const words = <T extends FilterValues>(v: T, to: Rename): T => (v.words ? { ...v, words: v.words.map(to) } : v);
const filters = (tables: readonly FilterTable[], to: Rename): FilterTable[] =>
  tables.map((t) => ({
    ...t,
    sets: t.sets.map((s) => (s.of === 'interfaces' ? words(s, to) : s)),
    chains: t.chains.map((c) => ({
      ...c,
      rules: c.rules.map((r) => ({
        ...r,
        matches: r.matches.map((m) => (ofInterfaces.has(m.field) ? words(m, to) : m)),
      })),
    })),
  }));

/** Every port of a configuration by its other name; lists are in order of that. Other things keep theirs. */
export function renamePorts(c: SwitchConfig, to: Rename): SwitchConfig {
  const ospf = (of: readonly OspfPort[]): OspfPort[] => byName(of, to);
  return {
    ...c,
    ports: byName(
      c.ports.map((p) => (p.members === undefined ? p : { ...p, members: sorted(p.members, to) })),
      to,
    ),
    lags: c.lags.map((l) => ({ ...l, members: sorted(l.members, to) })),
    ...(c.bridge ? { bridge: { ...c.bridge, ports: sorted(c.bridge.ports, to) } } : {}),
    routeMaps: c.routeMaps.map((m) => ({
      ...m,
      entries: m.entries.map((e) =>
        e.match?.interface === undefined ? e : { ...e, match: { ...e.match, interface: to(e.match.interface) } },
      ),
    })),
    ...(c.staticRoutes
      ? {
          staticRoutes: c.staticRoutes
            .map((r) => (r.via === undefined || familyOfText(r.via) !== null ? r : { ...r, via: to(r.via) }))
            .sort((a, b) => naturally(staticKey(a), staticKey(b))),
        }
      : {}),
    ...(c.ospfPorts ? { ospfPorts: ospf(c.ospfPorts) } : {}),
    ...(c.ospf6Ports ? { ospf6Ports: ospf(c.ospf6Ports) } : {}),
    ...(c.bgp
      ? {
          bgp: {
            ...speaker(c.bgp, to),
            evpn: family(c.bgp.evpn, to),
            vrfs: c.bgp.vrfs.map((v) => speaker(v, to)),
          },
        }
      : {}),
    ...(c.filters ? { filters: filters(c.filters, to) } : {}),
  };
}

/** Parts of a SwitchConfig, and of its routers, whose members are called as a port is. */
const PORTS_IN = new Set(['ports', 'ospfPorts', 'ospf6Ports', 'peers', 'policies', 'ownAsAllowed']);

/** A place by the other name of the port it is in. */
export function renamePlace(place: Place, to: Rename): Place {
  const path = place as readonly string[];
  return path.map((step, i) => (i > 0 && PORTS_IN.has(path[i - 1]!) ? to(step) : step)) as readonly string[] as Place;
}
