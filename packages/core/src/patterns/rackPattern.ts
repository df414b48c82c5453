import type { Finding } from '../finding.ts';
import { lagNumber, MOST_LAG } from '../hardware/lagNumber.ts';
import { breakoutsWrong, portsOf, splitPort, type SwitchModel } from '../hardware/switchModel.ts';
import { expandPorts } from '../numbers/ports.ts';
import { misfit } from './misfits.ts';
import type { RackPattern } from './patterns.ts';

/** Ports a rack pattern speaks of, by field, in the order in which they are judged. */
const PORT_FIELDS = ['serverPorts', 'uplinkPorts', 'peerPorts', 'keepalivePorts'] as const;

/** What the first part of a port is called. */
const firstPart = (cage: string, { blocks }: SwitchModel): string =>
  splitPort(cage, 1, blocks.find((b) => expandPorts(b.ports)?.includes(cage)) ?? {});

/** Ports of a pair whose LAGs would have one number, or one that is too large. */
function lagsWrong(ports: readonly string[]): Finding[] {
  const by = new Map<number, string>();
  for (const port of ports) {
    const number = lagNumber(port);
    const other = by.get(number);
    if (number > MOST_LAG || (other !== undefined && other !== port))
      return [
        misfit(
          '/serverPorts',
          number > MOST_LAG
            ? `A LAG on ${port} would have number ${number}; it has 1–${MOST_LAG}.`
            : `LAGs on ${other} and on ${port} would both have number ${number}.`,
          'Leave one of them out: a pair shares its servers by LAGs, which have the numbers of their ports.',
        ),
      ];
    by.set(number, port);
  }
  return [];
}

/** Checks a rack pattern against its model. Findings point into the pattern (`/serverPorts`, …). */
export function checkRackPattern(rack: RackPattern, models: readonly SwitchModel[]): Finding[] {
  const model = models.find((m) => m.name === rack.leafModel);
  if (!model)
    return [misfit('/leafModel', `There is no switch model ${rack.leafModel}.`, 'Choose a model in the list.')];
  const findings = breakoutsWrong(model, rack.breakouts ?? []).map(({ at, message, cure }) =>
    misfit(`/breakouts/${at}/ports`, message, cure),
  );
  const cages = portsOf(model);
  const have = portsOf(model, rack.breakouts);
  const seen = new Set<string>();
  for (const field of PORT_FIELDS) {
    const said = rack[field];
    if (said === undefined || said === '') continue;
    const names = expandPorts(said);
    if (!names) {
      findings.push(misfit(`/${field}`, `“${said}” is not a list of ports.`, 'Write p1-p48 or p1-p4,p9.'));
      continue;
    }
    const missing = names.filter((n) => !have.has(n));
    const split = missing.find((n) => cages.has(n));
    if (split !== undefined)
      findings.push(
        misfit(
          `/${field}`,
          `${split} is split.`,
          `Name its parts, ${firstPart(split, model)} and on, or leave it whole.`,
        ),
      );
    else if (missing.length > 0)
      findings.push(
        misfit(
          `/${field}`,
          `${model.name} has no port ${missing[0]}${missing.length > 1 ? ` (nor ${missing.length - 1} more)` : ''}; it has ${have.size} ports.`,
          `Its ports are ${model.blocks.map((b) => b.ports).join(', ')}.`,
        ),
      );
    const twice = names.find((n) => seen.has(n));
    if (twice) findings.push(misfit(`/${field}`, `Port ${twice} is used twice.`, 'Use each port once.'));
    names.forEach((n) => seen.add(n));
  }
  if (rack.kind !== 'single') findings.push(...lagsWrong(expandPorts(rack.serverPorts) ?? []));
  if (rack.kind === 'single')
    for (const field of ['esiType', 'forwards', 'untracked'] as const)
      if (rack[field] !== undefined && rack[field] !== false)
        findings.push(
          misfit(`/${field}`, 'One leaf shares no servers with another.', 'Leave it out, or make the rack a pair.'),
        );
  if (rack.kind === 'single')
    for (const field of ['peerPorts', 'keepalivePorts'] as const)
      if (rack[field])
        findings.push(misfit(`/${field}`, 'One leaf has no other half.', 'Leave it empty, or make the rack a pair.'));
  return findings;
}
