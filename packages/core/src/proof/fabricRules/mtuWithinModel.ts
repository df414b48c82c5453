import type { Finding, FindingSubject } from '../../finding.ts';
import type { Place } from '../../config/switchConfig.ts';
import { endAt } from '../../layout/links.ts';
import { groupBy } from '../../numbers/order.ts';
import { found, type FabricRule } from '../rule.ts';

/** An interface whose MTU is more than its switch forwards. */
interface TooLarge {
  readonly host: string;
  readonly model: string;
  readonly most: number;
  readonly mtu: number;
  readonly configPlace?: Place;
  readonly subjects: readonly FindingSubject[];
  /** What has it, as people say it. */
  readonly what: string;
}

export const mtuWithinModel: FabricRule = {
  id: 'mtu-within-model',
  title: 'No MTU is larger than the switch forwards',
  severity: 'error',
  source: 'largest MTU of the switch model',
  scope: 'layout',
  judge: ({ intent, compiled: { layout, switches } }) => {
    const models = new Map(intent.models.map((m) => [m.name, m.maxMtu]));
    const networks = intent.networks.map((n) => ({ ...n, mtu: n.mtu ?? intent.settings.tenantMtu }));
    // Mostly every model forwards the largest there is: then no switch is looked at.
    const largest = Math.max(intent.settings.linkMtu, ...networks.map((n) => n.mtu));
    if ([...models.values()].every((most) => most >= largest)) return [];
    const outward = groupBy(layout.outward, (o) => o.a.seat);
    const all = switches.flatMap(({ seat, config }): TooLarge[] => {
      const most = models.get(seat.model);
      if (most === undefined) return [];
      const base = { host: seat.host, model: seat.model, most };
      const links = new Set([
        ...(layout.linksOf.get(seat.id) ?? []).map((l) => endAt(l, seat.id).port),
        ...(outward.get(seat.id) ?? []).map((o) => o.a.port),
      ]);
      const ports = config.ports.flatMap(({ name, mtu }): TooLarge[] =>
        mtu === undefined || mtu <= most || !links.has(name)
          ? []
          : [
              {
                ...base,
                mtu,
                configPlace: ['ports', name, 'mtu'],
                subjects: ['setting:linkMtu'],
                what: `port ${name}`,
              },
            ],
      );
      const carried = networks.filter((n) => n.mtu > most && seat.rack !== undefined && n.racks.includes(seat.rack));
      const gateways = carried.map(({ name, vlan, mtu }): TooLarge => {
        // A port of a server has the MTU of its networks, which is said of them.
        const gateway = config.svis.some((s) => s.vlan === vlan);
        return {
          ...base,
          mtu,
          ...(gateway ? { configPlace: ['svis', String(vlan), 'mtu'] } : {}),
          subjects: [`network:${name}`],
          what: `network ${name}`,
        };
      });
      return [...ports, ...gateways];
    });
    return [...groupBy(all, (t) => `${t.model} ${t.mtu} ${t.subjects.join()}`).values()].map((alike): Finding => {
      const [{ host, model, most, mtu, configPlace, subjects, what }] = alike as [TooLarge];
      const more = alike.length === 1 ? '' : ` and ${alike.length - 1} more`;
      return found(
        mtuWithinModel,
        { host, subjects, ...(configPlace ? { configPlace } : {}) },
        `${model} forwards at most ${most} bytes; ${what} on ${host}${more} would have ${mtu}.`,
        `Use at most ${most}, or say at the model what it forwards.`,
      );
    });
  },
};
