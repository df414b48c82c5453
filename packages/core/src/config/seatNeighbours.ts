import type { FabricIntent, OutsideNeighbour } from '../intent/intent.ts';
import { sideOf, type Seat } from '../layout/seats.ts';
import type { Cidr } from '../numbers/ipv4.ts';
import { naturally } from '../numbers/order.ts';
import { subnetKey } from '../pools/demands.ts';
import { maskOf } from '../secrets/secretRef.ts';
import type { Values } from '../pools/drawValues.ts';

/** A router outside as the seat that speaks to it sees it. */
export interface SeatNeighbour extends OutsideNeighbour {
  /** Subnets of its tenant, which it is told where nothing else is said. */
  readonly subnets: readonly Cidr[];
  /** What stands in a text for its password. */
  readonly mask?: string;
}

/** What stands for the password of a neighbour, as far as there is one. */
export function maskFor(intent: FabricIntent, n: OutsideNeighbour): string | undefined {
  const secret = intent.secrets.find((s) => s.name === n.password);
  return secret && maskOf(secret.digest);
}

/** Who speaks to which routers outside, by rack and side. */
export function neighboursOf(intent: FabricIntent, values: Values): (seat: Seat) => readonly SeatNeighbour[] {
  const subnets = new Map<string, Cidr[]>();
  for (const n of intent.networks) {
    const subnet = n.vrf === '' ? undefined : values.get(subnetKey(n.name));
    if (subnet !== undefined) subnets.set(n.vrf, [...(subnets.get(n.vrf) ?? []), subnet]);
  }
  const bySeat = new Map<string, SeatNeighbour[]>();
  for (const n of intent.neighbours) {
    const at = `${n.rack}.${n.side}`;
    const told = [...(subnets.get(n.vrf) ?? [])].sort(naturally);
    const mask = maskFor(intent, n);
    const made = { ...n, subnets: told, ...(mask === undefined ? {} : { mask }) };
    bySeat.set(at, [...(bySeat.get(at) ?? []), made]);
  }
  return (seat) => (seat.rack === undefined ? [] : (bySeat.get(`${seat.rack}.${sideOf(seat)}`) ?? []));
}

/** Names of the lists of what it may tell, and of what it is told. */
export const listFrom = (n: Pick<OutsideNeighbour, 'port'>): string => `FROM-${n.port}`;
export const listTo = (n: Pick<OutsideNeighbour, 'port'>): string => `TO-${n.port}`;
