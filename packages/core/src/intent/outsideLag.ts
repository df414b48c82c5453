import { problem, type Finding } from '../finding.ts';
import { speedWords } from '../hardware/drive.ts';
import { DIALECT_NAMES, PORT_NAMING } from '../hardware/dialects.ts';
import { lagNumber } from '../hardware/lagNumber.ts';
import { expandPorts } from '../numbers/ports.ts';
import type { RackPattern } from '../patterns/patterns.ts';
import { cablesOfLink, type FabricIntent, type OutsideCable, type OutsideLink } from './intent.ts';
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
export function misfitCables(intent: FabricIntent, pattern: RackPattern, link: OutsideLink): Finding[] {
  const cables = cablesOfLink(link);
  const first = speedOfPort(intent, pattern, link.port);
  const out = cables.flatMap(({ port, farPort }, i): Finding[] => {
    const at = placeOf(i);
    const no = (rule: string, field: string, message: string, cure: string): Finding[] => [
      problem(rule, `${at}/${field}`, message, cure),
    ];
    const before = cables.slice(0, i);
    if (before.some((c) => c.port === port))
      return no('port-taken', 'port', `${port} is in this LAG already.`, 'Name each port once.');
    if (before.some((c) => c.farPort === farPort))
      return no(
        'port-taken',
        'farPort',
        `${farPort} of ${link.system} is in this LAG already.`,
        'Name each port once.',
      );
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
    const other = intent.outside.find(
      (o) => o.rack === link.rack && o.side === link.side && cablesOfLink(o).some((c) => c.port === port),
    );
    const holder = server?.server ?? other?.system;
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
    const speed = speedOfPort(intent, pattern, port);
    if (first !== undefined && speed !== undefined && speed !== first && link.speed === undefined)
      return no(
        'lag-speed',
        'port',
        `${port} runs at ${speedWords(speed)}, ${link.port} at ${speedWords(first)}: a LAG has ports of one speed (IEEE 802.1AX).`,
        `Choose ports of one speed, or say at which all of them run.`,
      );
    return [];
  });
  const dialect = intent.models.find((m) => m.name === pattern.leafModel)?.dialect ?? DIALECT_NAMES[0];
  const { lag: named, longest } = PORT_NAMING[dialect];
  const name = `${named(lagNumber(link.port))}.${MOST_VLAN}`;
  if (link.lag && name.length > longest)
    out.push(
      problem(
        'lag-name',
        '/link/port',
        `A LAG that is numbered after ${link.port} has VLANs such as ${name}: a switch takes ${longest} letters at most.`,
        'Let another of its ports be the first.',
      ),
    );
  return [...out, ...driveWrong(intent, pattern, link)];
}

/** What speaks against driving its ports so; of several what is wrong of the first. */
function driveWrong(intent: FabricIntent, pattern: RackPattern, link: OutsideLink): Finding[] {
  for (const { port } of cablesOfLink(link)) {
    const found = checkPortDrive(intent, pattern, { ...link, port }, '/link');
    if (found.length > 0) return found;
  }
  return [];
}
