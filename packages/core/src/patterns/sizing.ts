import { problem, type Finding } from '../finding.ts';
import { portsOf, type SwitchModel } from '../hardware/switchModel.ts';
import { expandPorts } from '../numbers/order.ts';
import {
  DEFAULT_SETTINGS,
  leavesPerRack,
  shapeOf,
  type FabricPattern,
  type FabricSettings,
  type PartsCatalogue,
  type RackPattern,
} from './patterns.ts';
import { checkRackPattern } from './rackPattern.ts';

export interface RackSizing {
  readonly pattern: string;
  /** In the whole fabric. */
  readonly count: number;
  readonly leaves: number;
  readonly uplinksNeeded: number;
  readonly uplinksFitted: number;
  /** Σ server port speed ÷ Σ speed of uplinks in use; with all spines, and with one spine lost. */
  readonly oversubscription: number;
  readonly oversubscriptionSpineLost: number | null;
  readonly serverPorts: number;
}

/** Switches above the racks, and the ports each of them needs. */
export interface TierSizing {
  readonly tier: 'spine' | 'super-spine';
  readonly switches: number;
  readonly portsNeeded: number;
  readonly portsFitted: number;
}

export interface Sizing {
  readonly switches: number;
  readonly leaves: number;
  readonly racks: number;
  readonly links: number;
  /** From the racks up; a collapsed fabric has none. */
  readonly tiers: readonly TierSizing[];
  /** Most leaves the ports can carry; of each pod where there are pods. */
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
const misfit = (path: string, message: string, cure: string): Finding => problem('pattern-fits', path, message, cure);

/** What a shape asks of its parts, apart from how much of each there is. */
interface Needs {
  readonly pods: number;
  /** Uplinks of a leaf, and how one says so. */
  readonly uplinks: number;
  readonly uplinksSaid: string;
  /** What would take fewer of them. */
  readonly fewer: (fitted: number) => string;
  /** Switches that share the traffic of a leaf. */
  readonly spread: number;
  readonly findings: readonly Finding[];
}

function needsOf(pattern: FabricPattern, leavesOfPod: number, settings: FabricSettings): Needs {
  const { spines, parallel, pods = 0, superSpines } = pattern;
  const findings: Finding[] = [];
  const overSpines = {
    uplinks: spines.count * parallel,
    uplinksSaid: `${spines.count} spines × ${parallel} need`,
    fewer: (fitted: number) =>
      `Use at most ${Math.floor(fitted / parallel)} spines, fewer parallel links, or a model with more uplinks.`,
    spread: spines.count,
  };
  if (shapeOf(pattern) !== 'collapsed' && spines.count < 1)
    findings.push(misfit('/spines/count', 'There is no spine.', 'Have at least one, or a collapsed fabric.'));
  switch (shapeOf(pattern)) {
    case 'three-stages':
      return { ...overSpines, pods: 1, findings };
    case 'five-stages':
      if (pods < 1) findings.push(misfit('/pods', 'There is no pod.', 'Have at least one.'));
      if ((superSpines?.count ?? 0) < 1)
        findings.push(misfit('/superSpines/count', 'There is no super-spine.', 'Have at least one for each plane.'));
      return { ...overSpines, pods, findings };
    case 'collapsed': {
      const others = Math.max(0, leavesOfPod - 1);
      if (leavesOfPod < 2)
        findings.push(
          misfit(
            '/racks',
            'A collapsed fabric has two or more leaves.',
            'Add a rack, or choose a rack pattern of a pair.',
          ),
        );
      if (settings.asnScheme === 'per-rack' && leavesOfPod > 0)
        findings.push(
          misfit(
            '/settings/asnScheme',
            'Leaves that are joined to one another cannot share an AS number: eBGP would not come up between them.',
            'Give each leaf a number of its own.',
          ),
        );
      return {
        pods: 1,
        uplinks: others * parallel,
        uplinksSaid: `${others} other leaves × ${parallel} need`,
        fewer: (fitted) =>
          `Use at most ${Math.floor(fitted / parallel) + 1} leaves, fewer parallel links, or a model with more uplinks.`,
        spread: others,
        findings,
      };
    }
  }
}

/** Switches of a tier and what each needs, or the finding that its model is not known. */
function sizeTier(
  tier: TierSizing['tier'],
  switches: number,
  model: { readonly path: string; readonly name: string },
  parts: PartsCatalogue,
  need: { readonly ports: number; readonly said: string; readonly cure: (fitted: number) => string },
): { readonly sized: TierSizing; readonly findings: Finding[] } {
  const known = parts.models.find((m) => m.name === model.name);
  const portsFitted = known ? portsOf(known).size : 0;
  const sized = { tier, switches, portsNeeded: need.ports, portsFitted };
  if (!known)
    return {
      sized,
      findings: [
        misfit(
          model.path,
          model.name === '' ? `No ${tier} model is chosen.` : `There is no switch model ${model.name}.`,
          'Choose a model in the list.',
        ),
      ],
    };
  const short = need.ports > portsFitted;
  const said = `${need.said} need ${need.ports} ports on every ${tier}; ${known.name} has ${portsFitted}.`;
  return { sized, findings: short ? [misfit(model.path, said, need.cure(portsFitted))] : [] };
}

function sizeTiers(pattern: FabricPattern, parts: PartsCatalogue, leavesOfPod: number, pods: number) {
  const shape = shapeOf(pattern);
  if (shape === 'collapsed') return [];
  const { parallel, spines } = pattern;
  const above = shape === 'five-stages' ? { count: 0, model: '', ...pattern.superSpines } : null;
  const upwards = (above?.count ?? 0) * parallel;
  const joined = above
    ? `${leavesOfPod} leaves and ${above.count} super-spines × ${parallel} links`
    : `${leavesOfPod} leaves × ${parallel} links`;
  const spineTier = sizeTier('spine', spines.count * pods, { path: '/spines/model', name: spines.model }, parts, {
    ports: leavesOfPod * parallel + upwards,
    said: joined,
    cure: (fitted) =>
      `Use at most ${Math.max(0, Math.floor((fitted - upwards) / parallel))} leaves${above ? ' in a pod' : ''}, or a spine model with more ports.`,
  });
  if (!above) return [spineTier];
  const superTier = sizeTier(
    'super-spine',
    above.count * spines.count,
    { path: '/superSpines/model', name: above.model },
    parts,
    {
      ports: pods * parallel,
      said: `${pods} pods × ${parallel} links`,
      cure: (fitted) => `Use at most ${Math.floor(fitted / parallel)} pods, or a super-spine model with more ports.`,
    },
  );
  return [spineTier, superTier];
}

/** Σ server speed ÷ Σ speed of the uplinks in use. */
function oversubscriptionOf(rack: RackPattern, model: SwitchModel | undefined, uplinksNeeded: number): number {
  const speeds = model ? portsOf(model) : new Map<string, number>();
  const total = (ports: readonly string[]): number => sum(ports.map((p) => speeds.get(p) ?? 0));
  const up = total((expandPorts(rack.uplinkPorts) ?? []).slice(0, uplinksNeeded));
  return up > 0 ? total(expandPorts(rack.serverPorts) ?? []) / up : Infinity;
}

/**
 * Sizes a fabric pattern, in time that grows with the kinds of racks and not with their number. Leaf uplinks needed = spines ×
 * parallel (collapsed: other leaves × parallel); spine ports needed = leaves × parallel, with five stages of a pod and with
 * super-spines × parallel besides; oversubscription = Σ server speed ÷ Σ uplink speed, × spines ÷ (spines − 1) after one is
 * lost. Problems come back as findings that point into the pattern.
 */
export function sizePattern(pattern: FabricPattern, parts: PartsCatalogue): Sizing {
  const settings: FabricSettings = { ...DEFAULT_SETTINGS, ...pattern.settings };
  const known = pattern.racks.map((entry) => parts.rackPatterns.find((r) => r.name === entry.pattern));
  const leavesOfPod = sum(pattern.racks.map(({ count }, i) => (known[i] ? count * leavesPerRack(known[i].kind) : 0)));
  const needs = needsOf(pattern, leavesOfPod, settings);
  const findings: Finding[] = [...needs.findings];
  const tiers = sizeTiers(pattern, parts, leavesOfPod, needs.pods);
  // A missing model is said before what it is missing for.
  findings.push(...tiers.flatMap((t) => t.findings.filter((f) => /^(No|There is no) /.test(f.message))));
  const rackSizings: RackSizing[] = [];
  pattern.racks.forEach((entry, i) => {
    const rack = known[i];
    if (!rack) {
      findings.push(
        misfit(`/racks/${i}/pattern`, `There is no rack pattern ${entry.pattern}.`, 'Choose one in the list.'),
      );
      return;
    }
    findings.push(...checkRackPattern(rack, parts.models).map((f) => ({ ...f, path: `/racks/${i}${f.path}` })));
    const fitted = expandPorts(rack.uplinkPorts)?.length ?? 0;
    if (fitted < needs.uplinks && entry.count > 0)
      findings.push(
        misfit(
          `/racks/${i}/pattern`,
          `${rack.name} has ${fitted} uplinks; ${needs.uplinksSaid} ${needs.uplinks}.`,
          needs.fewer(fitted),
        ),
      );
    const model = parts.models.find((m) => m.name === rack.leafModel);
    const ratio = oversubscriptionOf(rack, model, needs.uplinks);
    rackSizings.push({
      pattern: rack.name,
      count: entry.count * needs.pods,
      leaves: leavesPerRack(rack.kind),
      uplinksNeeded: needs.uplinks,
      uplinksFitted: fitted,
      oversubscription: ratio,
      oversubscriptionSpineLost: needs.spread > 1 ? (ratio * needs.spread) / (needs.spread - 1) : null,
      serverPorts: expandPorts(rack.serverPorts)?.length ?? 0,
    });
  });
  findings.push(...tiers.flatMap((t) => t.findings.filter((f) => !findings.includes(f))));
  const shape = shapeOf(pattern);
  const racks = sum(rackSizings.map((r) => r.count));
  const leaves = sum(rackSizings.map((r) => r.count * r.leaves));
  const upper = sum(tiers.map((t) => t.sized.switches));
  const aboveLinks = (tiers[1]?.sized.switches ?? 0) * (tiers[1]?.sized.portsNeeded ?? 0);
  const links = shape === 'collapsed' ? (leaves * needs.uplinks) / 2 : leaves * needs.uplinks + aboveLinks;
  const upwards = (pattern.superSpines?.count ?? 0) * pattern.parallel;
  const leastUplinks = Math.min(...rackSizings.map((r) => r.uplinksFitted));
  return {
    switches: leaves + upper,
    leaves,
    racks,
    links,
    tiers: tiers.map((t) => t.sized),
    largestLeaves:
      shape === 'collapsed'
        ? Math.floor(leastUplinks / pattern.parallel) + 1
        : Math.max(
            0,
            Math.floor(((tiers[0]?.sized.portsFitted ?? 0) - (tiers[1] ? upwards : 0)) / Math.max(1, pattern.parallel)),
          ),
    rackSizings,
    draws: {
      spineAsns: shape === 'collapsed' || pattern.spines.count === 0 ? 0 : shape === 'five-stages' ? needs.pods + 1 : 1,
      leafAsns: settings.asnScheme === 'per-leaf' ? leaves : racks,
      loopbacks: leaves + upper,
      vteps: leaves,
      linkPrefixes: settings.underlay === 'numbered' ? links : 0,
    },
    findings,
  };
}
