import type { Finding } from '../finding.ts';
import type { FabricIntent } from '../intent/intent.ts';
import { groupBy } from '../numbers/order.ts';
import type { Layout, LinkEnd } from './links.ts';
import { portsOfSeats } from './seatPorts.ts';

const judged = new WeakMap<Layout, readonly Finding[]>();

/**
 * Links whose ends have ports of different speed: such a link gives no light. One finding for all links of two kinds of
 * switches that differ alike. A layout is judged once: what it follows from is what this follows from.
 */
export function unlikeSpeeds(intent: FabricIntent, layout: Layout): readonly Finding[] {
  const known = judged.get(layout);
  if (known) return known;
  const ports = portsOfSeats(intent);
  const speedsOf = layout.seats.map((seat) => [seat.id, { seat, ...ports(seat) }] as const);
  const bySeat = new Map(speedsOf);
  const unlike = layout.links.flatMap((link) => {
    const end = ({ seat, port }: LinkEnd) => ({ ...bySeat.get(seat)!, port, speed: bySeat.get(seat)!.ports.get(port) });
    const [a, b] = [end(link.a), end(link.b)];
    return a.speed === b.speed ? [] : [{ a, b }];
  });
  const findings = [...groupBy(unlike, ({ a, b }) => `${a.kind} ${a.speed} ${b.kind} ${b.speed}`).values()].map(
    (same): Finding => {
      const { a, b } = same[0]!;
      const others = same.length - 1;
      const more = others === 0 ? '' : `, and ${others} more ${others === 1 ? 'link' : 'links'} alike`;
      return {
        rule: 'link-speed-equal',
        severity: 'error',
        host: a.seat.host,
        subjects: [a.seat.rack === undefined ? 'spines' : `rack:${a.seat.rack}`],
        message: `${a.seat.host} ${a.port} has ${a.speed ?? '?'}G, ${b.seat.host} ${b.port} has ${b.speed ?? '?'}G${more}.`,
        cure: 'Use ports of one speed at both ends, or split the faster ones.',
      };
    },
  );
  judged.set(layout, findings);
  return findings;
}
