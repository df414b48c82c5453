import type { Finding } from '../finding.ts';
import type { FabricIntent, Network } from '../intent/intent.ts';
import type { NetworkModel } from '../network/networkModel.ts';
import { targetsMeet } from '../network/overlay.ts';
import { tenantsOf } from '../network/tenants.ts';
import { onceFor } from '../onceFor.ts';
import { groupBy, naturally } from '../numbers/order.ts';
import { parseAnyPrefix } from '../numbers/prefix.ts';
import { subnetsOfFamily } from '../pools/subnets.ts';
import type { Values } from '../pools/drawValues.ts';

interface State {
  readonly intent: FabricIntent;
  readonly values: Values;
  readonly network: NetworkModel;
}

/** VRFs from which a VRF may have routes, by the text of any switch: by targets, or on its own switch. */
function sourcesOf({ views }: NetworkModel): ReadonlyMap<string, ReadonlySet<string>> {
  const said = new Map<string, { readonly exports: Set<string>; readonly imports: Set<string> }>();
  const out = new Map<string, Set<string>>();
  const add = (vrf: string, from: string): void => {
    if (vrf !== from) out.set(vrf, (out.get(vrf) ?? new Set()).add(from));
  };
  for (const { vrfs, config } of views.values()) {
    for (const v of vrfs.values()) {
      const of = said.get(v.name) ?? { exports: new Set(), imports: new Set() };
      said.set(v.name, of);
      for (const e of v.exports) of.exports.add(e);
      for (const i of v.imports) of.imports.add(i);
    }
    for (const { vrf, ipv4, ipv6 } of config.bgp?.vrfs ?? [])
      for (const from of [...(ipv4.importsFrom ?? []), ...(ipv6?.importsFrom ?? [])]) add(vrf, from);
  }
  for (const [vrf, { imports }] of said)
    for (const [from, { exports }] of said) if (targetsMeet([...exports], [...imports])) add(vrf, from);
  return out;
}

/** Which networks of a state reach one another: those of a VRF, and those of two that have routes to both. */
class Reach {
  private readonly state: State;
  private readonly sources: ReadonlyMap<string, ReadonlySet<string>>;
  private readonly hosts = new Map<string, string | null>();
  private readonly known = new Map<string, boolean>();

  constructor(state: State) {
    this.state = state;
    this.sources = sourcesOf(state.network);
  }

  /** May networks of two VRFs reach one another? */
  mayMeet(a: string, b: string): boolean {
    return (this.sources.get(a)?.has(b) ?? false) && (this.sources.get(b)?.has(a) ?? false);
  }
  /** A switch that has the gateway of a network; null = none has. */
  private hostOf({ name, vlan, vrf }: Network): string | null {
    let found = this.hosts.get(name);
    if (found === undefined) {
      const { views } = this.state.network;
      found = [...views].find(([, view]) => view.sviByVlan.get(vlan)?.vrf === vrf)?.[0] ?? null;
      this.hosts.set(name, found);
    }
    return found;
  }
  /** Has the table of a network a route to another? */
  private leads(from: Network, to: Network): boolean {
    const host = this.hostOf(from);
    if (host === null) return false;
    const key = `${host} ${from.vrf} ${to.name}`;
    let found = this.known.get(key);
    if (found === undefined) {
      const node = { host, vrf: from.vrf };
      found = ([4, 6] as const).some((family) => {
        const group = tenantsOf(this.state.network, family).groupOf(host, from.vrf);
        const subnets = subnetsOfFamily(to, this.state.values, family);
        return subnets.some((s) => (group?.routeAt(node, parseAnyPrefix(s)!) ?? null) !== null);
      });
      this.known.set(key, found);
    }
    return found;
  }
  meet(a: Network, b: Network): boolean {
    if (a.vrf === '' || b.vrf === '') return false;
    if (a.vrf === b.vrf) return true;
    return this.mayMeet(a.vrf, b.vrf) && this.leads(a, b) && this.leads(b, a);
  }
}

