import { joinedOver, vlanAt } from '../../network/trunks.ts';
import { found, type DesignRule } from '../rule.ts';

export const vlanJoined: DesignRule = {
  id: 'vlan-joined',
  title: 'A VLAN without a VNI is one network over its trunks',
  severity: 'error',
  scope: 'network',
  source: 'IEEE 802.1Q: a frame goes where its VLAN is a member',
  reads: ['bridge', 'lags', 'outsideL3Vni', 'ports', 'trunks', 'vrfs', 'vxlans'],
  judge: ({ trunks, views }) => {
    if (trunks.length === 0) return [];
    const isTrunk = new Set(trunks.flatMap(({ a, b }) => [a, b]).map((e) => `${e.host} ${e.place[0]} ${e.place[1]}`));
    const isJoined = new Set(trunks.flatMap(({ a, b }) => [a.host, b.host]));
    /** VLAN → switches with a server in it. */
    const served = new Map<number, Set<string>>();
    for (const [host, { config, vniOfVlan }] of views) {
      if (!isJoined.has(host)) continue;
      const carriers = [
        ...config.ports.map((p) => ({ bridging: p.bridging, key: `${host} ports ${p.name}` })),
        ...config.lags.map((l) => ({ bridging: l.bridging, key: `${host} lags ${l.called ?? l.number}` })),
      ];
      for (const { bridging, key } of carriers)
        if (bridging && !isTrunk.has(key))
          for (const vlan of [bridging.untagged ?? [], bridging.tagged].flat())
            if (!vniOfVlan.has(vlan)) served.set(vlan, (served.get(vlan) ?? new Set()).add(host));
    }
    return [...served].flatMap(([vlan, hosts]) => {
      const [first, ...others] = hosts;
      const reached = joinedOver(trunks, views, first!, vlan);
      const lost = others.filter((host) => !reached.has(vlanAt(host, vlan)));
      return lost.length === 0
        ? []
        : [
            found(
              vlanJoined,
              { host: lost[0]!, configPlace: ['bridge', 'vlans'], subjects: [`vlan:${vlan}`] },
              `VLAN ${vlan} of ${lost[0]}${lost.length > 1 ? ` and ${lost.length - 1} more` : ''} is cut off from VLAN ${vlan} of ${first}.`,
              'Carry the VLAN on every trunk and bridge between them.',
            ),
          ];
    });
  },
};
