import fc from 'fast-check';
import { applyEdits, type Edit } from '../intent/edits/index.ts';
import type { FabricIntent } from '../intent/intent.ts';
import { familyIntents } from './familiesOf.ts';
import type { BgpVrf, UnicastFamily } from '../config/bgp.ts';
import type { PrefixList, RouteMap } from '../config/policy.ts';
import type { SwitchConfig } from '../config/switchConfig.ts';
import { formatPrefix, parseCidr, prefixOf } from '../numbers/ipv4.ts';

/** How tables of a switch have routes of one another. */
export interface LeakChoices {
  /** On which of the switches that have several: each bit is one of them. */
  readonly where: number;
  readonly ways: 'one' | 'both' | 'all';
  /** What goes from one to the other: all, or what a map lets through and makes of it. */
  readonly map: 'none' | 'first' | 'preferred' | 'longer' | 'secret';
}
export const leakChoices: fc.Arbitrary<LeakChoices> = fc.record({
  where: fc.integer({ min: 1, max: 63 }),
  ways: fc.constantFrom('one' as const, 'both' as const, 'all' as const),
  map: fc.constantFrom(
    'none' as const,
    'none' as const,
    'first' as const,
    'preferred' as const,
    'longer' as const,
    'secret' as const,
  ),
});

const NAME = 'FROM-OTHERS';

/** Switches on which VRFs have routes of one another; null = none of them has two. */
export function withLeaks(configs: readonly SwitchConfig[], choices: LeakChoices): SwitchConfig[] | null {
  const several = configs.filter((c) => (c.bgp?.vrfs.length ?? 0) > 1);
  const some = several.filter((_, i) => ((choices.where >> (i % 6)) & 1) === 1);
  const leaking = new Set(some.length > 0 ? some : several.slice(0, 1));
  if (leaking.size === 0) return null;
  return configs.map((c) => (leaking.has(c) ? leaked(c, choices) : c));
}

function leaked(config: SwitchConfig, { ways, map }: LeakChoices): SwitchConfig {
  const [one, other, ...more] = config.bgp!.vrfs.map((v) => v.vrf);
  const from = new Map<string, string[]>([[one!, [other!]]]);
  if (ways !== 'one') from.set(other!, [one!]);
  if (ways === 'all') {
    from.set(one!, [other!, ...more]);
    for (const v of more) from.set(v, [one!]);
  }
  const importing = ({ importMap: _, ...family }: UnicastFamily, importsFrom: readonly string[]): UnicastFamily => ({
    ...family,
    importsFrom,
    ...(map === 'none' ? {} : { importMap: NAME }),
  });
  const vrfs = config.bgp!.vrfs.map((v): BgpVrf => {
    const sources = from.get(v.vrf);
    if (!sources) return v;
    const six = v.ipv6 ? { ipv6: importing(v.ipv6, sources) } : {};
    return { ...v, ipv4: importing(v.ipv4, sources), ...six };
  });
  const out = { ...config, bgp: { ...config.bgp!, vrfs } };
  return map === 'none' ? out : { ...out, ...mapped(out, map) };
}

function mapped(config: SwitchConfig, map: LeakChoices['map']): Pick<SwitchConfig, 'routeMaps' | 'prefixLists'> {
  const subnets = config.svis
    .flatMap((s) => (s.vrf ? s.addresses : []))
    .map((a) => formatPrefix(prefixOf(parseCidr(a)!)));
  const list: PrefixList = {
    name: NAME,
    entries: subnets.slice(0, 1).map((prefix) => ({ seq: 10, permit: true, prefix })),
  };
  const set =
    map === 'preferred'
      ? { weight: 200 }
      : map === 'longer'
        ? { prepend: [65551, 65551] }
        : map === 'secret'
          ? { communities: ['no-export'] }
          : undefined;
  const routeMap: RouteMap = {
    name: NAME,
    entries: [
      map === 'first' && subnets.length > 0
        ? { seq: 10, permit: true, matchPrefixList: NAME }
        : { seq: 10, permit: true, ...(set ? { set } : {}) },
    ],
  };
  return {
    routeMaps: [...config.routeMaps, routeMap].sort((a, b) => (a.name < b.name ? -1 : 1)),
    prefixLists:
      map === 'first' && subnets.length > 0
        ? [...config.prefixLists, list].sort((a, b) => (a.name < b.name ? -1 : 1))
        : config.prefixLists,
  };
}

/** Fabrics of every sort of which some tenants have routes of others, as they are designed. */
export const leakIntents: fc.Arbitrary<FabricIntent> = fc
  .tuple(
    familyIntents.filter((i) => i.vrfs.length > 1),
    fc.array(fc.record({ into: fc.nat(3), from: fc.nat(3), some: fc.boolean() }), { minLength: 1, maxLength: 4 }),
  )
  .map(([intent, leaks]) => {
    const at = (n: number): string => intent.vrfs[n % intent.vrfs.length]!.name;
    const edits = leaks
      .filter(({ into, from }) => at(into) !== at(from))
      .map(({ into, from, some }): Edit => ({
        kind: 'putLeak',
        leak: { into: at(into), from: at(from), prefixes: some ? ['10.32.0.0/12', '2001:db8::/32'] : [] },
      }));
    return applyEdits(intent, edits).intent;
  });
