import { gatewayOf } from '../config/carriage.ts';
import type { Finding } from '../finding.ts';
import type { FabricIntent } from '../intent/intent.ts';
import { hostPart } from '../numbers/ipv4.ts';
import type { Values } from '../pools/drawValues.ts';
import { subnetsOfFamily } from '../pools/subnets.ts';

interface State {
  readonly intent: FabricIntent;
  readonly values: Values;
}

/**
 * Says where servers would lose their gateway before they can have another: all the subnets that a network had of a family go
 * in one change. Both have to be there for a while, so that servers can move from one to the other.
 */
export function gatewaysGo(after: State, before: State): Finding[] {
  const was = new Map(before.intent.networks.map((n) => [n.name, n]));
  return after.intent.networks.flatMap((network) => {
    const old = was.get(network.name);
    if (!old || old === network) return [];
    const uses = (p: FabricIntent['ports'][number]): boolean =>
      p.untagged === network.name || p.tagged.includes(network.name);
    const servers = after.intent.ports.filter(uses).length;
    const stayed = before.intent.ports.some(uses);
    if (servers === 0 || !stayed) return [];
    return ([4, 6] as const).flatMap((family): Finding[] => {
      const [then, now] = [subnetsOfFamily(old, before.values, family), subnetsOfFamily(network, after.values, family)];
      const gateways = new Set(now.map((s) => hostPart(gatewayOf(s))));
      if (then.length === 0 || then.some((s) => gateways.has(hostPart(gatewayOf(s))))) return [];
      const goes = then.map((s) => hostPart(gatewayOf(s))).join(' and ');
      const comes = now[0];
      return [
        {
          rule: 'gateway-stays',
          severity: 'warning',
          message: `Gateway ${goes} of ${network.name} goes${comes === undefined ? '' : ` as ${hostPart(gatewayOf(comes))} comes`}: ${servers === 1 ? '1 server that has it reaches' : `${servers} servers that have it reach`} nothing beyond ${network.name} until told of another.`,
          cure:
            comes === undefined
              ? `Keep ${then.join(' and ')} until no server has an address in it.`
              : `Keep ${then[0]} as subnet with ${comes} as a further subnet, and roll that out; once servers have moved, take ${then[0]} away.`,
          subjects: [`network:${network.name}`],
        },
      ];
    });
  });
}
