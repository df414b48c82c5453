import { routersIn } from '../../config/bgp.ts';
import { policyUses, type PolicyUse } from '../../config/policyUses.ts';
import type { SwitchConfig } from '../../config/switchConfig.ts';
import { groupBy } from '../../numbers/order.ts';
import { hostPrefix, holdsAny, parseAnyPrefix } from '../../numbers/prefix.ts';
import { found, type DesignRule } from '../rule.ts';

/** Who speaks under a name of a router: itself, members of a group, and those who may call into one. */
function speaksAs(config: SwitchConfig, name: string, peer: string): boolean {
  if (name === peer) return true;
  const address = hostPrefix(peer);
  return routersIn(config).some(
    ({ speaker }) =>
      speaker.peers.some((p) => p.name === peer && p.group === name) ||
      (address !== null &&
        (speaker.listens?.some((l) => l.group === name && holdsAny(parseAnyPrefix(l.prefix)!, address)) ?? false)),
  );
}

/** Does BGP tell on what the switch has of its own at a place, or a network that it names? */
const tellsOwn = (place: readonly string[]): boolean =>
  place[0] === 'bgp' && (place.at(-1) === 'connected' || place.at(-1) === 'static' || place.at(-2) === 'networkMaps');

/** Is a map of a switch ever asked about who is named in it, by itself or called by others? */
function isAsked(config: SwitchConfig, uses: ReadonlyMap<string, readonly PolicyUse[]>, map: string, peer: string) {
  const maps = new Set([map]);
  for (const name of maps)
    for (const { place: at } of uses.get(name) ?? []) {
      const place = at as readonly string[];
      if (place[0] === 'routeMaps') maps.add(place[1]!);
      else if (place.at(-1) === 'mapIn' && speaksAs(config, place.at(-2)!, peer)) return true;
      else if (peer === 'local' && tellsOwn(place)) return true;
    }
  return false;
}

export const peerAsked: DesignRule = {
  id: 'peer-asked',
  title: 'A route map asks who tells a route only where somebody of that address tells it one',
  severity: 'warning',
  scope: 'network',
  source: 'FRR 8.4.4: match peer knows the neighbour of what is heard, and nobody of what is told',
  reads: ['bgp', 'routeMaps'],
  judge: ({ switches }) => {
    // A map that many have names the neighbours of all of them: each is somebody’s.
    const asking = switches.flatMap(({ host, config }) => {
      const entries = config.routeMaps.flatMap((m) =>
        m.entries.flatMap((e) => (e.match?.peer === undefined ? [] : { map: m.name, seq: e.seq, peer: e.match.peer })),
      );
      if (entries.length === 0) return [];
      const uses = groupBy(
        policyUses(config).filter((u) => u.kind === 'route map'),
        (u) => u.name,
      );
      return entries.map((e) => ({ ...e, host, live: isAsked(config, uses, e.map, e.peer) }));
    });
    const entries = groupBy(asking, (e) => `${e.map} ${e.seq} ${e.peer}`);
    return [...entries.values()].flatMap((alike) => {
      if (alike.some((e) => e.live)) return [];
      const { host, map, seq, peer } = alike[0]!;
      const who =
        peer === 'local' ? 'is asked of nothing that the switch tells on of its own' : `hears nothing from ${peer}`;
      return found(
        peerAsked,
        { host, configPlace: ['routeMaps', map, 'entries', String(seq), 'match'] },
        `${host}: route map ${map} ${who}, so its entry ${seq} never matches.`,
        'Use the map for what he tells, or take the question out.',
      );
    });
  },
};
