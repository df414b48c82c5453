import type { Layout } from '../layout/links.ts';
import { floorOf, hasServers, type Seat } from '../layout/seats.ts';
import { hostPart, type Ipv4 } from '../numbers/ipv4.ts';
import { naturally } from '../numbers/order.ts';
import { loopbackKey } from '../pools/demands.ts';
import type { Values } from '../pools/drawValues.ts';

/** Another switch of the one AS that a seat speaks to by iBGP, and which of the two passes on what it hears (RFC 4456). */
export interface InternalNeighbour {
  readonly loopback: Ipv4;
  /** Above it: that reflects to it. Below: it does so itself. Beside: neither. */
  readonly stands: 'above' | 'below' | 'beside';
}

/**
 * Whom a seat speaks to by iBGP: those it is cabled to on other floors, or, where there is one floor alone, everybody else on
 * it, as nobody passes on what he hears; null = some of it is not drawn yet.
 * @param joined seats at the other end of its links of the fabric
 */
export function internalOf(
  seat: Seat,
  joined: readonly Seat[],
  { seats }: Layout,
  values: Values,
): readonly InternalNeighbour[] | null {
  const isFlat = seats.every(hasServers);
  const others = isFlat ? seats.filter((s) => s !== seat) : joined;
  const out: InternalNeighbour[] = [];
  for (const far of new Set(others)) {
    const loopback = values.get(loopbackKey(far.id));
    if (loopback === undefined) return null;
    const above = floorOf(far) - floorOf(seat);
    out.push({ loopback: hostPart(loopback), stands: above > 0 ? 'above' : above < 0 ? 'below' : 'beside' });
  }
  return out.sort((a, b) => naturally(a.loopback, b.loopback));
}
