import fc from 'fast-check';
import { applyEdits, type Edit } from '../intent/edits/index.ts';
import { hasFamily, type FabricIntent, type Network } from '../intent/intent.ts';
import { subnet6Key, subnetKey } from '../pools/demands.ts';
import { borderIntents, configsOf, intents, otherIntents, singleIntents } from './fabricOf.ts';

/** An intent whose switches have IPv6 for one another, beside IPv4. */
export const withUnderlay6 = (intent: FabricIntent): FabricIntent =>
  applyEdits(intent, [{ kind: 'changeSettings', settings: { underlayFamilies: 'both' } }]).intent;
/** An intent whose networks have these families in turn. */
export const withFamilies = (intent: FabricIntent, families: readonly Network['families'][]): FabricIntent =>
  applyEdits(
    intent,
    intent.networks.flatMap((network, i): Edit[] => {
      const of = families[i % families.length];
      return of === undefined || network.vrf === ''
        ? []
        : [{ kind: 'changeNetwork', name: network.name, network: { ...network, families: of } }];
    }),
  ).intent;
/** An intent in which some networks have further subnets of their families, as while servers move. */
export const withFurther = (intent: FabricIntent, picked: readonly number[]): FabricIntent =>
  applyEdits(
    intent,
    [...new Set(picked)].flatMap((n): Edit[] => {
      const network = intent.networks[n];
      if (!network || network.vrf === '') return [];
      const furtherSubnets = [
        ...(hasFamily(network, 4) ? [`192.168.${n}.0/24`, `192.168.${100 + n}.128/25`] : []),
        ...(hasFamily(network, 6) ? [`2001:db8:77:${n}::/64`] : []),
      ];
      return [{ kind: 'changeNetwork', name: network.name, network: { ...network, furtherSubnets } }];
    }),
  ).intent;
/** Of some networks, a static route by the last address but one of their subnet, and one to nothing, of each of its families. */
export function withRoutes(intent: FabricIntent, picked: readonly number[]): FabricIntent {
  const { values } = configsOf(intent).drawn;
  const edits = picked.flatMap((n): Edit[] => {
    const network = intent.networks[n];
    if (!network || network.vrf === '' || network.racks.length === 0) return [];
    const { vrf, racks } = network;
    return (['4', '6'] as const).flatMap((family): Edit[] => {
      const own = values.get(family === '4' ? subnetKey(network.name) : subnet6Key(network.name));
      if (own === undefined) return [];
      const via = family === '4' ? own.replace(/\.0\/\d+$/, '.99') : own.replace(/::\/64$/, '::99');
      const [far, none] =
        family === '4' ? [`198.51.100.${n * 16}/28`, '203.0.113.0/24'] : [`2001:db8:9${n}::/48`, '2001:db8:f::/48'];
      return [
        { kind: 'putRoute', route: { vrf, prefix: far, via, racks } },
        { kind: 'putRoute', route: { vrf, prefix: none, racks: racks.slice(0, 1), distance: 19 } },
      ];
    });
  });
  const made = applyEdits(intent, edits);
  if (made.findings.length > 0) throw new Error(made.findings[0]!.message);
  return made.intent;
}
/**
 * Fabrics whose tenants have one family or both, network by network, some with further subnets, and static routes; their
 * links are unnumbered, or half
 * of them are, and their switches have IPv4 for one another, or both.
 */
export const familyIntents: fc.Arbitrary<FabricIntent> = fc
  .tuple(
    fc.oneof(intents, otherIntents, singleIntents, borderIntents),
    fc.array(fc.constantFrom('both' as const, 'ipv6' as const, 'both' as const, undefined), {
      minLength: 2,
      maxLength: 7,
    }),
    fc.array(fc.nat(4), { maxLength: 2 }),
    fc.boolean(),
    fc.array(fc.nat(3), { maxLength: 2 }),
  )
  .map(([intent, families, routed, six, further]) => {
    const made = withRoutes(withFurther(withFamilies(halfWay(intent), families), further), routed);
    return six ? withUnderlay6(made) : made;
  });
/** Fabrics of every shape that is routed and every AS scheme, whose switches have IPv6 for one another. */
export const dualIntents: fc.Arbitrary<FabricIntent> = fc
  .oneof(intents, otherIntents, singleIntents, borderIntents)
  .map(withUnderlay6);

/** In place of numbered links, the state on the way there. */
const halfWay = (intent: FabricIntent): FabricIntent =>
  intent.settings.underlay === 'numbered'
    ? { ...intent, settings: { ...intent.settings, underlay: 'half-numbered' } }
    : intent;
