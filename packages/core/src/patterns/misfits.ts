import { problem, type Finding } from '../finding.ts';
import { portsOf, type SwitchModel } from '../hardware/switchModel.ts';
import { expandPorts } from '../numbers/ports.ts';
import {
  isRouted,
  leavesShareAs,
  shapeOf,
  type FabricPattern,
  type FabricSettings,
  type PartsCatalogue,
  type RackPattern,
} from './patterns.ts';

/** What of a pattern does not fit; paths point into it. */
export const misfit = (path: string, message: string, cure: string): Finding =>
  problem('pattern-fits', path, message, cure);

/** Uplinks of one speed under spines whose ports are all of another; where ports differ among themselves, the layout is judged. */
export function speedMisfit(
  pattern: FabricPattern,
  rack: RackPattern,
  model: SwitchModel | undefined,
  uplinks: number,
  parts: PartsCatalogue,
  path: string,
): Finding[] {
  const above = parts.models.find((m) => m.name === pattern.spines.model);
  if (!model || !above || shapeOf(pattern) === 'collapsed') return [];
  const speeds = portsOf(model, rack.breakouts);
  const up = new Set((expandPorts(rack.uplinkPorts) ?? []).slice(0, uplinks).map((p) => speeds.get(p)));
  const down = new Set(portsOf(above, pattern.spines.breakouts).values());
  if (up.size !== 1 || down.size !== 1) return [];
  const [[mine], [theirs]] = [[...up], [...down]];
  return mine === theirs || mine === undefined
    ? []
    : [
        misfit(
          path,
          `Uplinks of ${rack.name} have ${mine}G, ports of ${above.name} ${theirs}G.`,
          'Use ports of one speed at both ends, or split the faster ones.',
        ),
      ];
}

export const managementMisfit = ({ management }: FabricPattern): Finding[] =>
  management && (expandPorts(management.ports)?.length ?? 0) === 0
    ? [misfit('/management/ports', `“${management.ports}” is not a list of ports.`, 'Write p1-p48.')]
    : [];

/** What the halves of a pair cannot share in such a fabric. */
export function pairMisfits(pattern: FabricPattern, rack: RackPattern, { asnScheme }: FabricSettings): Finding[] {
  if (rack.kind === 'single') return [];
  if (!isRouted(pattern))
    return [
      misfit('', 'A switched fabric has no pairs: an Ethernet segment needs an overlay.', 'Use racks of one leaf.'),
    ];
  return rack.peerPorts && leavesShareAs(asnScheme)
    ? [
        misfit(
          '',
          `The halves of ${rack.name} share an AS number: eBGP would not come up over their peer ports.`,
          'Give each leaf a number of its own, or leave the peer ports away.',
        ),
      ]
    : [];
}
