import { hasFamily, SUBNET6_LENGTH, type FabricIntent, type PoolRole } from '../intent/intent.ts';
import { numberedBy } from '../layout/halves.ts';
import type { Layout } from '../layout/links.ts';
import { asOwner, hasServers, type Seat } from '../layout/seats.ts';
import { sameContent } from '../numbers/content.ts';
import { parseNetwork } from '../numbers/address.ts';
import { onceFor } from '../onceFor.ts';
import { hasUnderlay6, isRouted, ledByOspf, type FabricSettings, type UpperTiers } from '../patterns/patterns.ts';
import { ABOVE_RACKS, isSubject, type Subject } from '../subject.ts';
import { holdsLength, type Pool, type PoolKind } from './pool.ts';

/** Names a value within a fabric: `leaf-1/loopback`, `network:echo-store/vni`. */
export type ValueKey = string;

/** A value the fabric needs. */
export interface Demand {
  readonly key: ValueKey;
  readonly kind: PoolKind;
  readonly role: PoolRole;
  /** Name of the pool to draw from. */
  readonly pool: string;
  /** Prefix length for addresses; 0 for numbers. */
  readonly length: number;
  /** A value that was chosen by a person or follows from a rule; it is claimed, not drawn. */
  readonly wanted?: string;
}

export const asnKey = (intent: FabricIntent, seat: Seat): ValueKey => `${asOwner(seat, intent.settings.asnScheme)}/asn`;
/** Which pool the AS number of a seat comes from; one for all is the leaves’. */
export const asnRole = (intent: Pick<FabricIntent, 'settings'>, seat: Seat): PoolRole =>
  hasServers(seat) || ledByOspf(intent.settings) ? 'leafAsn' : 'spineAsn';
export const loopbackKey = (seat: string): ValueKey => `${seat}/loopback`;
export const vtepKey = (seat: string): ValueKey => `${seat}/vtep`;
export const linkKey = (link: string): ValueKey => `${link}/link`;
export const loopback6Key = (seat: string): ValueKey => `${seat}/loopback6`;
export const link6Key = (link: string): ValueKey => `${link}/link6`;
export const vrfVniKey = (vrf: string): ValueKey => `vrf:${vrf}/vni`;
export const networkVniKey = (network: string): ValueKey => `network:${network}/vni`;
export const subnetKey = (network: string): ValueKey => `network:${network}/subnet`;
export const subnet6Key = (network: string): ValueKey => `network:${network}/subnet6`;

/** Such a subnet is named by itself: in the order of the list it would lose its name when one before it goes. */
export const furtherKey = (network: string, subnet: string): ValueKey =>
  `network:${network}/further-${subnet.replace('/', '-')}`;

/** The object a value is drawn for; a link's value counts for its lower end. */
export function ownerOf(key: ValueKey): Subject {
  const owner = key.slice(0, key.lastIndexOf('/'));
  if (isSubject(owner)) return owner;
  if (owner.endsWith('spines')) return ABOVE_RACKS;
  if (owner === 'leaves') return 'fabric';
  const rack = /^rack-(\d+)$/.exec(owner)?.[1];
  return rack === undefined ? `seat:${owner.split(':')[0]!}` : `rack:${rack}`;
}

const ROLE_KIND: Readonly<Record<PoolRole, PoolKind>> = {
  spineAsn: 'asn',
  leafAsn: 'asn',
  loopback: 'ipv4',
  vtep: 'ipv4',
  link: 'ipv4',
  vni: 'vni',
  subnet: 'ipv4',
  subnet6: 'ipv6',
  loopback6: 'ipv6',
  link6: 'ipv6',
};
export const kindOfRole = (role: PoolRole): PoolKind => ROLE_KIND[role];
/** How long a value of IPv6 is: of an address alone, of a link with two (RFC 6164), of a subnet with servers. */
const LENGTH6 = { loopback6: 128, link6: 127, subnet6: SUBNET6_LENGTH } as const;
/** Has a pool what is drawn for a role? */
export const suitsRole = (pool: Pool, role: PoolRole): boolean =>
  pool.kind === ROLE_KIND[role] && (!(role in LENGTH6) || holdsLength(pool, LENGTH6[role as keyof typeof LENGTH6]));

