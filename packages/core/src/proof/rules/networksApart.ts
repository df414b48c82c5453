import { found, type DesignRule } from '../rule.ts';

export const networksApart: DesignRule = {
  id: 'networks-apart',
  title: 'No network takes the routes of another',
  severity: 'error',
  scope: 'network',
  source: 'RFC 7432 §7.10: what is imported is taken for the own network, MAC addresses and floods alike',
  reads: [],
  judge: ({ views }) => {
    /** Which L2 VNIs are exported under a target, with one switch that does so. */
    const exporters = new Map<string, Map<number, string>>();
    for (const [host, view] of views)
      for (const [vni, { exports }] of view.l2Vnis)
        for (const target of exports) {
          const of = exporters.get(target);
          if (!of) exporters.set(target, new Map([[vni, host]]));
          else if (!of.has(vni)) of.set(vni, host);
        }
    const out = [];
    for (const [host, view] of views)
      for (const [vni, { imports, vxlan }] of view.l2Vnis)
        for (const target of imports)
          for (const [other, where] of exporters.get(target) ?? [])
            if (other !== vni)
              out.push(
                found(
                  networksApart,
                  {
                    host,
                    configPlace: ['bgp', 'evpn', 'vnis', String(vni), 'imports'],
                    ...(vxlan.vlan === undefined ? {} : { subjects: [`vlan:${vxlan.vlan}`] }),
                  },
                  `${host} takes into VNI ${vni} what ${where} exports of VNI ${other}: both have the route target ${target}.`,
                  'Give each network a route target of its own.',
                ),
              );
    return out;
  },
};
