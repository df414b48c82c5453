import { onceFor } from '../onceFor.ts';
import type { HeldRoute } from './bestRoute.ts';
import type { Settled } from './bgpRoutes.ts';
import { settleEvpn } from './families.ts';
import type { NetworkModel } from './networkModel.ts';
import { routedFamily, type RoutedFamily } from './routedFamily.ts';
import { numbersOf, OWN_WEIGHT, withAttributes, type Attributes } from './routes.ts';

/** The EVPN family of a model as route selection sees it. */
export const overlayOf = onceFor((model: NetworkModel): RoutedFamily => routedFamily(model.sessions, model, 'evpn'));

/** How EVPN carries routes of tenants from switch to switch, with what is said of them. */
export class EvpnCarriage {
  private readonly model: NetworkModel;
  private readonly settled = new Map<string, Settled>();
  private readonly ases = new Map<string, number>();

  constructor(model: NetworkModel) {
    this.model = model;
  }

  /** What becomes of a route of one switch at another: all that come in as good, each path once. */
  carriedTo(speaker: string, listener: string, attributes: Attributes): readonly HeldRoute[] {
    const { index } = this.model;
    const { path, communities, large, extended, localPreference, med, origin } = attributes;
    const key = [speaker, numbersOf(path).join(' '), communities, large, extended, localPreference, med, origin].join(
      '\n',
    );
    let settled = this.settled.get(key);
    if (!settled) {
      const told = withAttributes(attributes, { weight: OWN_WEIGHT, port: null, tag: 0 });
      settled = settleEvpn(this.model, overlayOf(this.model), index.get(speaker)!, told);
      this.settled.set(key, settled);
    }
    const held = settled.held[index.get(listener)!]!;
    const all = [...held, ...(held[0]?.chances ?? [])];
    return all.filter((h, i) => all.findIndex((o) => o.attributes.path === h.attributes.path) === i);
  }

  /** From how many AS numbers a switch hears EVPN, one at least. */
  asesHeardBy(host: string): number {
    let known = this.ases.get(host);
    if (known === undefined) {
      const heard = this.model.sessions.filter((s) => s.host === host && s.up && s.evpn);
      this.ases.set(host, (known = Math.max(1, new Set(heard.map((s) => s.remoteAsHad)).size)));
    }
    return known;
  }
}
/** The same for all groups of tenants, of both families. */
export const evpnCarriageOf = onceFor((model: NetworkModel) => new EvpnCarriage(model));
