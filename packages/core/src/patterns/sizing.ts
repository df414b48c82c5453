import type { Finding } from '../finding.ts';
import { breakoutsWrong, portsOf, type SwitchModel } from '../hardware/switchModel.ts';
import { expandPorts } from '../numbers/ports.ts';
import { managementMisfit, misfit, pairMisfits, speedMisfit } from './misfits.ts';
import { checkDescriptions } from './descriptions.ts';
import { checkNames } from './names.ts';
import {
  DEFAULT_SETTINGS,
  hasPods,
  hasUnderlay6,
  isRouted,
  leavesPerRack,
  modelsOfTier,
  NO_SWITCHES,
  shapeOf,
  type FabricPattern,
  type FabricSettings,
  type PartsCatalogue,
  type RackPattern,
  type TierSwitches,
  type AsnScheme,
  ledByOspf,
  leavesShareAs,
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
    /** Beside them, where switches have IPv6 for one another. */
    readonly loopbacks6: number;
    readonly linkPrefixes6: number;
  };
  readonly findings: readonly Finding[];
}

const sum = (ns: readonly number[]): number => ns.reduce((a, b) => a + b, 0);

/** What a shape asks of its parts, apart from how much of each there is. */
interface Needs {
  readonly pods: number;
  /** Uplinks of a leaf, and how one says so. */
  readonly uplinks: number;
  readonly uplinksSaid: string;
  /** What would take fewer of them. */
  readonly fewer: (fitted: number) => string;
  /** Uplinks of a leaf that carry its traffic. */
  readonly inUse: number;
  /** By how much that is less after a switch they lead to is lost; null = nothing is left. */
  readonly lost: number | null;
  readonly findings: readonly Finding[];
}

/** Of n switches that share the traffic one is lost. */
const afterLoss = (n: number): number | null => (n > 1 ? n / (n - 1) : null);

function needsOf(pattern: FabricPattern, leavesOfPod: number, settings: FabricSettings): Needs {
  const { spines, parallel, pods = 0, superSpines } = pattern;
  const findings: Finding[] = [];
  const overSpines = {
    uplinks: spines.count * parallel,
    uplinksSaid: `${spines.count} spines × ${parallel} need`,
    fewer: (fitted: number) =>
      `Use at most ${Math.floor(fitted / parallel)} spines, fewer parallel links, or a model with more uplinks.`,
    inUse: spines.count * parallel,
    lost: afterLoss(spines.count),
  };
  if (shapeOf(pattern) !== 'collapsed' && spines.count < 1)
    findings.push(misfit('/spines/count', 'There is no spine.', 'Have at least one, or a collapsed fabric.'));
  switch (shapeOf(pattern)) {
    case 'three-stages':
      return { ...overSpines, pods: 1, findings };
    case 'switched':
      // Spanning tree leaves the links to one of them; when it is lost, those to another carry as much.
      return { ...overSpines, pods: 1, inUse: parallel, lost: spines.count > 1 ? 1 : null, findings };
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
      if (leavesShareAs(settings.asnScheme) && leavesOfPod > 0)
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
        inUse: others * parallel,
        lost: afterLoss(others),
        findings,
      };
    }
  }
}

/** Switches of a tier and what each needs, or the finding that its model is not known. */
function sizeTier(
  tier: { readonly tier: TierSizing['tier']; readonly path: string; readonly of: TierSwitches },
  switches: number,
  parts: PartsCatalogue,
  need: { readonly ports: number; readonly said: string; readonly cure: (fitted: number) => string },
): { readonly sized: TierSizing; readonly findings: Finding[] } {
  const { path, of } = tier;
  const findings: Finding[] = [];
  const fitted: number[] = [];
  for (const name of modelsOfTier(of)) {
    const known = parts.models.find((m) => m.name === name);
    const other = (of.others ?? []).findIndex((o) => o.model === name);
    const place = name === of.model ? `${path}/model` : `${path}/others/${other}/model`;
    if (!known) {
      const message = name === '' ? `No ${tier.tier} model is chosen.` : `There is no switch model ${name}.`;
      findings.push(misfit(place, message, 'Choose a model in the list.'));
      continue;
    }
    findings.push(
      ...breakoutsWrong(known, of.breakouts ?? []).map(({ at, message, cure }) =>
        misfit(`${path}/breakouts/${at}/ports`, message, cure),
      ),
    );
    const ports = portsOf(known, of.breakouts).size;
    fitted.push(ports);
    const said = `${need.said} need ${need.ports} ports on every ${tier.tier}; ${known.name} has ${ports}.`;
    if (need.ports > ports) findings.push(misfit(place, said, need.cure(ports)));
  }
  const portsFitted = Math.min(...fitted, Infinity);
  return {
    sized: {
      tier: tier.tier,
      switches,
      portsNeeded: need.ports,
      portsFitted: Number.isFinite(portsFitted) ? portsFitted : 0,
    },
    findings,
  };
}

