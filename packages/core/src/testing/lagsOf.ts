import fc from 'fast-check';
import { applyEdit } from '../intent/edits/index.ts';
import { cablesOfLink, outsideKey, rackPatternAt, type FabricIntent, type OutsideLink } from '../intent/intent.ts';
import { expandPorts } from '../numbers/ports.ts';
import { borderIntents } from './fabricOf.ts';

/** Ports of the side of a rack that nobody has. */
function freePorts(intent: FabricIntent, { rack, side }: OutsideLink): string[] {
  const taken = new Set([
    ...intent.ports.flatMap((p) => (p.rack === rack ? [p.port] : [])),
    ...intent.outside.flatMap((o) => (o.rack === rack && o.side === side ? cablesOfLink(o).map((c) => c.port) : [])),
  ]);
  return (expandPorts(rackPatternAt(intent, rack)?.serverPorts ?? '') ?? []).filter((p) => !taken.has(p));
}

/** Fabrics of which most links to routers outside are LAGs, of one to four cables. */
export const bundledIntents: fc.Arbitrary<FabricIntent> = fc
  .tuple(borderIntents, fc.infiniteStream(fc.integer({ min: -1, max: 3 })))
  .map(([intent, further]) =>
    intent.outside.reduce((now, link, i) => {
      const count = further.next().value!;
      if (count < 0) return now;
      const lag = freePorts(now, link)
        .slice(0, count)
        .map((port, k) => ({ port, farPort: `ge${i}-${k}` }));
      const { intent: next, findings } = applyEdit(now, { kind: 'changeOutside', link: { ...link, lag } });
      if (findings.length > 0) throw new Error(`${outsideKey(link)}: ${findings[0]!.message}`);
      return next;
    }, intent),
  );

/** The same intent with ports in the place of its LAGs. */
export const unbundled = (intent: FabricIntent): FabricIntent => ({
  ...intent,
  outside: intent.outside.map(({ lag: _, ...o }) => o),
});
