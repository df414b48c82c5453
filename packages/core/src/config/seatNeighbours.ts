import type { FabricIntent, OutsideNeighbour } from '../intent/intent.ts';
import { sideOf, type Seat } from '../layout/seats.ts';
import type { Cidr } from '../numbers/ipv4.ts';
import { naturally } from '../numbers/order.ts';
import { subnetKey } from '../pools/demands.ts';
import type { Values } from '../pools/drawValues.ts';

/** A router outside as the seat that speaks to it sees it. */
export interface SeatNeighbour extends OutsideNeighbour {
  /** Subnets of its tenant, which it is told where nothing else is said. */
  readonly subnets: readonly Cidr[];
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
    bySeat.set(at, [...(bySeat.get(at) ?? []), { ...n, subnets: told }]);
  }
  return (seat) => (seat.rack === undefined ? [] : (bySeat.get(`${seat.rack}.${sideOf(seat)}`) ?? []));
}

/** Names of the lists of what it may tell, and of what it is told. */
export const listFrom = (n: Pick<OutsideNeighbour, 'port'>): string => `FROM-${n.port}`;
export const listTo = (n: Pick<OutsideNeighbour, 'port'>): string => `TO-${n.port}`;
