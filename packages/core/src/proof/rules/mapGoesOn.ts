import type { RouteMap, RouteMapEntry } from '../../config/policy.ts';
import { found, type DesignRule } from '../rule.ts';

/** What an entry asks of a route, by the word that says it. */
const askedBy = ({
  match,
  matchPrefixList,
  matchIpv6PrefixList,
  matchAccessList,
  matchIpv6AccessList,
}: RouteMapEntry) =>
  Object.entries({ ...match, matchPrefixList, matchIpv6PrefixList, matchAccessList, matchIpv6AccessList }).filter(
    ([, value]) => value !== undefined,
  );

/** What a map may give a route that an entry asks about, by the words of both. */
const GIVEN = ['metric', 'localPreference', 'tag', 'origin'] as const;
/** What is asked of a route that an entry may change in ways that are not looked at here. */
const CHANGED = ['community', 'largeCommunity', 'extendedCommunity', 'asPath'];

/** Does an entry take all that another has taken? It asks no more of it, or for what that one gives. */
function takesAll(next: RouteMapEntry, { set = {}, call, ...came }: RouteMapEntry): boolean {
  const had = new Map(askedBy(came).map(([word, value]) => [word, JSON.stringify(value)]));
  if (call !== undefined) for (const word of [...CHANGED, ...GIVEN]) had.delete(word);
  if (Object.keys(set).length > 0) for (const word of CHANGED) had.delete(word);
  if (set.metricBy !== undefined) had.delete('metric');
  for (const word of GIVEN) if (set[word] !== undefined) had.set(word, JSON.stringify(set[word]));
  return askedBy(next).every(([word, value]) => had.get(word) === JSON.stringify(value));
}

/** The entry that goes on to others none of which takes all that it took; undefined = there is none. */
const lost = ({ entries }: RouteMap): RouteMapEntry | undefined =>
  entries.find((came, i) => {
    const { permit, onMatch } = came;
    if (!permit || onMatch === undefined) return false;
    const rest = entries.filter((e, j) => (onMatch === 'next' ? j > i : e.seq >= onMatch));
    return rest.length > 0 && !rest.some((e) => takesAll(e, came));
  });

export const mapGoesOn: DesignRule = {
  id: 'map-goes-on',
  title: 'What a route map goes on with is taken by an entry after',
  severity: 'warning',
  scope: 'switch',
  source: 'FRR 8.4.4: of a map that goes on, the last entry that is asked has to match too, else the route is denied',
  reads: ['routeMaps'],
  judge: ({ switches }) =>
    switches.flatMap(({ host, config }) =>
      config.routeMaps.flatMap((map) => {
        const entry = lost(map);
        if (!entry) return [];
        return found(
          mapGoesOn,
          { host, configPlace: ['routeMaps', map.name, 'entries', String(entry.seq), 'onMatch'] },
          `${host}: route map ${map.name} goes on after entry ${entry.seq}, and what no later entry takes is denied after all.`,
          'Let an entry at its end permit the rest, or let that entry end there.',
        );
      }),
    ),
};
