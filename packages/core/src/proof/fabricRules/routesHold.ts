import { carriagesOf, gatewaysOf } from '../../config/carriage.ts';
import { leadsOver } from '../../config/sideRoutes.ts';
import type { Finding } from '../../finding.ts';
import { routeKey, type TenantRoute } from '../../intent/intent.ts';
import { racksWords } from '../../intent/racksText.ts';
import { holdsAny, hostPrefix, parseAnyCidr, networkOfAny } from '../../numbers/prefix.ts';
import type { FabricRule, JudgedFabric } from '../rule.ts';

type Carriages = ReturnType<typeof carriagesOf>;

/** Racks on which a route is said where nothing of its tenant is. */
const awayFrom = ({ racks, vrf }: TenantRoute, carriages: Carriages): number[] =>
  racks.filter((rack) => !carriages.get(rack)?.vrfs.some((v) => v.vrf.name === vrf));

/** What a rule says of each route, by the racks it is wrong on. */
const ofRoutes =
  (
    rule: Pick<FabricRule, 'id' | 'severity'>,
    wrongOn: (route: TenantRoute, carriages: Carriages, fabric: JudgedFabric) => readonly number[],
    says: (route: TenantRoute, racks: string) => Pick<Finding, 'message' | 'cure'>,
  ) =>
  (fabric: JudgedFabric): Finding[] => {
    const { intent, values } = fabric;
    if (intent.routes.length === 0) return [];
    const carriages = carriagesOf(intent, values, undefined);
    return intent.routes.flatMap((r): Finding[] => {
      const racks = wrongOn(r, carriages, fabric);
      if (racks.length === 0) return [];
      return [
        {
          rule: rule.id,
          severity: rule.severity,
          ...says(r, racksWords([...racks])),
          subjects: [`route:${routeKey(r)}`],
        },
      ];
    });
  };

const carried = { id: 'route-carried', severity: 'error' } as const;
export const routeCarried: FabricRule = {
  ...carried,
  title: 'Static routes are said where their tenant is',
  source: 'a switch without the VRF has no use for its routes',
  scope: 'intent',
  judge: ofRoutes(carried, awayFrom, (r, racks) => ({
    message: `The static route to ${r.prefix} is said on ${racks}, where nothing of ${r.vrf} is.`,
    cure: `Carry a network of ${r.vrf} there, or say it on racks that do.`,
  })),
};

const near = { id: 'next-hop-near', severity: 'error' } as const;
export const nextHopNear: FabricRule = {
  ...near,
  title: 'Next hops of static routes lie in a subnet of their tenant there',
  source: 'a next hop that has to be asked for elsewhere is found by luck',
  scope: 'intent',
  judge: ofRoutes(
    near,
    (r, carriages, { intent }) => {
      const hop = r.via === undefined ? null : hostPrefix(r.via);
      if (!hop) return [];
      const away = awayFrom(r, carriages);
      // Of a link it is said on the half alone that has it.
      const isNear = (rack: number): boolean => {
        const gateways = (carriages.get(rack)?.networks ?? []).flatMap((n) => (n.vrf === r.vrf ? gatewaysOf(n) : []));
        return (
          intent.neighbours.some((n) => n.rack === rack && leadsOver(r, n)) ||
          gateways.some((own) => holdsAny(networkOfAny(parseAnyCidr(own)!), hop))
        );
      };
      return r.racks.filter((rack) => !away.includes(rack) && !isNear(rack));
    },
    (r, racks) => ({
      message: `The static route to ${r.prefix} goes by ${r.via}, which on ${racks} lies in no subnet of ${r.vrf}.`,
      cure: 'Say it on the racks that carry its network, or carry that network there too.',
    }),
  ),
};