function sizeTiers(pattern: FabricPattern, parts: PartsCatalogue, leavesOfPod: number, pods: number) {
  const shape = shapeOf(pattern);
  if (shape === 'collapsed') return [];
  const { parallel, spines } = pattern;
  const above = shape === 'five-stages' ? { ...NO_SWITCHES, ...pattern.superSpines } : null;
  const upwards = (above?.count ?? 0) * parallel;
  const joined = above
    ? `${leavesOfPod} leaves and ${above.count} super-spines × ${parallel} links`
    : `${leavesOfPod} leaves × ${parallel} links`;
  const spineTier = sizeTier({ tier: 'spine', path: '/spines', of: spines }, spines.count * pods, parts, {
    ports: leavesOfPod * parallel + upwards,
    said: joined,
    cure: (fitted) =>
      `Use at most ${Math.max(0, Math.floor((fitted - upwards) / parallel))} leaves${above ? ' in a pod' : ''}, or a spine model with more ports.`,
  });
  if (!above) return [spineTier];
  const superTier = sizeTier(
    { tier: 'super-spine', path: '/superSpines', of: above },
    above.count * spines.count,
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
function oversubscriptionOf(rack: RackPattern, model: SwitchModel | undefined, inUse: number): number {
  const speeds = model ? portsOf(model, rack.breakouts) : new Map<string, number>();
  const total = (ports: readonly string[]): number => sum(ports.map((p) => speeds.get(p) ?? 0));
  const up = total((expandPorts(rack.uplinkPorts) ?? []).slice(0, inUse));
  return up > 0 ? total(expandPorts(rack.serverPorts) ?? []) / up : Infinity;
}

/** AS numbers that are drawn for leaves, or for all. */
function leafAsnsOf(
  scheme: AsnScheme,
  { leaves, racks, upper }: { readonly leaves: number; readonly racks: number; readonly upper: number },
): number {
  switch (scheme) {
    case 'per-leaf':
      return leaves;
    case 'per-rack':
      return racks;
    case 'two':
      return Math.min(leaves, 1);
    case 'single':
      return Math.min(leaves + upper, 1);
  }
}

/** Links between the halves of a pair. */
const linksOfPair = ({ kind, peerPorts, keepalivePorts }: RackPattern): number =>
  kind === 'single'
    ? 0
    : sum([peerPorts, keepalivePorts].map((ports) => (ports ? (expandPorts(ports)?.length ?? 0) : 0)));

/**
 * Sizes a fabric pattern, in time that grows with the kinds of racks and not with their number. Leaf uplinks needed = spines ×
 * parallel (collapsed: other leaves × parallel); spine ports needed = leaves × parallel, with five stages of a pod and with
 * super-spines × parallel besides; oversubscription = Σ server speed ÷ Σ uplink speed, × spines ÷ (spines − 1) after one is
 * lost (with spanning tree: over the links to one of them, before and after). Problems come back as findings that point into the pattern.
 */
export function sizePattern(pattern: FabricPattern, parts: PartsCatalogue): Sizing {
  const settings: FabricSettings = { ...DEFAULT_SETTINGS, ...pattern.settings };
  const known = pattern.racks.map((entry) => parts.rackPatterns.find((r) => r.name === entry.pattern));
  const leavesOfPod = sum(pattern.racks.map(({ count }, i) => (known[i] ? count * leavesPerRack(known[i].kind) : 0)));
  const needs = needsOf(pattern, leavesOfPod, settings);
  const findings: Finding[] = [
    ...needs.findings,
    ...checkNames(settings, 'x', hasPods(pattern)),
    ...checkDescriptions(settings),
    ...managementMisfit(pattern),
  ];
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
    if (entry.count > 0)
      findings.push(...pairMisfits(pattern, rack, settings).map((f) => ({ ...f, path: `/racks/${i}/pattern` })));
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
    if (entry.count > 0)
      findings.push(...speedMisfit(pattern, rack, model, needs.uplinks, parts, `/racks/${i}/pattern`));
    const ratio = oversubscriptionOf(rack, model, needs.inUse);
    rackSizings.push({
      pattern: rack.name,
      count: entry.count * needs.pods,
      leaves: leavesPerRack(rack.kind),
      uplinksNeeded: needs.uplinks,
      uplinksFitted: fitted,
      oversubscription: ratio,
      oversubscriptionSpineLost: needs.lost === null ? null : ratio * needs.lost,
      serverPorts: expandPorts(rack.serverPorts)?.length ?? 0,
    });
  });
  findings.push(...tiers.flatMap((t) => t.findings.filter((f) => !findings.includes(f))));
  const shape = shapeOf(pattern);
  const racks = sum(rackSizings.map((r) => r.count));
  const leaves = sum(rackSizings.map((r) => r.count * r.leaves));
  const upper = sum(tiers.map((t) => t.sized.switches));
  const aboveLinks = (tiers[1]?.sized.switches ?? 0) * (tiers[1]?.sized.portsNeeded ?? 0);
  const underlay = shape === 'collapsed' ? (leaves * needs.uplinks) / 2 : leaves * needs.uplinks + aboveLinks;
  const ofPairs = (count: (rack: RackPattern) => number): number =>
    sum(pattern.racks.map((entry, i) => (known[i] ? entry.count * needs.pods * count(known[i]) : 0)));
  const links = underlay + ofPairs(linksOfPair);
  const routed = isRouted(pattern);
  const linkPrefixes =
    routed && settings.underlay === 'numbered'
      ? underlay + ofPairs((rack) => linksOfPair({ ...rack, keepalivePorts: '' }))
      : 0;
  const six = hasUnderlay6({ ...pattern, settings });
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
      spineAsns: !routed || upper === 0 || ledByOspf(settings) ? 0 : hasPods(pattern) ? needs.pods + 1 : 1,
      leafAsns: routed ? leafAsnsOf(settings.asnScheme, { leaves, racks, upper }) : 0,
      loopbacks: routed ? leaves + upper : 0,
      vteps: routed ? leaves : 0,
      linkPrefixes,
      loopbacks6: six ? leaves + upper : 0,
      linkPrefixes6: six ? linkPrefixes : 0,
    },
    findings,
  };
}
