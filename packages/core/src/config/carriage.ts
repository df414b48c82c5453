import { hasFamily, networkMtu, type FabricIntent, type TenantRoute, type Vrf } from '../intent/intent.ts';
import { policiesBehind, policyKey, type RoutePolicy } from '../intent/policies.ts';
import { formatIpv4, parseCidr, prefixOf, type Cidr } from '../numbers/ipv4.ts';
import { formatNetwork, parseNetwork, type IpFamily } from '../numbers/address.ts';
import type { VlanId, Vni } from '../numbers/vni.ts';
import { sameContent } from '../numbers/content.ts';
import { groupBy, naturally } from '../numbers/order.ts';
import { familyOfText, formatAny, networkOfAny, parseAnyCidr } from '../numbers/prefix.ts';
import { isRouted } from '../patterns/patterns.ts';
import { networkVniKey, subnet6Key, subnetKey, vrfVniKey } from '../pools/demands.ts';
import type { Values } from '../pools/drawValues.ts';
import { leaksBy, type CarriedLeak } from './carriedLeaks.ts';

/** What of a network matters on a switch, with its drawn values. */
export interface CarriedNetwork {
  readonly name: string;
  /** Empty = bridged only. */
  readonly vrf: string;
  readonly vlan: VlanId;
  /** Absent where there is no overlay. */
  readonly vni?: Vni;
  /** Address of the gateway with the length of the subnet; absent = it is bridged only, or has IPv6 alone. */
  readonly gateway?: Cidr;
  /** The same of IPv6; absent = it has none. */
  readonly gateway6?: Cidr;
  /** Those of further subnets, of either family; absent = there are none. */
  readonly furtherGateways?: readonly Cidr[];
  readonly mtu: number;
}
export interface CarriedVrf {
  readonly vrf: Vrf;
  readonly vni: Vni;
  /** Absent = it has its own alone. */
  readonly leaks?: readonly CarriedLeak[];
  /** The lists and maps of the fabric that its subnets go through, all the way down; absent = none. */
  readonly connectedPolicies?: readonly RoutePolicy[];
  /** The same of its static routes, where it has any. */
  readonly staticPolicies?: readonly RoutePolicy[];
  /** The largest MTU of its networks here. */
  readonly mtu: number;
}

/**
 * The networks a rack carries and their VRFs. One object for all racks that carry the same, so what follows from it alone
 * is computed once (`onceFor`).
 */
export interface Carriage {
  /** By VNI, or else by VLAN. */
  readonly networks: readonly CarriedNetwork[];
  readonly byName: ReadonlyMap<string, CarriedNetwork>;
  /** By name. */
  readonly vrfs: readonly CarriedVrf[];
  /** Static routes of these VRFs that are said there. */
  readonly routes: readonly TenantRoute[];
}

/** What racks carried last, by the words it was made from. */
export interface CarriageMemo {
  readonly networks: Map<string, CarriedNetwork>;
  readonly carriages: Map<string, { readonly of: readonly CarriedNetwork[]; readonly made: Carriage }>;
}

/** The gateway is the first address of the subnet, of either family (that of routers in general is left alone, RFC 4291 §2.6.1). */
export function gatewayOf(subnet: Cidr): Cidr {
  const p6 = subnet.includes(':') ? parseNetwork(subnet) : null;
  if (p6) return formatNetwork({ ...p6, address: p6.address + 1n });
  const p = parseCidr(subnet)!;
  return `${formatIpv4(prefixOf(p).address + 1)}/${p.length}`;
}
/** Every gateway of a network, of both families or of one; the first of a family is the one it has first. */
export function gatewaysOf(n: CarriedNetwork, family?: IpFamily): Cidr[] {
  const all = [n.gateway, n.gateway6, ...(n.furtherGateways ?? [])].filter((g): g is Cidr => g !== undefined);
  return family === undefined ? all : all.filter((g) => familyOfText(g) === family);
}
/** The subnet that a gateway is in. */
const subnetAround = (gateway: Cidr): string => formatAny(networkOfAny(parseAnyCidr(gateway)!));
export const sameItems = (a: readonly unknown[], b: readonly unknown[]): boolean => {
  if (a.length !== b.length) return false;
  for (let i = 0; i < a.length; i++) if (a[i] !== b[i]) return false;
  return true;
};

