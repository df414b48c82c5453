import {
  lagName,
  ospfIn,
  sviName,
  vlanOfPort,
  vtepsHeard,
  vxlanName,
  type Octets,
  type OspfName,
  type PortConfig,
  type SwitchConfig,
} from '@anthemion/core';
import { bridgeEntries, neighbourEntries } from './hosts.ts';
import type { FleetState } from './state.ts';

/** A port towards a server: the bench has no servers, so what is open towards one has signal. */
const serves = (config: SwitchConfig, port: PortConfig): boolean =>
  port.bridging !== undefined || config.lags.some((l) => l.members.includes(port.name));

/** Counters of an interface, as iproute2 says them. */
const statistics = (octets: Octets) => ({ rx: { bytes: octets.in }, tx: { bytes: octets.out } });

const routerIn = ({ bgp }: SwitchConfig, vrf: string | undefined) =>
  vrf === undefined ? bgp : bgp?.vrfs.find((v) => v.vrf === vrf);

const adjacenciesIn = (state: FleetState, name: OspfName) =>
  ospfIn(state.network()).find(({ by }) => by === name)?.ospf.adjacencies ?? [];

/** Output of the read-only commands a Linux switch answers, computed from the network model. Null = no such command. */
export const show = (command: string, serial: string, state: FleetState, now: number): string | null =>
  state.atOneMoment(() => answer(command, serial, state, now));

