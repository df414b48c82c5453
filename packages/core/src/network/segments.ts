import { lagWords, type LagConfig } from '../config/interfaces.ts';
import { esiOf, type Esi } from '../config/pairing.ts';
import { parseIpv4, type Ipv4 } from '../numbers/ipv4.ts';
import { groupBy } from '../numbers/order.ts';
import type { Vni } from '../numbers/vni.ts';
import { onceFor } from '../onceFor.ts';
import { endKey } from './cablePlan.ts';
import { pathsIn } from './families.ts';
import type { HostPort, NetworkModel } from './networkModel.ts';
import type { SwitchView } from './switchView.ts';
import type { Trouble } from './trouble.ts';

/** The preference of an end that says none (FRR 8.4.4). */
const USUAL_PREFERENCE = 32767;

/** One end of an Ethernet segment: a LAG of a switch, by which servers are joined to others too. */
export interface SegmentEnd {
  readonly esi: Esi;
  readonly host: string;
  readonly lag: LagConfig;
  /** By which it is told apart in routes of the segment; undefined = it announces no VNI, and so no segment. */
  readonly vtep: Ipv4 | undefined;
  readonly preference: number;
  /** VNIs of the VLANs that its LAG carries. */
  readonly vnis: readonly Vni[];
  /** Why nothing goes over it; null = it is up. */
  readonly down: Trouble | null;
}

/** Is there no light on a port that leads up, by what the texts of both its ends and the cables say? */
function isDark(model: NetworkModel, host: string, port: string): boolean {
  const far = model.plan.end(host, port);
  const isOpen = (view: SwitchView | undefined, name: string): boolean => {
    const found = view?.portByName.get(name);
    return found !== undefined && found.shut !== true;
  };
  if (!far || !isOpen(model.views.get(host), port)) return true;
  const there = model.views.get(far.host);
  return there !== undefined && !isOpen(there, far.port);
}
function whyDown(model: NetworkModel, host: string, view: SwitchView, lag: LagConfig): Trouble | null {
  const open = lag.members.filter((m) => view.portByName.get(m)?.shut !== true && view.portByName.has(m));
  const first = lag.members[0];
  if (open.length === 0)
    return {
      words: `every port of ${lagWords(lag)} of ${host} is shut`,
      host,
      ...(first === undefined ? {} : { configPlace: ['ports', first, 'shut'] }),
    };
  const up = view.config.ports.filter((p) => p.tracked);
  if (up.length === 0 || !up.every((p) => isDark(model, host, p.name))) return null;
  return {
    words: `${host} has lost all links up and takes ${lagWords(lag)} down`,
    host,
    configPlace: ['ports', up[0]!.name, 'tracked'],
  };
}

/** Ends of every segment that has some; of two LAGs of one switch that say the same one is refused (FRR 8.4.4). */
export const segmentsIn = onceFor((model: NetworkModel): ReadonlyMap<Esi, readonly SegmentEnd[]> => {
  const ends = model.switches.flatMap(({ host, config }): SegmentEnd[] => {
    const view = model.views.get(host)!;
    const own = new Set<Esi>();
    return config.lags.flatMap((lag) => {
      if (!lag.segment || own.has(esiOf(lag.segment))) return [];
      const esi = esiOf(lag.segment);
      own.add(esi);
      const { untagged, tagged } = lag.bridging ?? { tagged: [] };
      const carried = view.bridge.hasLag(lag) ? [untagged, ...tagged] : [];
      return {
        esi,
        host,
        lag,
        vtep: view.l2Vnis.values().next().value?.vxlan.localAddress,
        preference: lag.segment.preference ?? USUAL_PREFERENCE,
        vnis: carried.flatMap((vlan) => {
          const vni = vlan === undefined ? undefined : view.vniOfVlan.get(vlan);
          return vni !== undefined && view.l2Vnis.has(vni) ? [vni] : [];
        }),
        down: whyDown(model, host, view, lag),
      };
    });
  });
  return groupBy(ends, (e) => e.esi);
});

/** Does an end tell others of its segment by EVPN? */
export const tellsSegment = ({ vtep, down }: SegmentEnd): boolean => down === null && vtep !== undefined;

/** Other ends of a segment that one knows of by their routes (type 4). */
export function endsHeard(model: NetworkModel, end: SegmentEnd): readonly SegmentEnd[] {
  const at = model.index.get(end.host)!;
  return (segmentsIn(model).get(end.esi) ?? []).filter(
    (e) => e.host !== end.host && tellsSegment(e) && pathsIn(model.evpn, model.index.get(e.host)!, at) > 0,
  );
}

/**
 * Does an end forward to its servers what is flooded? Of those it knows of the one with the highest preference does, of equal
 * ones that with the lowest VTEP (RFC 9785, as FRR has it).
 */
export function forwardsFloods(model: NetworkModel, end: SegmentEnd): boolean {
  if (end.down !== null) return false;
  const number = ({ vtep }: SegmentEnd): number => (vtep === undefined ? Infinity : (parseIpv4(vtep) ?? Infinity));
  return endsHeard(model, end).every(
    (e) => e.preference < end.preference || (e.preference === end.preference && number(end) < number(e)),
  );
}

const endsByPort = onceFor(
  (model: NetworkModel): ReadonlyMap<string, SegmentEnd> =>
    new Map(
      [...segmentsIn(model).values()].flatMap((ends) =>
        ends.flatMap((e) => e.lag.members.map((m) => [endKey(e.host, m), e] as const)),
      ),
    ),
);
/** The segment end that a server is joined to; undefined = it has one switch alone. */
export const segmentOfHost = (model: NetworkModel, h: Pick<HostPort, 'switch' | 'port'>): SegmentEnd | undefined =>
  endsByPort(model).get(endKey(h.switch, h.port));

/** Where a server is joined: the ends of its segment that are up, the one it is listed at first; else its port. */
export function halvesOf(model: NetworkModel, h: HostPort): readonly HostPort[] {
  const own = segmentOfHost(model, h);
  if (!own) return [h];
  const up = segmentsIn(model)
    .get(own.esi)!
    .filter((e) => e.down === null);
  if (up.length === 0) return [h];
  const open = ({ host, lag }: SegmentEnd): string =>
    lag.members.find((m) => model.views.get(host)!.portByName.get(m)?.shut !== true) ?? lag.members[0]!;
  const halves = up.map((e): HostPort => (e === own ? h : { ...h, switch: e.host, port: open(e) }));
  return [...halves].sort((a, b) => Number(b === h) - Number(a === h));
}
