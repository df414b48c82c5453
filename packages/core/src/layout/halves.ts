import type { FabricIntent, SeatId } from '../intent/intent.ts';
import { isRouted } from '../patterns/patterns.ts';
import { isForTraffic, type Link } from './links.ts';

const numbersIn = (id: string): number[] => id.split(/\D+/).flatMap((n) => (n === '' ? [] : Number(n)));
/** `spine-4`, `spine-2.4`, `leaf-4`: 4; the other half of a pair is one on, and so are the super-spines of each next plane. */
function turnOf(seat: SeatId): number {
  const numbers = numbersIn(seat);
  return numbers.at(-1)! + (seat.endsWith('b') ? 1 : 0) + (seat.startsWith('super-spine') ? numbers[0]! - 1 : 0);
}
/** `…:2`, `…:peer-2`: which of the links between two seats it is. */
const nth = (link: Link): number => numbersIn(link.id).at(-1)!;

/**
 * Which half of the links one belongs to. Of the links from a leaf upwards every other one is of the same half, and so are
 * those of every other plane: where each switch has two ways up, either half joins all of them. Follows from the two seats
 * and the link's own number, so that growing moves no link to the other half.
 */
export const halfOf = (link: Link): 0 | 1 => {
  // Between equals there is nothing above: then the first of the two counts.
  const above = link.b.seat.startsWith('leaf') ? link.a.seat : link.b.seat;
  return ((turnOf(above) + nth(link)) % 2) as 0 | 1;
};

/** Which links of a fabric have addresses (where it is routed). */
export function numberedBy(intent: FabricIntent): (link: Link) => boolean {
  const { underlay } = intent.settings;
  if (!isRouted(intent) || underlay === 'unnumbered') return () => false;
  return underlay === 'numbered' ? isForTraffic : (link) => isForTraffic(link) && halfOf(link) === 0;
}
