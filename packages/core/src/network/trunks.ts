import { lagKey, lagWords } from '../config/interfaces.ts';
import type { Bridging } from '../config/bridging.ts';
import { endKey, type Cable } from './cablePlan.ts';
import type { SwitchView } from './switchView.ts';

/** A port or LAG in the bridge of a switch that leads to another switch. */
export interface TrunkEnd {
  readonly host: string;
  /** Port name, or what the LAG is called. */
  readonly name: string;
  readonly bridging: Bridging;
  readonly mtu: number | undefined;
  readonly place: readonly ['ports' | 'lags', string];
}
/** Two bridges joined by a cable, or by the cables of a LAG. */
export interface Trunk {
  readonly a: TrunkEnd;
  readonly b: TrunkEnd;
}

function endOf(view: SwitchView, host: string, port: string): TrunkEnd | null {
  const own = view.portByName.get(port);
  const lag = view.lagOfPort.get(port);
  const shut = own?.shut;
  const carrier = lag ?? own;
  if (!carrier?.bridging) return null;
  const inBridge = lag ? view.bridge.hasLag(lag) : view.bridge.hasPort(port);
  if (shut || !inBridge) return null;
  return {
    host,
    name: lag ? lagWords(lag) : port,
    bridging: carrier.bridging,
    mtu: carrier.mtu,
    place: lag ? ['lags', lagKey(lag)] : ['ports', port],
  };
}

/** Every trunk between switches. */
export function trunksBetween(views: ReadonlyMap<string, SwitchView>, cables: readonly Cable[]): Trunk[] {
  const out = new Map<string, Trunk>();
  for (const { a, b } of cables) {
    const [va, vb] = [views.get(a.host), views.get(b.host)];
    const at = va ? endOf(va, a.host, a.port) : null;
    // Mostly there is none, and the other end need not be looked at.
    const to = at && vb ? endOf(vb, b.host, b.port) : null;
    if (at && to) out.set([endKey(at.host, at.name), endKey(to.host, to.name)].sort().join('\n'), { a: at, b: to });
  }
  return [...out.values()];
}

/** Does a frame of this VLAN leave by a port, and with a tag? */
function goesOut({ bridging }: TrunkEnd, vlan: number): 'tagged' | 'untagged' | null {
  return bridging.untagged === vlan ? 'untagged' : bridging.tagged.includes(vlan) ? 'tagged' : null;
}
/** The VLAN a frame has after it went over a trunk from one end to the other; null = it does not go over. */
export function over(from: TrunkEnd, to: TrunkEnd, vlan: number): number | null {
  const how = goesOut(from, vlan);
  if (how === 'tagged') return to.bridging.tagged.includes(vlan) ? vlan : null;
  return how === 'untagged' ? (to.bridging.untagged ?? null) : null;
}

/** A VLAN of a switch, as one word. */
export const vlanAt = (host: string, vlan: number): string => `${host} ${vlan}`;

/**
 * Everywhere a frame of a VLAN comes to over trunks, as `vlanAt`, the start included. Spanning tree takes loops away and no
 * switch, so it is all that is joined at all.
 */
export function joinedOver(
  trunks: readonly Trunk[],
  views: ReadonlyMap<string, SwitchView>,
  host: string,
  vlan: number,
): Set<string> {
  const reached = new Set([vlanAt(host, vlan)]);
  const open: [string, number][] = [[host, vlan]];
  for (let next = open.pop(); next; next = open.pop()) {
    const [at, on] = next;
    if (!views.get(at)!.bridge.carries(on)) continue;
    for (const { a, b } of trunks)
      for (const [from, to] of [
        [a, b],
        [b, a],
      ] as const) {
        const there = from.host === at ? over(from, to, on) : null;
        if (there === null || !views.get(to.host)!.bridge.carries(there)) continue;
        const word = vlanAt(to.host, there);
        if (!reached.has(word)) open.push([to.host, there]);
        reached.add(word);
      }
  }
  return reached;
}
