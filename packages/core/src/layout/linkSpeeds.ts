import type { Finding } from '../finding.ts';
import { portsOf } from '../hardware/switchModel.ts';
import type { FabricIntent } from '../intent/intent.ts';
import { groupBy } from '../numbers/order.ts';
import type { Layout, LinkEnd } from './links.ts';
import type { Seat } from './seats.ts';

/** Break-outs of the switch in a seat, by what it was laid from. */
function breakoutsOf(intent: FabricIntent, seat: Seat) {
  if (seat.rack === undefined) return (seat.tier === 'super-spine' ? intent.superSpines : intent.spines)?.breakouts;
  const rack = intent.racks.find((r) => r.number === seat.rack);
  return intent.rackPatterns.find((p) => p.name === rack?.pattern)?.breakouts;
}

const judged = new WeakMap<Layout, readonly Finding[]>();

/**
 * Links whose ends have ports of different speed: such a link gives no light. One finding for all links of two kinds of
 * switches that differ alike. A layout is judged once: what it follows from is what this follows from.
 */
export function unlikeSpeeds(intent: FabricIntent, layout: Layout): readonly Finding[] {
  const known = judged.get(layout);
  if (known) return known;
  const models = new Map(intent.models.map((m) => [m.name, m]));
  const racks = new Map(intent.racks.map((r) => [r.number, r.pattern]));
  const kinds = new Map<string, ReadonlyMap<string, number>>();
  const speedsOf = layout.seats.map((seat) => {
    const kind = `${seat.model} ${seat.rack === undefined ? seat.tier : (racks.get(seat.rack) ?? '')}`;
    const model = models.get(seat.model);
    const ports = kinds.get(kind) ?? (model ? portsOf(model, breakoutsOf(intent, seat)) : new Map<string, number>());
    kinds.set(kind, ports);
    return [seat.id, { seat, kind, ports }] as const;
  });
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
