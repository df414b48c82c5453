import { familyWith } from '../intent/neighbourPlace.ts';
import { outsideKey, type FabricIntent, type OutsideNeighbour } from '../intent/intent.ts';
import { policiesBehind, policyKey, type RoutePolicy } from '../intent/policies.ts';
import { sideOf, type Seat } from '../layout/seats.ts';
import { naturally } from '../numbers/order.ts';
import { subnetsOfFamily } from '../pools/subnets.ts';
import { maskOf } from '../secrets/secretRef.ts';
import type { Values } from '../pools/drawValues.ts';
import { vlanPort } from './vlanOfPort.ts';

/** A router outside, and what it is told where nothing else is said. */
export interface ToldNeighbour extends OutsideNeighbour {
  /** Subnets of its tenant and family. */
  readonly subnets: readonly string[];
}
/** A router outside as the seat that speaks to it sees it. */
export interface SeatNeighbour extends ToldNeighbour {
  /** The lists and maps of the fabric that it uses, all the way down. */
  readonly policies: readonly RoutePolicy[];
  /** What stands in a text for its password. */
  readonly mask?: string;
}

/** What stands for the password of a neighbour, as far as there is one. */
export function maskFor(intent: FabricIntent, n: Pick<OutsideNeighbour, 'password'>): string | undefined {
  const secret = intent.secrets.find((s) => s.name === n.password);
  return secret && maskOf(secret.digest);
}

/** Subnets of a tenant that are of the family of a session. */
export function subnetsToldTo(intent: FabricIntent, values: Values, n: OutsideNeighbour): readonly string[] {
  return intent.networks
    .flatMap((w) => (w.vrf === n.vrf ? subnetsOfFamily(w, values, familyWith(n)) : []))
    .sort(naturally);
}

/** Names of the route maps of a session. */
const mapsOf = ({ mapIn, mapOut }: OutsideNeighbour): string[] =>
  [mapIn, mapOut].filter((name): name is string => name !== undefined);

/** Who speaks to which routers outside, by rack and side. */
export function neighboursOf(intent: FabricIntent, values: Values): (seat: Seat) => readonly SeatNeighbour[] {
  const bySeat = new Map<string, SeatNeighbour[]>();
  const shut = new Set(intent.outside.flatMap((o) => (o.shut ? outsideKey(o) : [])));
  for (const n of intent.neighbours) {
    const at = `${n.rack}.${n.side}`;
    const mask = maskFor(intent, n);
    const policies = policiesBehind(
      intent.policies,
      mapsOf(n).map((name) => policyKey({ is: 'route-map', name })),
    );
    const made: SeatNeighbour = {
      ...n,
      policies,
      subnets: subnetsToldTo(intent, values, n),
      ...(mask === undefined ? {} : { mask }),
      // Over a link that is shut nobody is called.
      ...(shut.has(outsideKey(n)) ? { closed: true } : {}),
    };
    bySeat.set(at, [...(bySeat.get(at) ?? []), made]);
  }
  return (seat) => (seat.rack === undefined ? [] : (bySeat.get(`${seat.rack}.${sideOf(seat)}`) ?? []));
}

/** What it is spoken to over, as the switch calls it: the port, or a VLAN of it. */
export const portTo = ({ port, vlan }: Pick<OutsideNeighbour, 'port' | 'vlan'>): string => vlanPort(port, vlan);
/** Names of the lists of what it may tell, and of what it is told; each family has its own. */
export const listFrom = (n: Pick<OutsideNeighbour, 'port' | 'vlan'>): string => `FROM-${portTo(n)}`;
export const listTo = (n: Pick<OutsideNeighbour, 'port' | 'vlan'>): string => `TO-${portTo(n)}`;
