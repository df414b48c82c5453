import { problem, type Finding } from '../finding.ts';
import { portsOf, type SwitchModel } from '../hardware/switchModel.ts';
import { expandPorts } from '../numbers/order.ts';
import type { RackPattern } from './patterns.ts';

/** Checks a rack pattern against its model. Findings point into the pattern (`/serverPorts`, …). */
export function checkRackPattern(rack: RackPattern, models: readonly SwitchModel[]): Finding[] {
  const model = models.find((m) => m.name === rack.leafModel);
  if (!model)
    return [
      problem(
        'pattern-fits',
        '/leafModel',
        `There is no switch model ${rack.leafModel}.`,
        'Choose a model in the list.',
      ),
    ];
  const have = portsOf(model);
  const findings: Finding[] = [];
  const seen = new Set<string>();
  for (const field of ['serverPorts', 'uplinkPorts'] as const) {
    const names = expandPorts(rack[field]);
    if (!names) {
      findings.push(
        problem('pattern-fits', `/${field}`, `“${rack[field]}” is not a list of ports.`, 'Write p1-p48 or p1-p4,p9.'),
      );
      continue;
    }
    const missing = names.filter((n) => !have.has(n));
    if (missing.length > 0)
      findings.push(
        problem(
          'pattern-fits',
          `/${field}`,
          `${model.name} has no port ${missing[0]}${missing.length > 1 ? ` (nor ${missing.length - 1} more)` : ''}; it has ${have.size} ports.`,
          `Its ports are ${model.blocks.map((b) => b.ports).join(', ')}.`,
        ),
      );
    const twice = names.find((n) => seen.has(n));
    if (twice)
      findings.push(problem('pattern-fits', `/${field}`, `Port ${twice} is used twice.`, 'Use each port once.'));
    names.forEach((n) => seen.add(n));
  }
  return findings;
}
