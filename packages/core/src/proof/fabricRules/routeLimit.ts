import { MOST_CALLERS } from '../../config/speakers.ts';
import type { Finding } from '../../finding.ts';
import { hasFamily, speakersKey, type FabricIntent } from '../../intent/intent.ts';
import { linkSubnet, neighbourKey, spokenTo } from '../../intent/neighbourPlace.ts';
import { addressesIn, formatNetwork, parseNetwork } from '../../numbers/address.ts';
import { subnetsOfFamily } from '../../pools/subnets.ts';
import type { FabricRule, JudgedFabric } from '../rule.ts';

const FAMILIES = [4, 6] as const;

/** Prefixes of a VRF’s own: subnets, links, static routes, and the addresses of its servers, which EVPN tells one by one. */
function ownRoutes({ intent, values }: JudgedFabric, vrf: string): number {
  const networks = new Map(intent.networks.flatMap((n) => (n.vrf === vrf ? [[n.name, n] as const] : [])));
  const subnets = [...networks.values()].flatMap((n) => FAMILIES.flatMap((f) => subnetsOfFamily(n, values, f)));
  const links = intent.neighbours.flatMap((n) => (n.vrf === vrf ? formatNetwork(linkSubnet(n)) : []));
  const written = intent.routes.flatMap((r) => (r.vrf === vrf ? r.prefix : []));
  const servers = new Set<string>();
  for (const { server, untagged, tagged } of intent.ports)
    for (const name of [untagged, ...tagged])
      for (const f of FAMILIES)
        if (name !== undefined && networks.has(name) && hasFamily(networks.get(name)!, f))
          servers.add(`${server} ${name} ${f}`);
  return new Set([...subnets, ...links, ...written]).size + servers.size;
}

/** Somebody who tells a VRF routes, and how many he may; null = any number. */
interface Teller {
  readonly words: string;
  readonly subject: string;
  readonly most: number | null;
}
/**
 * Routers outside, each as one session; servers that may call, as many as there are addresses, or any number where there are more
 * than any switch takes.
 */
const tellersOf = ({ neighbours, speakers, networks }: FabricIntent, vrf: string): Teller[] => [
  ...neighbours.flatMap((n): Teller[] =>
    n.vrf === vrf ? [{ words: spokenTo(n), subject: `neighbour:${neighbourKey(n)}`, most: n.limit ?? null }] : [],
  ),
  ...speakers.flatMap((s): Teller[] => {
    if (!networks.some((n) => n.name === s.network && n.vrf === vrf)) return [];
    const callers = addressesIn(parseNetwork(s.from)!);
    const most = s.limit === undefined || callers > MOST_CALLERS ? null : s.limit * callers;
    return [{ words: `who calls from ${s.from}`, subject: `speakers:${speakersKey(s)}`, most }];
  }),
];

function limitsOf(fabric: JudgedFabric): Finding[] {
  const { intent } = fabric;
  return intent.vrfs.flatMap(({ name, mostRoutes }): Finding[] => {
    if (mostRoutes === undefined) return [];
    // What comes from another VRF is at most all that this one has.
    const from = intent.leaks.flatMap((l) => (l.into === name ? l.from : []));
    const all = [name, ...new Set(from)];
    const tellers = all.flatMap((vrf) => tellersOf(intent, vrf));
    const finding = (message: string, cure: string, more: readonly string[]): Finding => ({
      rule: 'route-limit',
      severity: 'error',
      message,
      cure,
      subjects: [`vrf:${name}`, ...more] as Finding['subjects'],
    });
    const anything = tellers.filter((t) => t.most === null);
    if (anything.length > 0)
      return anything.map((t) =>
        finding(
          `${name} may have ${mostRoutes} routes, and ${t.words} may tell any number.`,
          'Say how many prefixes a session takes, and let no more call than are there; or let the VRF have any number.',
          [t.subject],
        ),
      );
    const own = all.reduce((n, vrf) => n + ownRoutes(fabric, vrf), 0);
    const told = tellers.reduce((n, t) => n + t.most!, 0);
    if (own + told <= mostRoutes) return [];
    return [
      finding(
        `${name} may have ${mostRoutes} routes, and can come to ${own + told}: ${own} of its own${all.length > 1 ? ` and of ${all.slice(1).join(' and ')}` : ''}, ${told} that ${all.length > 1 ? 'they' : 'it'} may be told.`,
        'Let sessions take fewer prefixes, or the VRF have more routes.',
        [],
      ),
    ];
  });
}

/** No switch of ours has a line for it, so what holds it are the limits of sessions: together they must stay below it. */
export const routeLimit: FabricRule = {
  id: 'route-limit',
  title: 'No VRF can come to have more routes than it may',
  severity: 'error',
  source: 'a table that is full drops routes of everybody; limits of sessions (maximum-prefix) are what keeps it below',
  scope: 'intent',
  judge: limitsOf,
};
