import { networkMtu, type FabricIntent, type ServerPort, type Vrf } from '../intent/intent.ts';
import { endAt, farEnd, type Layout } from '../layout/links.ts';
import { hasServers, type Seat } from '../layout/seats.ts';
import { formatIpv4, hostPart, parseCidr, prefixOf, type Cidr, type Ipv4 } from '../numbers/ipv4.ts';
import type { Asn } from '../numbers/asn.ts';
import type { VlanId, Vni } from '../numbers/vni.ts';
import { sameContent } from '../numbers/content.ts';
import { groupBy, naturally } from '../numbers/order.ts';
import {
  asnKey,
  linkKey,
  loopbackKey,
  networkVniKey,
  subnetKey,
  vrfVniKey,
  vtepKey,
  type ValueKey,
} from '../pools/demands.ts';
import type { Values } from '../pools/drawValues.ts';
import type { Pool } from '../pools/pool.ts';
import { onceFor } from '../onceFor.ts';

/** What of a network matters on a switch, with its drawn values. */
export interface CarriedNetwork {
  readonly name: string;
  readonly vrf: string;
  readonly vlan: VlanId;
  readonly vni: Vni;
  /** Address of the gateway with the length of the subnet. */
  readonly gateway: Cidr;
  readonly mtu: number;
}
export interface CarriedVrf {
  readonly vrf: Vrf;
  readonly vni: Vni;
  /** The largest MTU of its networks here. */
  readonly mtu: number;
}

/**
 * The networks a rack carries and their VRFs. One object for all racks that carry the same, so what follows from it alone
 * is computed once (`onceFor`).
 */
export interface Carriage {
  /** By VNI. */
  readonly networks: readonly CarriedNetwork[];
  readonly byName: ReadonlyMap<string, CarriedNetwork>;
  /** By name. */
  readonly vrfs: readonly CarriedVrf[];
}

/** A link as a seat sees it. */
export interface SeatLink {
  readonly port: string;
  readonly farHost: string;
  readonly farPort: string;
  /** Where links are numbered: own address with its length, and that of the far end. */
  readonly numbered: { readonly own: Cidr; readonly far: Ipv4; readonly farAs: Asn } | null;
}

/** What follows from the layout alone. */
interface SeatPlan {
  readonly seat: Seat;
  readonly links: readonly {
    readonly port: string;
    readonly far: Seat;
    readonly farPort: string;
    readonly atB: boolean;
    readonly key: ValueKey;
  }[];
}
const plansOf = onceFor((layout: Layout): SeatPlan[] =>
  layout.seats.map((seat) => ({
    seat,
    links: (layout.linksOf.get(seat.id) ?? []).map((link) => {
      const far = farEnd(link, seat.id);
      return {
        port: endAt(link, seat.id).port,
        far: layout.seatById.get(far.seat)!,
        farPort: far.port,
        atB: link.b.seat === seat.id,
        key: linkKey(link.id),
      };
    }),
  })),
);

/** All that a seat's configuration follows from; what is the same for all seats of a fabric is one object. */
export interface SeatInputs {
  readonly fabric: FabricInputs;
  readonly seat: Seat;
  readonly asn: Asn;
  readonly loopback: Cidr;
  readonly routerId: Ipv4;
  /** Where there are servers. */
  readonly vtep: Cidr | undefined;
  readonly links: readonly SeatLink[];
  /** The servers on its ports. */
  readonly servers: readonly ServerPort[];
  readonly carriage: Carriage;
}
export interface FabricInputs {
  readonly settings: FabricIntent['settings'];
  /** /32s of loopbacks and VTEPs, or prefixes they are all drawn from. */
  readonly loopbackPrefixes: readonly Cidr[];
}

/** What was made last, by seat, with the words it was made from. */
export interface InputsMemo {
  readonly networks: Map<string, CarriedNetwork>;
  readonly carriages: Map<string, { readonly of: readonly CarriedNetwork[]; readonly made: Carriage }>;
  readonly seats: Map<string, { readonly words: readonly unknown[]; readonly made: SeatInputs }>;
}
export const inputsMemo = (): InputsMemo => ({ networks: new Map(), carriages: new Map(), seats: new Map() });

/** The gateway is the first address of the subnet. */
export function gatewayOf(subnet: Cidr): Cidr {
  const p = parseCidr(subnet)!;
  return `${formatIpv4(prefixOf(p).address + 1)}/${p.length}`;
}
/** The end nearer to the servers has the upper address of the link's /31, the other the lower. */
function numberedLink(prefix: Cidr, atB: boolean, farAs: Asn): SeatLink['numbered'] {
  const { address, length } = parseCidr(prefix)!;
  const [lower, upper] = [formatIpv4(address), formatIpv4(address + 1)];
  return { own: `${atB ? lower : upper}/${length}`, far: atB ? upper : lower, farAs };
}

const isOn = (p: ServerPort, seat: Seat): boolean => p.side === 'both' || p.side === (seat.side ?? 'a');
const sameItems = (a: readonly unknown[], b: readonly unknown[]): boolean => {
  if (a.length !== b.length) return false;
  for (let i = 0; i < a.length; i++) if (a[i] !== b[i]) return false;
  return true;
};

const NOTHING_CARRIED: Carriage = { networks: [], byName: new Map(), vrfs: [] };