/**
 * What a fabric of such a shape draws at all; links only where they are numbered, but that may be set later.
 * @param settings of its switches
 */
export function rolesDrawn(
  of: Pick<UpperTiers, 'shape'>,
  { underlayFamilies = 'ipv4' }: Pick<Partial<FabricSettings>, 'underlayFamilies'> = {},
): PoolRole[] {
  if (!isRouted(of)) return [];
  const roles = (Object.keys(ROLE_KIND) as PoolRole[]).filter(
    (r) => underlayFamilies === 'both' || (r !== 'loopback6' && r !== 'link6'),
  );
  return of.shape === 'collapsed' ? roles.filter((r) => r !== 'spineAsn') : roles;
}

/** What of an intent values are asked for, beside its layout. */
const ASKING = ['settings', 'pools', 'vrfs', 'networks'] as const satisfies readonly (keyof FabricIntent)[];
const lastAsked = onceFor((_: Layout): { from: FabricIntent | null; demands: readonly Demand[] } => ({
  from: null,
  demands: [],
}));

/** Every value a fabric needs, in the order they are drawn. Where nothing of that changed, it is the very list of last time. */
export function demandsOf(intent: FabricIntent, layout: Layout): readonly Demand[] {
  const last = lastAsked(layout);
  const { from } = last;
  if (from === null || ASKING.some((part) => !sameContent(from[part], intent[part])))
    last.demands = ask(intent, layout);
  last.from = intent;
  return last.demands;
}

function ask(intent: FabricIntent, layout: Layout): Demand[] {
  const demands: Demand[] = [];
  const seen = new Set<ValueKey>();
  const want = (key: ValueKey, role: PoolRole, length: number, wanted?: string): void => {
    if (seen.has(key)) return;
    seen.add(key);
    const demand = { key, kind: ROLE_KIND[role], role, pool: intent.pools[role], length };
    demands.push(wanted === undefined ? demand : { ...demand, wanted });
  };
  const routed = isRouted(intent);
  const six = hasUnderlay6(intent);
  for (const seat of routed ? layout.seats : []) {
    want(asnKey(intent, seat), asnRole(intent, seat), 0);
    want(loopbackKey(seat.id), 'loopback', 32);
    if (hasServers(seat)) want(vtepKey(seat.id), 'vtep', 32);
    if (six) want(loopback6Key(seat.id), 'loopback6', LENGTH6.loopback6);
  }
  const numbered = numberedBy(intent);
  for (const link of layout.links) {
    if (!numbered(link)) continue;
    want(linkKey(link.id), 'link', 31);
    if (six) want(link6Key(link.id), 'link6', LENGTH6.link6);
  }
  const byRule = (vlan: number): string | undefined =>
    intent.settings.vniRule === 'drawn'
      ? undefined
      : String(intent.settings.vniRule === 'base' ? intent.settings.vniBase + vlan : vlan);
  for (const vrf of intent.vrfs)
    want(vrfVniKey(vrf.name), 'vni', 0, vrf.vni === undefined ? byRule(vrf.transitVlan) : String(vrf.vni));
  for (const n of intent.networks) {
    if (routed) want(networkVniKey(n.name), 'vni', 0, n.vni === undefined ? byRule(n.vlan) : String(n.vni));
    if (hasFamily(n, 4)) want(subnetKey(n.name), 'subnet', n.subnetLength, n.subnet);
    if (hasFamily(n, 6)) want(subnet6Key(n.name), 'subnet6', LENGTH6.subnet6, n.subnet6);
    for (const subnet of n.furtherSubnets ?? [])
      want(
        furtherKey(n.name, subnet),
        subnet.includes(':') ? 'subnet6' : 'subnet',
        parseNetwork(subnet)!.length,
        subnet,
      );
  }
  return demands;
}
