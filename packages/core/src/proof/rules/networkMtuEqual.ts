import { sviKey, sviWords } from '../../config/interfaces.ts';
import { vxlanKey, vxlanWords } from '../../config/overlay.ts';
import { found, type DesignRule } from '../rule.ts';
import { Usual } from '../usual.ts';

export const networkMtuEqual: DesignRule = {
  id: 'network-mtu-equal',
  title: 'A network has one MTU everywhere',
  severity: 'warning',
  scope: 'network',
  source: 'port, gateway and VNI of one network must agree',
  reads: ['svis', 'vrfs', 'vxlans'],
  judge: ({ switches }) => {
    const mtus = new Usual<number, number | undefined>();
    // An L3 VNI carries whatever the networks of its VRF on that switch need, so it may differ.
    const l3 = new Set(switches.flatMap((s) => s.config.vrfs.map((r) => r.l3Vni)));
    for (const { host, config } of switches)
      for (const v of config.vxlans) if (!l3.has(v.vni)) mtus.add(v.vni, v.mtu, host);
    const out = [];
    for (const { host, config } of switches)
      for (const v of config.vxlans) {
        const svi = config.svis.find((s) => s.vlan === v.vlan);
        if (svi && svi.mtu !== undefined && v.mtu !== undefined && svi.mtu !== v.mtu)
          out.push(
            found(
              networkMtuEqual,
              { host, configPlace: ['svis', sviKey(svi), 'mtu'], subjects: [`vlan:${svi.vlan}`] },
              `${host} ${sviWords(svi)} has MTU ${svi.mtu}, its ${vxlanWords(v)} has ${v.mtu}.`,
              'Give both the same.',
            ),
          );
        const usual = mtus.against(v.vni, v.mtu);
        if (usual)
          out.push(
            found(
              networkMtuEqual,
              {
                host,
                configPlace: ['vxlans', vxlanKey(v), 'mtu'],
                ...(v.vlan === undefined ? {} : { subjects: [`vlan:${v.vlan}`] }),
              },
              `VNI ${v.vni} has MTU ${v.mtu ?? 'default'} on ${host} and ${usual.value ?? 'default'} on ${usual.host}.`,
              'Give it one MTU.',
            ),
          );
      }
    return out;
  },
};