function makeCarriage(of: readonly CarriedNetwork[], vrfs: ReadonlyMap<string, { vrf: Vrf; vni: Vni }>): Carriage {
  const mtuOf = new Map<string, number>();
  for (const c of of) mtuOf.set(c.vrf, Math.max(mtuOf.get(c.vrf) ?? 0, c.mtu));
  return {
    networks: [...of].sort((a, b) => a.vni - b.vni),
    byName: new Map(of.map((c) => [c.name, c])),
    vrfs: [...mtuOf].sort(([a], [b]) => naturally(a, b)).map(([name, mtu]) => ({ ...vrfs.get(name)!, mtu })),
  };
}

/** What each rack carries; racks that carry the same get the same object. */
function carriagesOf(intent: FabricIntent, values: Values, memo: InputsMemo | undefined): Map<number, Carriage> {
  const vrfs = new Map(
    intent.vrfs.map((vrf) => [vrf.name, { vrf, vni: Number(values.get(vrfVniKey(vrf.name)) ?? 0) }]),
  );
  const carried: CarriedNetwork[] = [];
  /** Numbers of the networks of a rack, in the order of `carried`. */
  const ofRack = new Map<number, number[]>();
  for (const network of intent.networks) {
    const vni = Number(values.get(networkVniKey(network.name)) ?? 0);
    const subnet = values.get(subnetKey(network.name));
    if (vni === 0 || subnet === undefined || !vrfs.get(network.vrf)?.vni) continue;
    const { name, vrf, vlan } = network;
    const fresh: CarriedNetwork = {
      name,
      vrf,
      vlan,
      vni,
      gateway: gatewayOf(subnet),
      mtu: networkMtu(intent, network),
    };
    const known = memo?.networks.get(name);
    const made = known && sameContent(known, fresh) ? known : fresh;
    memo?.networks.set(name, made);
    const at = carried.push(made) - 1;
    for (const rack of network.racks) {
      const list = ofRack.get(rack);
      if (list) list.push(at);
      else ofRack.set(rack, [at]);
    }
  }
  const vrfWords = JSON.stringify([...vrfs.values()]);
  const out = new Map<number, Carriage>();
  const fresh = new Map<string, Carriage>();
  for (const [rack, numbers] of ofRack) {
    const key = numbers.join();
    let made = fresh.get(key);
    if (!made) {
      const of = numbers.map((n) => carried[n]!);
      const names = `${vrfWords} ${of.map((c) => c.name).join(' ')}`;
      const known = memo?.carriages.get(names);
      made = known && sameItems(known.of, of) ? known.made : makeCarriage(of, vrfs);
      memo?.carriages.set(names, { of, made });
      fresh.set(key, made);
    }
    out.set(rack, made);
  }
  return out;
}

/** The prefixes of the pools that loopbacks and VTEPs come from, or the held /32s where no pool is known. */
function loopbackPrefixes(intent: FabricIntent, values: Values, layout: Layout, pools: readonly Pool[]): Cidr[] {
  const names = new Set([intent.pools.loopback, intent.pools.vtep]);
  const prefixes = pools.filter((p) => names.has(p.name) && p.kind === 'ipv4').flatMap((p) => p.ranges);
  if (prefixes.length > 0) return [...prefixes].sort(naturally);
  return layout.seats
    .flatMap((s) => [values.get(loopbackKey(s.id)), values.get(vtepKey(s.id))])
    .filter((v): v is string => v !== undefined);
}

/**
 * The inputs of every seat whose values are all drawn. With a memo, a seat for which nothing changed gets the very object
 * of last time.
 */
export function seatInputsOf(
  intent: FabricIntent,
  layout: Layout,
  values: Values,
  pools: readonly Pool[],
  memo?: InputsMemo,
): SeatInputs[] {
  const { settings } = intent;
  const fabric: FabricInputs = { settings, loopbackPrefixes: loopbackPrefixes(intent, values, layout, pools) };
  const fabricWords = JSON.stringify(fabric);
  const carriages = carriagesOf(intent, values, memo);
  const portsOfRack = groupBy(intent.ports, (p) => p.rack);
  const numbered = settings.underlay === 'numbered';
  const asnOf = new Map(layout.seats.map((s) => [s, values.get(asnKey(intent, s))]));
  const out: SeatInputs[] = [];
  for (const plan of plansOf(layout)) {
    const { seat, links } = plan;
    const asn = asnOf.get(seat);
    const loopback = values.get(loopbackKey(seat.id));
    const vtep = hasServers(seat) ? values.get(vtepKey(seat.id)) : undefined;
    if (asn === undefined || loopback === undefined || (hasServers(seat) && vtep === undefined)) continue;
    if (numbered && links.some((l) => !values.has(l.key))) continue;
    const carriage = (seat.rack === undefined ? undefined : carriages.get(seat.rack)) ?? NOTHING_CARRIED;
    const servers = seat.rack === undefined ? [] : (portsOfRack.get(seat.rack) ?? []).filter((p) => isOn(p, seat));
    const words: unknown[] = [fabricWords, plan, carriage, asn, loopback, vtep];
    if (servers.length > 0) words.push(JSON.stringify(servers));
    if (numbered) for (const l of links) words.push(values.get(l.key), asnOf.get(l.far));
    const known = memo?.seats.get(seat.id);
    if (known && sameItems(known.words, words)) {
      out.push(known.made);
      continue;
    }
    const made: SeatInputs = {
      fabric,
      seat,
      asn: Number(asn),
      loopback,
      routerId: hostPart(loopback),
      vtep,
      links: links.map((l): SeatLink => ({
        port: l.port,
        farHost: l.far.host,
        farPort: l.farPort,
        numbered: numbered ? numberedLink(values.get(l.key)!, l.atB, Number(asnOf.get(l.far) ?? 0)) : null,
      })),
      servers,
      carriage,
    };
    memo?.seats.set(seat.id, { words, made });
    out.push(made);
  }
  return out;
}
