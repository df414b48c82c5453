import {
  cablesOnSwitches,
  compileFabric,
  hostsOf,
  isRouted,
  layOut,
  linux,
  outsideKey,
  POOLS,
  portsOnSwitches,
  type FabricIntent,
  type SwitchConfig,
  type SwitchFolder,
} from '@anthemion/core';
import { configsOf, intents, otherIntents, singleIntents, wideIntents } from '@anthemion/core/testing/fabricOf';
import { drainedIn, picks } from '@anthemion/core/testing/drainedOf';
import { drivenIntents } from '@anthemion/core/testing/drivenOf';
import { bundledIntents } from '@anthemion/core/testing/lagsOf';
import { dualIntents, familyIntents, withUnderlay6 } from '@anthemion/core/testing/familiesOf';
import { borderChoices, withBorders } from '@anthemion/core/testing/bordersOf';
import { filtersOf } from '@anthemion/core/testing/filtersOf';
import { ipv6Choices, ipv6Servers, withIpv6 as dual } from '@anthemion/core/testing/ipv6Of';
import { policyIntents } from '@anthemion/core/testing/policiesOf';
import { leakChoices, leakIntents, withLeaks } from '@anthemion/core/testing/leaksOf';
import { relabelled } from '@anthemion/core/testing/relabelled';
import { ospfChoices, withOspf } from '@anthemion/core/testing/ospfOf';
import { speakersIntents } from '@anthemion/core/testing/speakersOf';
import fc from 'fast-check';

/** A fabric of arbitrary settings as a folder of switches. */
export function folderOf(intent: FabricIntent): SwitchFolder {
  const { layout, drawn } = configsOf(intent);
  const compiled = compileFabric(intent, drawn.values, POOLS);
  const portOf = portsOnSwitches(intent.models, layout);
  return {
    files: new Map(compiled.switches.map((s) => [s.seat.host, s.files])),
    switches: compiled.switches.map((s) => ({ host: s.seat.host, ...linux.parse(s.files) })),
    cables: cablesOnSwitches(compiled.cables, portOf),
    hosts: hostsOf(intent, layout, drawn.values).map((h) => ({
      ...h,
      port: portOf({ host: h.switch, port: h.port }),
    })),
  };
}

/**
 * So many random fabrics over all settings, of a few switches each; the same ones for the same seed.
 * @param mostSwitches six or more: a fabric of five stages has no fewer
 */
export function generated(count: number, seed: number, mostSwitches = 6): SwitchFolder[] {
  const fits = (i: FabricIntent): boolean => {
    const open = i.ports.filter((p) => p.shut !== true);
    // At least three servers in two racks, so that there is something to reach.
    if (open.length < 3 || new Set(open.map((p) => p.rack)).size < 2) return false;
    return configsOf(i).layout.seats.length <= mostSwitches;
  };
  // Every shape in turn, so that few of them show all.
  const shapes = [
    intents,
    otherIntents.filter((i) => i.shape === 'five-stages' && i.pods! > 1),
    otherIntents.filter((i) => i.shape === 'collapsed'),
    // Peer links, split ports, names by a scheme, networks that are bridged only.
    wideIntents.filter((i) => isRouted(i) && i.networks.some((n) => n.vrf === '')),
    wideIntents.filter((i) => !isRouted(i) && i.spines.count > 1),
  ];
  return Array.from({ length: count }, (_, i) =>
    fc.sample(shapes[i % shapes.length]!.filter(fits), { numRuns: 1, seed: seed + i }),
  )
    .flat()
    .map(folderOf);
}

/** So many random fabrics of one AS, as they are designed: led by OSPF, with route reflectors; every other one by OSPFv3 beside it. */
const ofOneAs = (count: number, seed: number, mostSwitches = 6): SwitchFolder[] =>
  fc
    .sample(
      singleIntents.filter((i) => i.ports.length > 2 && configsOf(i).layout.seats.length <= mostSwitches),
      { numRuns: count, seed },
    )
    .map((intent, i) => folderOf(i % 2 === 0 ? withUnderlay6(intent) : intent));

