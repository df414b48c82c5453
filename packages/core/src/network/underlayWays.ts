import type { Place } from '../config/switchConfig.ts';
import { parseIpv4, type Ipv4 } from '../numbers/ipv4.ts';
import { formatAny, type AnyPrefix } from '../numbers/prefix.ts';
import { onceFor } from '../onceFor.ts';
import type { Settled } from './bgpRoutes.ts';
import { ospfComesFirst, settlePrefix } from './families.ts';
import type { NetworkModel } from './networkModel.ts';
import type { OspfRoute } from './ospf.ts';
import { routedFamily, type RoutedFamily } from './routedFamily.ts';
import { statementPlace } from './sessions.ts';

/** The underlay as route selection sees it, once for a model. */
export const underlayOf = onceFor((model: NetworkModel): RoutedFamily => routedFamily(model.sessions, model, 'ipv4'));

/** What was settled last of a model: questions come back to one prefix, and all at once would not fit. */
const lastSettled = onceFor((_: NetworkModel): { of: string; settled: Settled | null } => ({ of: '', settled: null }));
/** What all routers settle to for a prefix of the underlay, whoever announces it. */
export function settledFor(model: NetworkModel, prefix: AnyPrefix): Settled {
  const last = lastSettled(model);
  const of = formatAny(prefix);
  if (last.of !== of) {
    last.settled = settlePrefix(model, underlayOf(model), prefix);
    last.of = of;
  }
  return last.settled!;
}

/** The neighbours by OSPF that a switch sends on to for a prefix, where BGP knows nothing better; null = none. */
export function ospfWays(model: NetworkModel, host: string, prefix: AnyPrefix): OspfRoute | null {
  const route = model.ospf?.routesTo(formatAny(prefix))[model.index.get(host)!];
  return ospfComesFirst(settledFor(model, prefix).held[model.index.get(host)!]!, route) ? route : null;
}

/** A switch that sends packets on to the next. */
export interface UnderlayHop {
  readonly host: string;
  readonly to: string;
  /** Port it sends them out of; null = that is not next door. */
  readonly port: string | null;
  readonly words: string;
  readonly configPlace: Place;
}

/** How packets to an address come from a switch to the one that has it, step by step; those of one step share the load. */
export function underlaySteps(model: NetworkModel, from: string, to: string, address: Ipv4): UnderlayHop[][] {
  const number = parseIpv4(address);
  if (number === null) return [];
  const { edges, sessions } = underlayOf(model);
  const prefix: AnyPrefix = { address: number, length: 32 };
  const { held } = settledFor(model, prefix);
  const end = model.index.get(to)!;
  const out: UnderlayHop[][] = [];
  let here = new Set([model.index.get(from)!]);
  // No way is longer than there are switches.
  for (let step = 0; step < model.switches.length && here.size > 0; step++) {
    const next = new Set<number>();
    const hops: UnderlayHop[] = [];
    for (const r of here) {
      const { host } = model.switches[r]!;
      const led = model.ospf ? ospfWays(model, host, prefix) : null;
      for (const a of led?.over ?? []) {
        next.add(model.index.get(a.farHost!)!);
        const words = `${host} has it over ${a.port}, by OSPF`;
        hops.push({ host, to: a.farHost!, port: a.port, words, configPlace: a.place });
      }
      for (const h of led ? [] : held[r]!) {
        if (h.over < 0) continue;
        next.add(edges[h.over]!.from);
        const told = sessions[h.over]!;
        const peer = told.farPeer!;
        const port = told.port === null ? null : (model.plan.end(told.host, told.port)?.port ?? null);
        const words = `${host} has it over ${peer}`;
        hops.push({ host, to: told.host, port, words, configPlace: statementPlace({ peer }) });
      }
    }
    if (hops.length > 0) out.push(hops);
    next.delete(end);
    here = next;
  }
  return out;
}
