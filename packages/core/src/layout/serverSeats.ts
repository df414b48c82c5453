import type { ServerPort } from '../intent/intent.ts';
import { onceFor } from '../onceFor.ts';
import { groupBy } from '../numbers/order.ts';
import type { Layout } from './links.ts';
import { hasServers, isOn, type Seat } from './seats.ts';

const byRack = onceFor((layout: Layout) => groupBy(layout.seats.filter(hasServers), (s) => s.rack));

/** The seats of a rack that a server port is on: one, or both halves of a pair. */
export const serverSeats = (layout: Layout, port: Pick<ServerPort, 'rack' | 'side'>): Seat[] =>
  (byRack(layout).get(port.rack) ?? []).filter((seat) => isOn(port, seat));