/** So many random fabrics whose switches have IPv6 for one another, as they are designed. */
const withBoth = (count: number, seed: number, mostSwitches = 6): SwitchFolder[] =>
  fc
    .sample(
      dualIntents.filter((i) => i.ports.length > 1 && configsOf(i).layout.seats.length <= mostSwitches),
      { numRuns: count, seed },
    )
    .map(withRouters);

/** So many random fabrics of which tenants have IPv6, alone or beside IPv4, as they are designed. */
const withFamilies = (count: number, seed: number, mostSwitches = 6): SwitchFolder[] =>
  fc
    .sample(
      familyIntents.filter((i) => {
        const six = i.networks.filter((n) => n.vrf !== '' && n.families !== undefined).map((n) => n.name);
        const racks = i.ports.flatMap((p) => (p.shut !== true && six.includes(p.untagged ?? '') ? p.rack : []));
        // At least two racks with hosts that have it.
        return new Set(racks).size > 1 && configsOf(i).layout.seats.length <= mostSwitches;
      }),
      { numRuns: count, seed },
    )
    .map(withRouters);

/** A fabric with the routers outside that its tenants speak to. */
function withRouters(intent: FabricIntent): SwitchFolder {
  const { outside, layout } = compileFabric(intent, configsOf(intent).drawn.values, POOLS);
  const folder = folderOf(intent);
  const routers = written(outside.switches.map((s) => s.config));
  return {
    ...folder,
    files: new Map([...folder.files, ...routers.files]),
    switches: [...folder.switches, ...routers.switches],
    cables: [...folder.cables, ...cablesOnSwitches(outside.cables, portsOnSwitches(intent.models, layout))],
  };
}

/** So many random fabrics whose tenants speak to routers outside, through route maps or not. */
const neighbourly = (count: number, seed: number, mostSwitches = 6): FabricIntent[] =>
  fc.sample(
    policyIntents.filter(
      (i) => i.neighbours.length > 0 && i.ports.length > 1 && configsOf(i).layout.seats.length <= mostSwitches,
    ),
    { numRuns: count, seed },
  );
/** Such fabrics as they are designed. */
const withNeighbours = (count: number, seed: number, mostSwitches = 6): SwitchFolder[] =>
  neighbourly(count, seed, mostSwitches).map(withRouters);
/** Such fabrics of switches whose maker labels ports as no switch takes them, each in its own way. */
const withLabels = (count: number, seed: number, mostSwitches = 6): SwitchFolder[] =>
  neighbourly(count, seed, mostSwitches).map((intent, i) =>
    withRouters(relabelled(intent, ['e1/', 'p-0/0/', 'port1.', '1/'][i % 4]!, false)),
  );

/** So many random fabrics of whose networks servers speak BGP to the gateway, as they are designed. */
const withCallers = (count: number, seed: number, mostSwitches = 6): SwitchFolder[] =>
  fc
    .sample(
      speakersIntents.filter(
        (i) =>
          i.speakers.some((s) => s.known !== undefined && s.closed !== true) &&
          i.ports.length > 2 &&
          configsOf(i).layout.seats.length <= mostSwitches,
      ),
      { numRuns: count, seed },
    )
    .map(withRouters);

/** So many random fabrics of whose links some are shut, every other one of one AS; ports are told speeds, and described in some way. */
const withShutLinks = (count: number, seed: number, mostSwitches = 6): SwitchFolder[] => {
  const fits = (i: FabricIntent): boolean =>
    isRouted(i) && i.ports.length > 2 && configsOf(i).layout.seats.length <= mostSwitches;
  const of = (intents: fc.Arbitrary<FabricIntent>) =>
    fc.sample(fc.tuple(intents.filter(fits), fc.array(fc.nat(), { minLength: 1, maxLength: 3 })), {
      numRuns: Math.ceil(count / 2),
      seed,
    });
  const [driven, single] = [of(drivenIntents), of(singleIntents)];
  return driven
    .flatMap((one, i) => [one, single[i]!])
    .slice(0, count)
    .map(([intent, picked]) => {
      const { links } = layOut(intent);
      const shut = new Set(picked.map((n) => links[n % links.length]!.id));
      return withRouters({ ...intent, shutLinks: [...shut].sort().map((link) => ({ link })) });
    });
};

