import { problem, type Finding } from '../finding.ts';
import { portsOf, type SwitchModel } from '../hardware/switchModel.ts';
import { expandPorts } from '../numbers/order.ts';
import {
  DEFAULT_SETTINGS,
  leavesPerRack,
  type FabricPattern,
  type FabricSettings,
  type PartsCatalogue,
  type RackPattern,
} from './patterns.ts';

export interface RackSizing {
  readonly pattern: string;
  readonly count: number;
  readonly leaves: number;
  readonly uplinksNeeded: number;
  readonly uplinksFitted: number;
  /** Σ server port speed ÷ Σ speed of uplinks in use; with all spines, and with one spine lost. */
  readonly oversubscription: number;
  readonly oversubscriptionSpineLost: number | null;
  readonly serverPorts: number;
}

export interface Sizing {
  readonly switches: number;
  readonly spines: number;
  readonly leaves: number;
  readonly racks: number;
  readonly links: number;
  readonly spinePortsNeeded: number;
  readonly spinePortsFitted: number;
  /** Most leaves the spines can carry. */
  readonly largestLeaves: number;
  readonly rackSizings: readonly RackSizing[];
  /** What the pattern will draw from pools. */
  readonly draws: {
    readonly spineAsns: number;
    readonly leafAsns: number;
    readonly loopbacks: number;
    readonly vteps: number;
    readonly linkPrefixes: number;
  };
  readonly findings: readonly Finding[];
}

const sum = (ns: readonly number[]): number => ns.reduce((a, b) => a + b, 0);

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

/**
 * Sizes a fabric pattern. Links = leaves × spines × parallel; spine ports needed = leaves × parallel; leaf uplinks
 * needed = spines × parallel; oversubscription = Σ server speed ÷ Σ uplink speed, × spines ÷ (spines − 1) after one
 * spine is lost. Problems come back as findings that point into the pattern.
 */
export function sizePattern(pattern: FabricPattern, parts: PartsCatalogue): Sizing {
  const findings: Finding[] = [];
  const settings: FabricSettings = { ...DEFAULT_SETTINGS, ...pattern.settings };
  const spineModel = parts.models.find((m) => m.name === pattern.spines.model);
  if (!spineModel)
    findings.push(
      problem(
        'pattern-fits',
        '/spines/model',
        `There is no switch model ${pattern.spines.model}.`,
        'Choose a model in the list.',
      ),
    );
  const uplinksNeeded = pattern.spines.count * pattern.parallel;
  const rackSizings: RackSizing[] = [];
  pattern.racks.forEach((entry, i) => {
    const rack = parts.rackPatterns.find((r) => r.name === entry.pattern);
    if (!rack) {
      findings.push(
        problem(
          'pattern-fits',
          `/racks/${i}/pattern`,
          `There is no rack pattern ${entry.pattern}.`,
          'Choose one in the list.',
        ),
      );
      return;
    }
    findings.push(...checkRackPattern(rack, parts.models).map((f) => ({ ...f, path: `/racks/${i}${f.path}` })));
    const model = parts.models.find((m) => m.name === rack.leafModel);
    const speeds = model ? portsOf(model) : new Map<string, number>();
    const uplinks = expandPorts(rack.uplinkPorts) ?? [];
    const servers = expandPorts(rack.serverPorts) ?? [];
    if (uplinks.length < uplinksNeeded)
      findings.push(
        problem(
          'pattern-fits',
          `/racks/${i}/pattern`,
          `${rack.name} has ${uplinks.length} uplinks; ${pattern.spines.count} spines × ${pattern.parallel} need ${uplinksNeeded}.`,
          `Use at most ${Math.floor(uplinks.length / pattern.parallel)} spines, fewer parallel links, or a model with more uplinks.`,
        ),
      );
    const serverSpeed = sum(servers.map((p) => speeds.get(p) ?? 0));
    const uplinkSpeed = sum(uplinks.slice(0, uplinksNeeded).map((p) => speeds.get(p) ?? 0));
    const ratio = uplinkSpeed > 0 ? serverSpeed / uplinkSpeed : Infinity;
    const spines = pattern.spines.count;
    rackSizings.push({
      pattern: rack.name,
      count: entry.count,
      leaves: leavesPerRack(rack.kind),
      uplinksNeeded,
      uplinksFitted: uplinks.length,
      oversubscription: ratio,
      oversubscriptionSpineLost: spines > 1 ? (ratio * spines) / (spines - 1) : null,
      serverPorts: servers.length,
    });
  });
  const racks = sum(rackSizings.map((r) => r.count));
  const leaves = sum(rackSizings.map((r) => r.count * r.leaves));
  const spinePortsFitted = spineModel ? portsOf(spineModel).size : 0;
  const spinePortsNeeded = leaves * pattern.parallel;
  if (spineModel && spinePortsNeeded > spinePortsFitted)
    findings.push(
      problem(
        'pattern-fits',
        '/spines/model',
        `${leaves} leaves × ${pattern.parallel} links need ${spinePortsNeeded} ports on every spine; ${spineModel.name} has ${spinePortsFitted}.`,
        `Use at most ${Math.floor(spinePortsFitted / pattern.parallel)} leaves, or a spine model with more ports.`,
      ),
    );
  const links = leaves * uplinksNeeded;
  return {
    switches: leaves + pattern.spines.count,
    spines: pattern.spines.count,
    leaves,
    racks,
    links,
    spinePortsNeeded,
    spinePortsFitted,
    largestLeaves: Math.floor(spinePortsFitted / Math.max(1, pattern.parallel)),
    rackSizings,
    draws: {
      spineAsns: pattern.spines.count > 0 ? 1 : 0,
      leafAsns: settings.asnScheme === 'per-leaf' ? leaves : racks,
      loopbacks: leaves + pattern.spines.count,
      vteps: leaves,
      linkPrefixes: settings.underlay === 'numbered' ? links : 0,
    },
    findings,
  };
}
