import { problem, type Finding } from '../finding.ts';
import { speedWords } from '../hardware/drive.ts';
import { DIALECT_NAMES, PORT_NAMING } from '../hardware/dialects.ts';
import { lagNumber } from '../hardware/lagNumber.ts';
import { expandPorts } from '../numbers/ports.ts';
import type { RackPattern } from '../patterns/patterns.ts';
import { cablesOfLink, holdsPort, type FabricIntent, type OutsideCable, type OutsideLink } from './intent.ts';
import { checkPortDrive, speedOfPort } from './portDrive.ts';

/** Outside links of several cables: how they are written, and what speaks against them. */

/** A LAG that has one cable, as it is written. */
const ALONE = 'alone';
export const LAG_FORM = `Write its further cables as port and far port, p47 eth2, p48 eth3, or ${ALONE} where there is none yet.`;

/** The further cables of a LAG as people write them: `p47 eth2, p48 eth3`. */
export const lagText = (lag: readonly OutsideCable[]): string =>
  lag.length === 0 ? ALONE : lag.map(({ port, farPort }) => `${port} ${farPort}`).join(', ');
/** The other way; null = it is not written so. */
export function readLag(text: string): OutsideCable[] | null {
  if (text.trim().toLowerCase() === ALONE) return [];
  const cables = text.split(',').map((c) => c.trim().split(/\s+/));
  return cables.every((c) => c.length === 2)
    ? cables.map(([port, farPort]) => ({ port: port!, farPort: farPort! }))
    : null;
}

/** The longest tag. */
const MOST_VLAN = 4094;

/** Where a cable of a link stands in an edit: the first one is the link’s own. */
const placeOf = (i: number): string => (i === 0 ? '/link' : `/link/lag/${i - 1}`);

/** Why the cables of a link cannot be on those ports; paths begin at `/link`. */
export const misfitCables = (intent: FabricIntent, pattern: RackPattern, link: OutsideLink): Finding[] => [
  ...cablesOfLink(link).flatMap((_, i) => misfitCable(intent, pattern, link, i) ?? []),
  ...(nameWrong(intent, pattern, link) ?? []),
  ...driveWrong(intent, pattern, link),
];

/** The first thing that speaks against one of the cables of a link; null = nothing does. */
function misfitCable(intent: FabricIntent, pattern: RackPattern, link: OutsideLink, i: number): Finding | null {
  const cables = cablesOfLink(link);
  const { port, farPort } = cables[i]!;
  const no = (rule: string, field: keyof OutsideCable, message: string, cure: string): Finding =>
    problem(rule, `${placeOf(i)}/${field}`, message, cure);
  const before = cables.slice(0, i);
  if (before.some((c) => c.port === port))
    return no('port-taken', 'port', `${port} is in this LAG already.`, 'Name each port once.');
  if (before.some((c) => c.farPort === farPort))
    return no('port-taken', 'farPort', `${farPort} of ${link.system} is in this LAG already.`, 'Name each port once.');
  if (!(expandPorts(pattern.serverPorts) ?? []).includes(port))
    return no(
      'port-known',
      'port',
      `${port} is no port of rack ${link.rack} that is free of the fabric.`,
      `Those are ${pattern.serverPorts}.`,
    );
  const server = intent.ports.find(
    (p) => p.rack === link.rack && p.port === port && (p.side === link.side || p.side === 'both'),
  );
  const holder = server?.server ?? intent.outside.find((o) => holdsPort(o, { ...link, port }))?.system;
  if (holder !== undefined)
    return no('port-taken', 'port', `${port} of rack ${link.rack} is ${holder}'s.`, 'Choose another port.');
  const twin = intent.outside.find(
    (o) => o.system === link.system && cablesOfLink(o).some((c) => c.farPort === farPort),
  );
  if (twin)
    return no(
      'port-taken',
      'farPort',
      `${farPort} of ${link.system} is joined to rack ${twin.rack} ${twin.port} (${twin.side}).`,
      'Name another port of it.',
    );
  const [speed, first] = [port, link.port].map((p) => speedOfPort(intent, pattern, p));
  return link.speed === undefined && first !== undefined && speed !== undefined && speed !== first
    ? no(
        'lag-speed',
        'port',
        `${port} runs at ${speedWords(speed)}, ${link.port} at ${speedWords(first)}: a LAG has ports of one speed (IEEE 802.1AX).`,
        'Choose ports of one speed, or say at which all of them run.',
      )
    : null;
}

/** Why no switch takes the names of a LAG and its VLANs; null = it takes them. */
function nameWrong(intent: FabricIntent, pattern: RackPattern, { port, lag }: OutsideLink): Finding[] | null {
  const dialect = intent.models.find((m) => m.name === pattern.leafModel)?.dialect ?? DIALECT_NAMES[0];
  const naming = PORT_NAMING[dialect];
  const name = `${naming.lag(lagNumber(port))}.${MOST_VLAN}`;
  return lag === undefined || name.length <= naming.longest
    ? null
    : [
        problem(
          'lag-name',
          '/link/port',
          `A LAG that is numbered after ${port} has VLANs such as ${name}: a switch takes ${naming.longest} letters at most.`,
          'Let another of its ports be the first.',
        ),
      ];
}

/** What speaks against driving its ports so; of several what is wrong of the first. */
function driveWrong(intent: FabricIntent, pattern: RackPattern, link: OutsideLink): Finding[] {
  for (const { port } of cablesOfLink(link)) {
    const found = checkPortDrive(intent, pattern, { ...link, port }, '/link');
    if (found.length > 0) return found;
  }
  return [];
}