/** So many random fabrics whose tenants speak to routers outside over LAGs. */
const withLags = (count: number, seed: number, mostSwitches = 6): SwitchFolder[] =>
  fc
    .sample(
      bundledIntents.filter(
        (i) =>
          i.neighbours.some((n) => i.outside.some((o) => o.lag !== undefined && outsideKey(o) === outsideKey(n))) &&
          i.ports.length > 1 &&
          configsOf(i).layout.seats.length <= mostSwitches,
      ),
      { numRuns: count, seed },
    )
    .map(withRouters);

/** So many random fabrics of which some switches are drained: as they are designed, of one AS, with both families, with routers outside. */
const withDrained = (count: number, seed: number, mostSwitches = 6): SwitchFolder[] => {
  const fits = (i: FabricIntent): boolean =>
    isRouted(i) && i.ports.length > 2 && configsOf(i).layout.seats.length <= mostSwitches;
  const hasPairs = (i: FabricIntent): boolean => i.ports.some((p) => p.side === 'both' && p.shut !== true);
  const sorts = [wideIntents.filter(hasPairs), singleIntents, dualIntents, policyIntents];
  return Array.from({ length: count }, (_, i) => {
    const of = sorts[i % sorts.length]!.filter(fits);
    const [[intent, picked]] = fc.sample(fc.tuple(of, picks), { numRuns: 1, seed: seed + i }) as [
      [FabricIntent, readonly number[]],
    ];
    return withRouters(drainedIn(intent, picked));
  });
};

/** So many random fabrics that OSPF leads, over all its settings here. */
export const ledByOspf = (count: number, seed: number, mostSwitches = 6): SwitchFolder[] =>
  generated(4 * count, seed, mostSwitches)
    .filter((f) => f.switches.some((s) => s.config.vxlans.length > 0) && f.switches.every((s) => s.config.bgp))
    .slice(0, count)
    .map((folder, i) => {
      const [choices] = fc.sample(ospfChoices, { numRuns: 1, seed: seed + i });
      const configs = withOspf(
        folder.switches.map((s) => s.config),
        folder.cables,
        // Nobody waits for a neighbour that speaks once in ten seconds.
        { ...choices!, quick: true },
      );
      return { ...folder, ...written(configs) };
    });

/** Configurations as texts, and these read. */
function written(configs: readonly SwitchConfig[]): Pick<SwitchFolder, 'files' | 'switches'> {
  const files = new Map(configs.map((c) => [c.hostname, linux.render(c).files]));
  return { files, switches: [...files].map(([host, f]) => ({ host, ...linux.parse(f) })) };
}

/** So many random fabrics of which a tenant speaks to routers outside, in all ways here. */
export const withOutside = (count: number, seed: number, mostSwitches = 6): SwitchFolder[] =>
  generated(6 * count, seed, mostSwitches)
    .flatMap((folder, i) => {
      const [choices] = fc.sample(borderChoices, { numRuns: 1, seed: seed + i });
      const configs = folder.switches.map((s) => s.config);
      const bordered = withBorders(configs, folder.cables, folder.hosts, choices!);
      if (!bordered) return [];
      return [{ ...written(bordered.configs), cables: bordered.cables, hosts: bordered.hosts }];
    })
    .slice(0, count);

/** So many random fabrics in which VRFs have routes of one another: as they are designed, with routers outside, of one AS, and others. */
export const withLeaking = (count: number, seed: number, mostSwitches = 6): SwitchFolder[] => {
  const leaking = (folders: readonly SwitchFolder[]): SwitchFolder[] =>
    folders.flatMap((folder, i) => {
      const [choices] = fc.sample(leakChoices, { numRuns: 1, seed: seed + i });
      const configs = withLeaks(
        folder.switches.map((s) => s.config),
        choices!,
      );
      return configs ? [{ ...folder, ...written(configs) }] : [];
    });
  const fits = (i: FabricIntent): boolean =>
    i.leaks.length > 0 && i.ports.length > 1 && configsOf(i).layout.seats.length <= mostSwitches;
  // Of each sort as many; not all of them have two tenants on one switch.
  const sorts: readonly ((n: number) => readonly SwitchFolder[])[] = [
    (n) => fc.sample(leakIntents.filter(fits), { numRuns: n, seed }).map(withRouters),
    (n) => leaking(withOutside(n, seed, mostSwitches)),
    (n) => leaking(ofOneAs(2 * n, seed, mostSwitches)),
    (n) => leaking(generated(3 * n, seed, mostSwitches)),
  ];
  const each = Math.ceil(count / sorts.length);
  return sorts
    .slice(0, count)
    .flatMap((sort) => sort(each).slice(0, each))
    .slice(0, count);
};

