import { carriagesOf, gatewaysOf } from '../config/carriage.ts';
import type { Finding } from '../finding.ts';
import { routeKey, type FabricIntent } from '../intent/intent.ts';
import { racksWords } from '../intent/racksText.ts';
import { sideOf } from '../layout/seats.ts';
import type { Layout } from '../layout/links.ts';
import { holdsAny, hostPrefix, parseAnyCidr, networkOfAny } from '../numbers/prefix.ts';
import type { Values } from '../pools/drawValues.ts';

/**
 * Static routes of tenants that cannot do what they are for: said where the tenant is not, or by a next hop that lies in no
 * subnet of the tenant there, so that it has to be asked for elsewhere and is found by luck.
 */
export function routesHold(intent: FabricIntent, layout: Layout, values: Values): Finding[] {
  if (intent.routes.length === 0) return [];
  const carriages = carriagesOf(intent, values, undefined);
  return intent.routes.flatMap((r): Finding[] => {
    const subjects = [`route:${routeKey(r)}`] as const;
    const away = r.racks.filter((rack) => !carriages.get(rack)?.vrfs.some((v) => v.vrf.name === r.vrf));
    const hop = r.via === undefined ? null : hostPrefix(r.via);
    const near = (rack: number, side: 'a' | 'b'): boolean => {
      const gateways = (carriages.get(rack)?.networks ?? []).flatMap((n) => (n.vrf === r.vrf ? gatewaysOf(n) : []));
      const links = intent.neighbours.flatMap((n) =>
        n.vrf === r.vrf && n.rack === rack && n.side === side ? n.address : [],
      );
      return [...gateways, ...links].some((own) => holdsAny(networkOfAny(parseAnyCidr(own)!), hop!));
    };
    const far = hop
      ? layout.seats.flatMap((s) =>
          s.rack !== undefined && r.racks.includes(s.rack) && !away.includes(s.rack) && !near(s.rack, sideOf(s))
            ? s.rack
            : [],
        )
      : [];
    return [
      ...(away.length === 0
        ? []
        : [
            {
              rule: 'route-carried',
              severity: 'error',
              message: `The static route to ${r.prefix} is said on ${racksWords(away)}, where nothing of ${r.vrf} is.`,
              cure: `Carry a network of ${r.vrf} there, or say it on racks that do.`,
              subjects,
            } as const,
          ]),
      ...(far.length === 0
        ? []
        : [
            {
              rule: 'next-hop-near',
              severity: 'error',
              message: `The static route to ${r.prefix} goes by ${r.via}, which on ${racksWords(far)} lies in no subnet of ${r.vrf}.`,
              cure: 'Say it on the racks that carry its network, or carry that network there too.',
              subjects,
            } as const,
          ]),
    ];
  });
}