export const NOTHING_CARRIED: Carriage = { networks: [], byName: new Map(), vrfs: [], routes: [] };

/**
 * @param outside VRFs that speak to routers outside here, or whose routes another has here, with the largest MTU of all their
 *   networks: what any of them sends there comes by here
 */
function makeCarriage(
  of: readonly CarriedNetwork[],
  vrfs: ReadonlyMap<string, Omit<CarriedVrf, 'mtu'>>,
  outside: ReadonlyMap<string, number>,
  routes: readonly TenantRoute[],
): Carriage {
  const mtuOf = new Map(outside);
  for (const c of of) if (c.vrf !== '') mtuOf.set(c.vrf, Math.max(mtuOf.get(c.vrf) ?? 0, c.mtu));
  return {
    networks: [...of].sort((a, b) => (a.vni ?? a.vlan) - (b.vni ?? b.vlan)),
    byName: new Map(of.map((c) => [c.name, c])),
    vrfs: [...mtuOf].sort(([a], [b]) => naturally(a, b)).map(([name, mtu]) => ({ ...vrfs.get(name)!, mtu })),
    routes: routes.filter((r) => mtuOf.has(r.vrf)),
  };
}

export const EVERYWHERE = 'everywhere' as const;
const NOBODY: ReadonlyMap<string, number> = new Map();

/** By rack: the VRFs that speak to routers outside there, each with the largest MTU of its networks. */
function outsideOf(
  intent: FabricIntent,
  vrfs: ReadonlyMap<string, { readonly vni: Vni }>,
): ReadonlyMap<number, ReadonlyMap<string, number>> {
  const out = new Map<number, Map<string, number>>();
  for (const { rack, vrf } of intent.neighbours) {
    if (!vrfs.get(vrf)?.vni) continue;
    const here = out.get(rack) ?? new Map<string, number>();
    out.set(rack, here.set(vrf, largestMtu(intent, vrf)));
  }
  return out;
}
const largestMtu = (intent: FabricIntent, vrf: string): number =>
  Math.max(intent.settings.tenantMtu, ...intent.networks.flatMap((n) => (n.vrf === vrf ? networkMtu(intent, n) : [])));

/** With the VRFs whose routes others have, as far as these lead. */
function withLeaked(
  intent: FabricIntent,
  vrfs: ReadonlyMap<string, Omit<CarriedVrf, 'mtu'>>,
  own: ReadonlySet<string>,
  speaks: ReadonlyMap<string, number>,
): ReadonlyMap<string, number> {
  if (intent.leaks.length === 0) return speaks;
  const all = new Set([...own, ...speaks.keys()]);
  const out = new Map(speaks);
  for (const name of all)
    for (const { from } of vrfs.get(name)?.leaks ?? []) {
      if (all.has(from)) continue;
      all.add(from);
      out.set(from, largestMtu(intent, from));
    }
  return out;
}