/** So many random fabrics in which some switches filter. */
export const withFilters = (count: number, seed: number, mostSwitches = 6): SwitchFolder[] =>
  filtering(generated(count, seed, mostSwitches), seed);
/** Fabrics of which some switches filter. */
const filtering = (folders: readonly SwitchFolder[], seed: number): SwitchFolder[] =>
  folders.map((folder, i) => {
    const { switches, hosts } = folder;
    const configs = switches.map(({ config }, at) => {
      // Each of three, or all of few.
      if (switches.length > 3 && (at + i) % 3 === 0) return config;
      const [filters] = fc.sample(filtersOf(config, hosts), { numRuns: 1, seed: seed + 1000 * i + at });
      return { ...config, filters: filters! };
    });
    return { ...folder, ...written(configs) };
  });

/** So many random fabrics that have IPv6 beside IPv4, each third with a tenant that speaks to routers outside. */
export const withIpv6 = (count: number, seed: number, mostSwitches = 6): SwitchFolder[] => {
  const plain = generated(2 * count, seed, mostSwitches).filter((f) => f.switches.some((s) => s.config.bgp));
  const outside = withOutside(Math.ceil(count / 3), seed, mostSwitches);
  return Array.from({ length: count }, (_, i) => (i % 3 === 2 ? outside[(i - 2) / 3]! : plain[i]!)).map((folder, i) => {
    const [choices] = fc.sample(ipv6Choices, { numRuns: 1, seed: seed + i });
    const [ospf] = fc.sample(ospfChoices, { numRuns: 1, seed: seed + i });
    const configs = dual(
      folder.switches.map((s) => s.config),
      folder.cables,
      choices!,
      { ...ospf!, quick: true },
    );
    return { ...folder, ...written(configs), hosts: [...folder.hosts, ...ipv6Servers(configs, folder.hosts)] };
  });
};

/** What random fabrics there are: as they are designed, led by OSPF, with a tenant that speaks to routers outside, with filters, with IPv6, with both, of one AS, with neighbours outside of the intent, with families of tenants as they are designed, with both families between switches as they are designed, with servers that speak BGP to their gateway, with VRFs that have routes of one another, with links that are shut, with LAGs to routers outside, with switches that are drained. */
export const FABRIC_KINDS = [
  'plain',
  'ospf',
  'outside',
  'filters',
  'ipv6',
  'ipv6-filters',
  'one-as',
  'neighbours',
  'labels',
  'families',
  'dual',
  'speakers',
  'leaks',
  'shut',
  'lags',
  'drained',
] as const;
export type FabricKind = (typeof FABRIC_KINDS)[number];
const KINDS: Readonly<Record<FabricKind, typeof ledByOspf>> = {
  plain: generated,
  ospf: ledByOspf,
  outside: withOutside,
  filters: withFilters,
  ipv6: withIpv6,
  'one-as': ofOneAs,
  neighbours: withNeighbours,
  labels: withLabels,
  families: withFamilies,
  dual: withBoth,
  speakers: withCallers,
  leaks: withLeaking,
  shut: withShutLinks,
  lags: withLags,
  drained: withDrained,
  'ipv6-filters': (count, seed) => filtering(withIpv6(count, seed), seed),
};
/** So many random fabrics of a kind. */
export const ofKind = (kind: FabricKind, count: number, seed: number): SwitchFolder[] => KINDS[kind](count, seed);
