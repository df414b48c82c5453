import { problem, type Finding } from '../../finding.ts';
import type { SwitchModel } from '../../hardware/switchModel.ts';
import { sameContent } from '../../numbers/content.ts';
import { expandPorts } from '../../numbers/ports.ts';
import { upperModels, type RackPattern } from '../../patterns/patterns.ts';
import { cablesOfLink, dutyFor, rackPatternOf, type FabricIntent } from '../intent.ts';

/** What speaks against making a rack pattern anew: racks of it would get or lose a leaf, or a server its port. */
export function checkPattern(intent: FabricIntent, next: RackPattern): Finding[] {
  const now = intent.rackPatterns.find((p) => p.name === next.name);
  const racks = intent.racks.filter((r) => r.pattern === next.name);
  if (!now || racks.length === 0) return [];
  if (now.kind !== next.kind)
    return [
      problem(
        'pattern-in-use',
        '/rackPattern/kind',
        `Rack ${racks[0]!.number} is ${now.kind === 'single' ? 'one leaf' : 'a pair'} of ${next.name}; its leaves cannot change under it.`,
        'Give the new pattern another name, or remove its racks first.',
      ),
    ];
  const names = new Set(expandPorts(next.serverPorts) ?? []);
  const mine = new Set(racks.map((r) => r.number));
  const link = intent.outside.find(
    (o) => mine.has(o.rack) && (cablesOfLink(o).some((c) => !names.has(c.port)) || !next.duties?.includes(dutyFor(o))),
  );
  const missed = link && (cablesOfLink(link).find((c) => !names.has(c.port)) ?? link);
  if (link && missed)
    return [
      problem(
        'port-known',
        names.has(missed.port) ? '/rackPattern/duties' : '/rackPattern/serverPorts',
        `The link to ${link.system} on rack ${link.rack} uses ${missed.port}, which ${next.name} would not have for it.`,
        'Keep that port and that duty, or take the link away first.',
      ),
    ];
  const orphan = intent.ports.find((p) => mine.has(p.rack) && !names.has(p.port));
  return orphan
    ? [
        problem(
          'port-known',
          '/rackPattern/serverPorts',
          `${orphan.server} on rack ${orphan.rack} uses ${orphan.port}, which ${next.name} would not have.`,
          'Keep that port, or free it first.',
        ),
      ]
    : [];
}

/** A part that comes along with a new rack must not rewrite racks that are there. */
export function partsInUse(intent: FabricIntent, pattern?: RackPattern, model?: SwitchModel): Finding | null {
  const nowPattern = pattern && intent.rackPatterns.find((p) => p.name === pattern.name);
  const rack = nowPattern && intent.racks.find((r) => r.pattern === pattern.name);
  if (rack && !sameContent(nowPattern, pattern))
    return problem(
      'pattern-differs',
      '/rackPattern',
      `Rack ${rack.number} is made by another ${pattern.name} than this one.`,
      `Add the rack by the ${pattern.name} this fabric has, or make the pattern anew for all its racks first.`,
    );
  const nowModel = model && intent.models.find((m) => m.name === model.name);
  if (!nowModel || sameContent(nowModel, model)) return null;
  const user = upperModels(intent).includes(model.name)
    ? 'Spines here are'
    : intent.racks.some((r) => rackPatternOf(intent, r)?.leafModel === model.name)
      ? 'Leaves here are'
      : null;
  return user === null
    ? null
    : problem(
        'model-differs',
        '/model',
        `${user} of another ${model.name} than this one.`,
        `Add the rack with the ${model.name} this fabric knows, or describe the model anew first.`,
      );
}