/** What each rack carries; racks that carry the same get the same object. */
export function carriagesOf(
  intent: FabricIntent,
  values: Values,
  memo: CarriageMemo | undefined,
): Map<number | typeof EVERYWHERE, Carriage> {
  const vniOf = new Map(intent.vrfs.map((v) => [v.name, Number(values.get(vrfVniKey(v.name)) ?? 0)]));
  const carried: CarriedNetwork[] = [];
  /** Numbers of the networks of a rack, in the order of `carried`. */
  const ofRack = new Map<number | typeof EVERYWHERE, number[]>();
  const routed = isRouted(intent);
  for (const network of intent.networks) {
    const vni = Number(values.get(networkVniKey(network.name)) ?? 0);
    const subnet = values.get(subnetKey(network.name));
    const subnet6 = values.get(subnet6Key(network.name));
    const { name, vrf, vlan } = network;
    if ((routed && vni === 0) || (vrf !== '' && !vniOf.get(vrf))) continue;
    if ((hasFamily(network, 4) && subnet === undefined) || (hasFamily(network, 6) && subnet6 === undefined)) continue;
    const fresh: CarriedNetwork = {
      name,
      vrf,
      vlan,
      ...(routed ? { vni } : {}),
      ...(hasFamily(network, 4) ? { gateway: gatewayOf(subnet!) } : {}),
      ...(hasFamily(network, 6) ? { gateway6: gatewayOf(subnet6!) } : {}),
      ...(network.furtherSubnets === undefined ? {} : { furtherGateways: network.furtherSubnets.map(gatewayOf) }),
      mtu: networkMtu(intent, network),
    };
    const known = memo?.networks.get(name);
    const made = known && sameContent(known, fresh) ? known : fresh;
    memo?.networks.set(name, made);
    const at = carried.push(made) - 1;
    // Spanning tree may turn any link into the only way, so there every switch carries every VLAN.
    for (const rack of routed ? network.racks : [EVERYWHERE]) {
      const list = ofRack.get(rack);
      if (list) list.push(at);
      else ofRack.set(rack, [at]);
    }
  }
  const byVrf = groupBy(carried, (n) => n.vrf);
  const leaks = leaksBy(intent.leaks, (vrf) =>
    [...new Set((byVrf.get(vrf) ?? []).flatMap((n) => gatewaysOf(n).map(subnetAround)))].sort(naturally),
  );
  const vrfs = new Map(
    intent.vrfs.map((vrf): [string, Omit<CarriedVrf, 'mtu'>] => {
      // A VRF whose VNI is not drawn yet is nowhere.
      const has = leaks.get(vrf.name)?.filter((l) => vniOf.get(l.from)) ?? [];
      const behind = (name: string): RoutePolicy[] =>
        policiesBehind(intent.policies, [policyKey({ is: 'route-map', name })]);
      return [
        vrf.name,
        {
          vrf,
          vni: vniOf.get(vrf.name)!,
          ...(has.length > 0 ? { leaks: has } : {}),
          ...(vrf.connectedMap === undefined ? {} : { connectedPolicies: behind(vrf.connectedMap) }),
          ...(vrf.staticMap === undefined ? {} : { staticPolicies: behind(vrf.staticMap) }),
        },
      ];
    }),
  );
  const outside = outsideOf(intent, vrfs);
  for (const rack of outside.keys()) if (!ofRack.has(rack)) ofRack.set(rack, []);
  const vrfWords = JSON.stringify([...vrfs.values()]);
  const out = new Map<number | typeof EVERYWHERE, Carriage>();
  const fresh = new Map<string, Carriage>();
  for (const [rack, numbers] of ofRack) {
    const own = new Set(numbers.map((n) => carried[n]!.vrf));
    const speaks = withLeaked(intent, vrfs, own, (rack !== EVERYWHERE && outside.get(rack)) || NOBODY);
    const said = rack === EVERYWHERE ? [] : intent.routes.filter((r) => r.racks.includes(rack));
    const beside = JSON.stringify([[...speaks], said]);
    const key = `${numbers.join()} ${beside}`;
    let made = fresh.get(key);
    if (!made) {
      const of = numbers.map((n) => carried[n]!);
      const names = `${vrfWords} ${beside} ${of.map((c) => c.name).join(' ')}`;
      const known = memo?.carriages.get(names);
      made = known && sameItems(known.of, of) ? known.made : makeCarriage(of, vrfs, speaks, said);
      memo?.carriages.set(names, { of, made });
      fresh.set(key, made);
    }
    out.set(rack, made);
  }
  return out;
}