function answer(command: string, serial: string, state: FleetState, now: number): string | null {
  const config = state.parsed(serial).config;
  switch (command) {
    case "vtysh -c 'show bgp vrf all summary json'": {
      const network = state.network();
      const family = (vrf: string | undefined, which: 'ipv4' | 'ipv6' | 'evpn') => {
        const peers: Record<string, object> = {};
        for (const s of network.sessions) {
          if (s.host !== serial || s.vrf !== vrf) continue;
          const view = network.views.get(serial)!.router(vrf)!.peer(s.peer)!;
          if (!view[which]) continue;
          const up = s.up && s[which] && s.farHost !== null && state.settled(serial, s.farHost, now);
          // Of those who may call only those stand there who do.
          if (view.calls && !up) continue;
          peers[s.peer] = {
            hostname: s.farHost === null ? '' : state.parsed(s.farHost).config.hostname,
            remoteAs: s.remoteAsHad ?? 0,
            localAs: s.localAs,
            state: up ? 'Established' : s.up ? 'Connect' : s.farHost === null ? 'Idle' : 'Active',
            idType: s.port === s.peer ? 'interface' : s.peer.includes(':') ? 'ipv6' : 'ipv4',
          };
        }
        return {
          routerId: config.bgp?.routerId ?? '0.0.0.0',
          as: config.bgp?.asn ?? 0,
          peerCount: Object.keys(peers).length,
          peers,
        };
      };
      const routers = config.bgp ? [undefined, ...config.bgp.vrfs.map((v) => v.vrf)] : [];
      return JSON.stringify(
        Object.fromEntries(
          routers.map((vrf) => [
            vrf ?? 'default',
            {
              ipv4Unicast: family(vrf, 'ipv4'),
              ...(routerIn(config, vrf)?.ipv6 ? { ipv6Unicast: family(vrf, 'ipv6') } : {}),
              ...(vrf === undefined ? { l2VpnEvpn: family(vrf, 'evpn') } : {}),
            },
          ]),
        ),
      );
    }
    case "vtysh -c 'show ip ospf neighbor json'": {
      const near = adjacenciesIn(state, 'OSPF');
      const own = near.filter((a) => a.host === serial && a.farHost !== null && a.up);
      const neighbors = Object.fromEntries(
        own.map((a) => [
          state.parsed(a.farHost!).config.ospf?.routerId ?? '0.0.0.0',
          own
            .filter((o) => o.farHost === a.farHost)
            .map((o) => ({
              nbrState: state.settled(serial, o.farHost!, now) ? 'Full/-' : 'ExStart/-',
              ifaceName: `${o.port}:${config.ports.find((p) => p.name === o.port)?.addresses[0]?.split('/')[0] ?? ''}`,
            })),
        ]),
      );
      return JSON.stringify(config.ospf ? { neighbors } : {});
    }
    case "vtysh -c 'show ipv6 ospf6 neighbor json'": {
      const near = adjacenciesIn(state, 'OSPFv3');
      const neighbors = near.flatMap((a) =>
        a.host !== serial || a.farHost === null || !a.up
          ? []
          : [
              {
                neighborId: state.parsed(a.farHost).config.ospf6?.routerId ?? '0.0.0.0',
                state: state.settled(serial, a.farHost, now) ? 'Full' : 'ExStart',
                interfaceName: a.port,
              },
            ],
      );
      return config.ospf6 ? JSON.stringify({ neighbors }) : '';
    }
    case "vtysh -c 'show evpn vni json'": {
      const network = state.network();
      const out: Record<string, object> = {};
      for (const [vni, carried] of network.views.get(serial)!.l2Vnis) {
        const heard = vtepsHeard(network, serial, vni);
        out[vni] = {
          vni,
          type: 'L2',
          vxlanIf: vxlanName(carried.vxlan),
          numRemoteVteps: heard.length,
          remoteVteps: heard,
        };
      }
      for (const vrf of network.views.get(serial)!.vrfs.values())
        if (vrf.l3Vni !== undefined)
          out[vrf.l3Vni] = {
            vni: vrf.l3Vni,
            type: 'L3',
            tenantVrf: vrf.name,
            state: vrf.broken === null ? 'Up' : 'Down',
          };
      return JSON.stringify(out);
    }
    case 'ip -j link show':
    case 'ip -j -s link show': {
      const plugged = new Set(
        state
          .lit(serial)
          .flatMap((c) => [c.a, c.b])
          .filter((e) => e.serial === serial)
          .map((e) => e.port),
      );
      const lagOf = new Map(config.ports.map((p) => [p.name, p.members]));
      /** Of a LAG one port is enough, a VLAN is up as its port; what is no port of the front is there by itself. */
      const isUp = (ifname: string): boolean => {
        const whole = vlanOfPort(ifname, (port) => lagOf.has(port))?.port ?? ifname;
        return lagOf.get(whole)?.some((m) => plugged.has(m)) ?? (!/^p\d/.test(whole) || plugged.has(whole));
      };
      const names = [
        'lo',
        ...config.ports.map((p) => p.name),
        ...config.lags.map(lagName),
        ...config.vxlans.map(vxlanName),
        ...config.svis.map(sviName),
      ];
      const counted = command.includes(' -s ') ? state.counters.of(state.network(), now) : null;
      return JSON.stringify(
        names.map((ifname) => ({
          ifname,
          operstate:
            ifname === 'lo' ||
            isUp(ifname) ||
            config.ports.some((p) => p.name === ifname && p.shut !== true && serves(config, p))
              ? 'UP'
              : 'DOWN',
          mtu: config.ports.find((p) => p.name === ifname)?.mtu ?? 1500,
          ...(counted ? { stats64: statistics(counted(serial, ifname)) } : {}),
        })),
      );
    }
    case 'bridge -j fdb show':
      return JSON.stringify(bridgeEntries(config));
    case 'ip -j neigh show':
      return JSON.stringify(neighbourEntries(config));
    case 'lldpcli -f json show neighbors': {
      const seen = state
        .lit(serial)
        .flatMap((c) =>
          c.a.serial === serial
            ? [{ port: c.a.port, far: c.b }]
            : c.b.serial === serial
              ? [{ port: c.b.port, far: c.a }]
              : [],
        );
      return JSON.stringify({
        lldp: {
          interface: seen.map(({ port, far }) => ({
            [port]: {
              via: 'LLDP',
              chassis: {
                [state.parsed(far.serial).config.hostname || far.serial]: { id: { type: 'local', value: far.serial } },
              },
              port: { id: { type: 'ifname', value: far.port } },
            },
          })),
        },
      });
    }
    default:
      return null;
  }
}
