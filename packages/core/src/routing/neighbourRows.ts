import { adjacencyDoubt, sessionDoubt } from '../network/modelDoubts.ts';
import type { NetworkModel } from '../network/networkModel.ts';
import type { Adjacency } from '../network/ospfAreas.ts';
import { ospfIn, type OspfName } from '../network/ospfIn.ts';
import { SPOKEN_BY_NONE, type Session } from '../network/sessions.ts';
import type { Asn } from '../numbers/asn.ts';
import { naturally } from '../numbers/order.ts';

/** One end of two neighbours. */
export interface NeighbourEnd {
  readonly host: string;
  /** Interface or address by which it is told of the other. */
  readonly peer: string;
  /** Null = over whatever leads to the other. */
  readonly port: string | null;
  readonly as: Asn | null;
}
/** Two that speak a routing protocol with one another, or are meant to. */
export interface NeighbourRow {
  readonly kind: 'BGP' | OspfName;
  /** VRF of the end that is in one; null = outside of all. */
  readonly vrf: string | null;
  readonly a: NeighbourEnd;
  /** Null = nobody is found there. */
  readonly b: NeighbourEnd | null;
  /** Families that go over it, or the area. */
  readonly carries: readonly string[];
  readonly stand: 'up' | 'down' | 'uncertain';
  /** Why it is down or uncertain, or what of it is. */
  readonly why: string | null;
}

const FAMILIES = [
  ['IPv4', 'ipv4', 'ipv4Reason'],
  ['IPv6', 'ipv6', 'ipv6Reason'],
  ['EVPN', 'evpn', 'evpnReason'],
] as const;

const endOf = ({ host, peer, port, localAs }: Session): NeighbourEnd => ({ host, peer, port, as: localAs });
const sessionKey = (host: string, vrf: string | undefined, peer: string): string => `${host} ${vrf ?? ''} ${peer}`;

/** Is a family down that somebody wants? */
const isMissed = (why: string | null): boolean => why !== null && why !== SPOKEN_BY_NONE;

/** The ends in the order of their names, as no end is the first. */
const inOrder = <E extends { readonly host: string }>(one: E, other: E | undefined): [E, E | undefined] =>
  other && naturally(one.host, other.host) > 0 ? [other, one] : [one, other];

function sessionRow(model: NetworkModel, s: Session, far: Session | undefined): NeighbourRow {
  const both = far ? [s, far] : [s];
  const down = both.find((x) => !x.up);
  const doubt = both.map((x) => sessionDoubt(model, x)).find((d) => d !== null) ?? null;
  // A family that one end alone has is not one they speak.
  const family = down
    ? undefined
    : both.flatMap((x) => FAMILIES.flatMap(([name, , why]) => (isMissed(x[why]) ? `${name}: ${x[why]}` : [])))[0];
  return {
    kind: 'BGP',
    vrf: s.vrf ?? far?.vrf ?? null,
    a: endOf(s),
    b: far
      ? endOf(far)
      : s.farHost === null
        ? null
        : { host: s.farHost, peer: s.farPeer ?? '', port: null, as: s.remoteAsHad },
    carries: FAMILIES.filter(([, has]) => both.every((x) => x[has])).map(([name]) => name),
    stand: doubt !== null ? 'uncertain' : down ? 'down' : 'up',
    why: doubt ?? down?.reason ?? family ?? null,
  };
}

/** Sessions of BGP, both ends in one row. */
function sessionRows(model: NetworkModel): NeighbourRow[] {
  const ends = new Map(model.sessions.map((s) => [sessionKey(s.host, s.vrf, s.peer), s]));
  const done = new Set<Session>();
  return model.sessions.flatMap((s): NeighbourRow[] => {
    if (done.has(s)) return [];
    const far =
      s.farHost === null || s.farPeer === null ? undefined : ends.get(sessionKey(s.farHost, s.farVrf, s.farPeer));
    done.add(s);
    if (far) done.add(far);
    return [sessionRow(model, ...inOrder(s, far))];
  });
}

/** Neighbours of OSPF, both ends in one row. */
function ospfRows(model: NetworkModel, kind: OspfName, adjacencies: readonly Adjacency[]): NeighbourRow[] {
  const ends = new Map(adjacencies.map((a) => [`${a.host} ${a.port}`, a]));
  const done = new Set<Adjacency>();
  const endOf = (a: Adjacency): NeighbourEnd => ({ host: a.host, peer: a.port, port: a.port, as: null });
  return [...ends.values()].flatMap((a): NeighbourRow[] => {
    if (done.has(a)) return [];
    const far = a.farHost === null ? undefined : ends.get(`${a.farHost} ${a.farPort}`);
    done.add(a);
    if (far) done.add(far);
    const [one, other] = inOrder(a, far);
    const both = other ? [one, other] : [one];
    const doubt = both.map((x) => adjacencyDoubt(model, x, kind === 'OSPFv3')).find((d) => d !== null) ?? null;
    const down = both.find((x) => !x.up);
    return [
      {
        kind,
        vrf: null,
        a: endOf(one),
        b: other
          ? endOf(other)
          : a.farHost === null
            ? null
            : { host: a.farHost, peer: a.farPort ?? '', port: a.farPort, as: null },
        carries: [`area ${a.area}`],
        stand: doubt !== null ? 'uncertain' : down ? 'down' : 'up',
        why: doubt ?? both.map((x) => x.reason).find((r) => r !== null) ?? null,
      },
    ];
  });
}

const STANDS = ['down', 'uncertain', 'up'] as const;

/** Everybody who speaks BGP or OSPF with whom, once each; what is down comes first, then what is uncertain. */
export const neighbourRows = (model: NetworkModel): readonly NeighbourRow[] =>
  [...sessionRows(model), ...ospfIn(model).flatMap(({ by, ospf }) => ospfRows(model, by, ospf.adjacencies))].sort(
    (x, y) =>
      STANDS.indexOf(x.stand) - STANDS.indexOf(y.stand) ||
      naturally(x.a.host, y.a.host) ||
      naturally(x.a.peer, y.a.peer),
  );