/** All that keeps networks apart, or joins them, as one word: where it is the same, nothing begins and nothing ends. */
const apartBy = onceFor(({ vrfs, networks, leaks, snippets, policies, settings }: FabricIntent): string =>
  JSON.stringify([vrfs, networks, leaks, snippets, policies, settings]),
);

type Pair = readonly [Network, Network];
const NAMED = 4;
/** Names of networks that are in one VRF, the first few of them. */
function namesOf(networks: readonly Network[]): string {
  const [{ vrf }] = networks as [Network];
  const more = networks.length > NAMED ? ` and ${networks.length - NAMED} more` : '';
  return `${networks
    .slice(0, NAMED)
    .map((n) => n.name)
    .join(', ')}${more} (${vrf || 'no VRF'})`;
}
/** Pairs between networks of two VRFs: all of these with all of those, or each by itself. */
function words(pairs: readonly Pair[]): string {
  const [these, those] = [0, 1].map((i) => [...new Set(pairs.map((p) => p[i]!))]) as [Network[], Network[]];
  if (these.length * those.length === pairs.length) return `${namesOf(these)} with ${namesOf(those)}`;
  const said = pairs.slice(0, NAMED).map(([a, b]) => `${namesOf([a])} with ${namesOf([b])}`);
  const more = pairs.length - said.length;
  return said.join('; ') + (more > 0 ? `; and ${more} more pairs` : '');
}

/**
 * Says which networks that are there before and after a change newly have routes to one another, and which no longer have: what
 * keeps tenants apart is seen before it is sent. What filters let pass between them is not looked at.
 */
export function reachAnew(after: State, before: State): Finding[] {
  if (apartBy(after.intent) === apartBy(before.intent)) return [];
  const was = new Map(before.intent.networks.map((n) => [n.name, n]));
  const stay = after.intent.networks
    .flatMap((now) => {
      const then = was.get(now.name);
      return then ? { now, then } : [];
    })
    .sort((a, b) => naturally(a.now.name, b.now.name));
  const [old, made] = [new Reach(before), new Reach(after)];
  // Networks that are in the same VRFs before and after fare alike, as far as they may meet others at all.
  const classes = [...groupBy(stay, ({ now, then }) => `${then.vrf} ${now.vrf}`).values()];
  const [begins, ends]: [Pair[][], Pair[][]] = [[], []];
  classes.forEach((some, i) => {
    for (const others of classes.slice(i)) {
      const [a, b] = [some[0]!, others[0]!];
      const together = [a.then.vrf === b.then.vrf, a.now.vrf === b.now.vrf];
      if (together.every((t) => t)) continue;
      const apart = together.every((t) => !t);
      if (apart && !old.mayMeet(a.then.vrf, b.then.vrf) && !made.mayMeet(a.now.vrf, b.now.vrf)) continue;
      const [starts, stops]: [Pair[], Pair[]] = [[], []];
      for (const x of some)
        for (const y of others) {
          const [then, now] = [old.meet(x.then, y.then), made.meet(x.now, y.now)];
          if (then !== now) (now ? starts : stops).push([x.now, y.now]);
        }
      if (starts.length > 0) begins.push(starts);
      if (stops.length > 0) ends.push(stops);
    }
  });
  const finding = (rule: string, severity: Finding['severity'], of: readonly Pair[][], begin: string, cure: string) => {
    if (of.length === 0) return [];
    const subjects = [...new Set(of.flat(2))].map((n) => `network:${n.name}` as const);
    return [{ rule, severity, message: `${begin}: ${of.map(words).join('; ')}.`, cure, subjects }];
  };
  return [
    ...finding(
      'reach-ends',
      'warning',
      ends,
      'Networks no longer have routes to one another',
      'Move servers that need one another first, or let their VRFs have routes of one another.',
    ),
    ...finding(
      'reach-begins',
      'note',
      begins,
      'Networks newly have routes to one another',
      'If servers of these are to stay apart, take out what joins their VRFs.',
    ),
  ];
}
