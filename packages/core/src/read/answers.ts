import { lagKey } from '../config/interfaces.ts';
import type { Finding } from '../finding.ts';
import { mayAsk, type Reach } from '../network/hostReach.ts';
import { hostReach } from '../network/multihoming.ts';
import { SPOKEN_BY_NONE, type Session } from '../network/sessions.ts';
import type { Family } from '../network/routes.ts';
import { adjacencyDoubt, sessionDoubt } from '../network/modelDoubts.ts';
import { importsDoubt, pathsDoubt, vtepsDoubt } from '../network/uncertain.ts';
import { loopbackPaths } from '../network/tenants.ts';
import type { Adjacency } from '../network/ospf.ts';
import { ospfIn } from '../network/ospfIn.ts';
import { forwardsFloods, segmentsIn } from '../network/segments.ts';
import { vtepsHeard, type NetworkModel } from '../network/networkModel.ts';
import { l3ImportsOf } from '../network/targets.ts';

/** The network model's answers as plain JSON; see docs/headless.md for the shape. */
export interface NetworkAnswers {
  readonly switches: readonly string[];
  readonly sessions: readonly {
    readonly host: string;
    /** The VRF it stands in; absent = the default one. */
    readonly vrf?: string;
    readonly peer: string;
    readonly port: string | null;
    readonly farHost: string | null;
    readonly localAs: number;
    readonly remoteAs: number | null;
    /** Of IPv6 only where an end asks for it. */
    readonly families: Readonly<Record<'ipv4' | 'evpn', FamilyState>> & { readonly ipv6?: FamilyState };
  }[];
  /** Neighbours by OSPF: every interface that speaks it and has a cable. Absent = no switch runs OSPF. */
  readonly adjacencies?: readonly {
    readonly host: string;
    readonly port: string;
    readonly farHost: string | null;
    readonly area: string;
    /** Absent = of IPv4. */
    readonly family?: 6;
    readonly state: 'up' | 'down' | 'uncertain';
    readonly reason: string | null;
  }[];
  /** Routes in the underlay: who reaches which loopback, over how many equal paths. */
  readonly routes: readonly {
    readonly host: string;
    readonly loopback: string;
    readonly owner: string;
    readonly paths: number;
    /** Why the number may be another; null = it is certain. */
    readonly unsure: string | null;
  }[];
  readonly l2Vnis: readonly {
    readonly vni: number;
    readonly host: string;
    readonly vlan: number | null;
    readonly vtep: string | null;
    readonly hears: readonly string[];
    readonly unsure: string | null;
  }[];
  readonly l3Vnis: readonly {
    readonly vni: number;
    readonly vrf: string;
    readonly host: string;
    readonly importsFrom: readonly string[];
    readonly unsure: string | null;
  }[];
  /** Ends of Ethernet segments: who of them forwards what is flooded. Absent = there are none. */
  readonly segments?: readonly {
    readonly esi: string;
    readonly host: string;
    readonly lag: string;
    readonly vtep: string | null;
    readonly preference: number;
    readonly state: 'up' | 'down';
    readonly reason: string | null;
    readonly forwardsFloods: boolean;
  }[];
  readonly reach: readonly Reach[];
  readonly findings: readonly Finding[];
}

function adjacencyOf(network: NetworkModel, a: Adjacency, ofIpv6 = false) {
  const doubt = adjacencyDoubt(network, a, ofIpv6);
  const state = doubt !== null ? ('uncertain' as const) : a.up ? ('up' as const) : ('down' as const);
  return { host: a.host, port: a.port, farHost: a.farHost, area: a.area, state, reason: doubt ?? a.reason };
}

/** Does an end of a session that is up ask for IPv6? */
const speaksIpv6 = ({ up, ipv6Reason }: Session): boolean => up && ipv6Reason !== SPOKEN_BY_NONE;

/** What becomes of a family of a session, and why it is not up. */
interface FamilyState {
  readonly state: 'up' | 'down' | 'uncertain';
  readonly reason: string | null;
}
/** Everything the model knows, in a fixed order. `reach` is every ordered pair of hosts. */
export function answersOf(network: NetworkModel, findings: readonly Finding[]): NetworkAnswers {
  const hosts = network.switches.map((s) => s.host);
  const family = (s: Session, which: Family, doubt: string | null) =>
    doubt !== null
      ? ({ state: 'uncertain', reason: doubt } as const)
      : ({
          state: s.up && s[which] ? 'up' : 'down',
          reason: s.reason ?? s[`${which}Reason`],
        } as const);
  const segments = [...segmentsIn(network).values()].flat().map((end) => ({
    esi: end.esi,
    host: end.host,
    lag: lagKey(end.lag),
    vtep: end.vtep ?? null,
    preference: end.preference,
    state: end.down === null ? ('up' as const) : ('down' as const),
    reason: end.down?.words ?? null,
    forwardsFloods: forwardsFloods(network, end),
  }));
  const near = ospfIn(network).flatMap(({ family: of, ospf }) =>
    ospf.adjacencies.map((a) =>
      of === 6 ? { ...adjacencyOf(network, a, true), family: 6 as const } : adjacencyOf(network, a),
    ),
  );
  return {
    switches: hosts,
    sessions: network.sessions
      .map((s) => ({ s, doubt: sessionDoubt(network, s) }))
      .map(({ s, doubt }) => ({
        host: s.host,
        ...(s.vrf === undefined ? {} : { vrf: s.vrf }),
        peer: s.peer,
        port: s.port,
        farHost: s.farHost,
        localAs: s.localAs,
        remoteAs: s.remoteAsHad,
        families: {
          ipv4: family(s, 'ipv4', doubt),
          ...(speaksIpv6(s) ? { ipv6: family(s, 'ipv6', doubt) } : {}),
          evpn: family(s, 'evpn', doubt),
        },
      })),
    ...(near.length > 0 || network.ospf ? { adjacencies: near } : {}),
    routes: hosts.flatMap((host) =>
      hosts.flatMap((owner) =>
        owner === host
          ? []
          : network.views.get(owner)!.config.loopbacks.map((loopback) => ({
              host,
              loopback,
              owner,
              paths: loopbackPaths(network, host, owner, loopback.split('/')[0]!),
              unsure: pathsDoubt(network, host, owner, loopback.split('/')[0]!),
            })),
      ),
    ),
    l2Vnis: [...network.carriers]
      .sort(([a], [b]) => a - b)
      .flatMap(([vni, carriers]) =>
        carriers.map((host) => {
          const { vxlan } = network.views.get(host)!.l2Vnis.get(vni)!;
          return {
            vni,
            host,
            vlan: vxlan.vlan ?? null,
            vtep: vxlan.localAddress ?? null,
            hears: vtepsHeard(network, host, vni),
            unsure: vtepsDoubt(network, host, vni),
          };
        }),
      ),
    l3Vnis: [...network.l3Carriers]
      .sort(([a], [b]) => a - b)
      .flatMap(([vni, carriers]) =>
        carriers.map(({ host, vrf }) => ({
          vni,
          vrf,
          host,
          importsFrom: l3ImportsOf(network, host, vrf),
          unsure: importsDoubt(network, host, vrf),
        })),
      ),
    ...(segments.length > 0 ? { segments } : {}),
    reach: network.hosts.flatMap((a) => network.hosts.filter((b) => mayAsk(a, b)).map((b) => hostReach(network, a, b))),
    findings,
  };
}
