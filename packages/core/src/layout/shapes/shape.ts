import { portsOf } from '../../hardware/switchModel.ts';
import { rackPatternOf, type FabricIntent, type Rack } from '../../intent/intent.ts';
import { seatIdsOfRack } from '../../intent/seatIds.ts';
import { expandPorts } from '../../numbers/ports.ts';
import { nameBy } from '../../patterns/names.ts';
import { modelInTier, type RackPattern, type TierSwitches } from '../../patterns/patterns.ts';
import type { Link, LinkKind } from '../links.ts';
import type { Seat } from '../seats.ts';

/** What a shape makes of an intent. Seats from the top down, links from the servers up. */
export interface Laid {
  readonly seats: readonly Seat[];
  readonly links: readonly Link[];
}
/** Where the seats of a fabric are and how they are joined. One file each. */
export type Shape = (intent: FabricIntent) => Laid;

/** A leaf before its links are known. */
export interface LeafPlace {
  readonly seat: Seat;
  readonly rack: Rack;
  readonly pattern: RackPattern;
  /** 1-based position among the leaves it shares switches above, or a mesh, with. */
  readonly slot: number;
  /** All ports its pattern has for links. */
  readonly uplinks: readonly string[];
}

const portList = (ports: string | undefined): string[] => (ports === undefined ? [] : (expandPorts(ports) ?? []));

/** The leaves of all racks, in order. */
export function leavesOf(intent: FabricIntent): LeafPlace[] {
  return intent.racks.flatMap((rack): LeafPlace[] => {
    const pattern = rackPatternOf(intent, rack);
    if (!pattern) return [];
    const uplinks = expandPorts(pattern.uplinkPorts) ?? [];
    const ids = seatIdsOfRack(rack, pattern.kind);
    return ids.map((id, i): LeafPlace => {
      const side = pattern.kind === 'single' ? {} : { side: i === 0 ? ('a' as const) : ('b' as const) };
      const pod = rack.pod === undefined ? {} : { pod: rack.pod };
      const seat: Seat = {
        id,
        tier: 'leaf',
        host: nameBy(intent.settings.leafName, { prefix: intent.namePrefix, rack: rack.number, ...pod, ...side }),
        model: pattern.leafModel,
        rack: rack.number,
        ...pod,
        ...side,
        ...(pattern.kind === 'single' ? {} : { peer: ids[1 - i]! }),
        ...(pattern.duties && pattern.duties.length > 0 ? { duties: pattern.duties } : {}),
      };
      return { seat, rack, pattern, slot: rack.slot + i, uplinks };
    });
  });
}

/** The link of these ends; none where one of the switches has no such port. */
export const linkOf = (
  kind: LinkKind,
  [a, aPort]: readonly [string, string | undefined],
  [b, bPort]: readonly [string, string | undefined],
  k: number,
): Link[] =>
  aPort !== undefined && bPort !== undefined
    ? [
        {
          id: kind === 'fabric' ? `${a}:${b}:${k}` : `${a}:${b}:${kind}-${k}`,
          kind,
          a: { seat: a, port: aPort },
          b: { seat: b, port: bPort },
        },
      ]
    : [];

/** What joins the halves of a pair besides the fabric: port n of the one to port n of the other. */
export function pairLinks(leaves: readonly LeafPlace[]): Link[] {
  return leaves.flatMap(({ seat, pattern }) => {
    if (seat.side !== 'a') return [];
    const joined = (kind: LinkKind, ports: string | undefined): Link[] =>
      portList(ports).flatMap((port, i) => linkOf(kind, [seat.id, port], [seat.peer!, port], i + 1));
    return [...joined('peer', pattern.peerPorts), ...joined('keep-alive', pattern.keepalivePorts)];
  });
}

/** A tier above the racks: the model of each switch, and its ports in order (none where the model is not known). */
export function switchesOf(
  intent: FabricIntent,
  tier: TierSwitches,
): (number: number) => { readonly model: string; readonly ports: readonly string[] } {
  const known = new Map<string, readonly string[]>();
  return (number) => {
    const model = modelInTier(tier, number);
    const found = intent.models.find((m) => m.name === model);
    const ports = known.get(model) ?? (found ? [...portsOf(found, tier.breakouts).keys()] : []);
    known.set(model, ports);
    return { model, ports };
  };
}
