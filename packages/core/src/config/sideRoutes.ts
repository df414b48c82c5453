import type { FabricIntent, OutsideNeighbour } from '../intent/intent.ts';
import { linkSubnet } from '../intent/neighbourPlace.ts';
import { sideOf, type Seat } from '../layout/seats.ts';
import { holdsAddress } from '../numbers/address.ts';
import { groupBy } from '../numbers/order.ts';
import { onceFor } from '../onceFor.ts';
import type { Carriage } from './carriage.ts';

type Route = Carriage['routes'][number];

/** Does a route lead by the link of a router outside? */
export function leadsOver({ vrf, via }: Pick<Route, 'vrf' | 'via'>, n: OutsideNeighbour): boolean {
  return via !== undefined && n.vrf === vrf && holdsAddress(linkSubnet(n), via);
}

/** What a rack carries without the routes that the other half of a pair has; kept, so that what is made of it is kept too. */
const without = onceFor((carriage: Carriage) => {
  const known = new Map<string, Carriage>();
  return (away: readonly Route[]): Carriage => {
    const key = away.map((r) => carriage.routes.indexOf(r)).join();
    const made = known.get(key) ?? { ...carriage, routes: carriage.routes.filter((r) => !away.includes(r)) };
    known.set(key, made);
    return made;
  };
});

/**
 * What a seat carries of what its rack does: a static route by the link of a router outside is said where that link is. The other
 * half of a pair hears of it by EVPN.
 */
export function carriedOnSide(intent: FabricIntent): (carriage: Carriage, seat: Seat) => Carriage {
  const byRack = groupBy(intent.neighbours, (n) => n.rack);
  return (carriage, seat) => {
    const around = seat.rack === undefined || carriage.routes.length === 0 ? undefined : byRack.get(seat.rack);
    if (!around) return carriage;
    const away = carriage.routes.filter((r) => {
      const over = around.filter((n) => leadsOver(r, n));
      return over.length > 0 && over.every((n) => n.side !== sideOf(seat));
    });
    return away.length === 0 ? carriage : without(carriage)(away);
  };
}
