import { vxlanKey } from '../../config/overlay.ts';
import { found, type DesignRule, type RuleSpot } from '../rule.ts';
import { Usual } from '../usual.ts';

export const vlanMeaning: DesignRule = {
  id: 'vlan-meaning',
  title: 'A VLAN means the same VNI everywhere',
  severity: 'error',
  scope: 'network',
  source: 'one fabric, one meaning of a VLAN',
  reads: ['vxlans'],
  judge: ({ switches }) => {
    const vnis = new Usual<number, number>();
    const vlans = new Usual<number, number>();
    for (const { host, config } of switches)
      for (const v of config.vxlans)
        if (v.vlan !== undefined) {
          vnis.add(v.vlan, v.vni, host);
          vlans.add(v.vni, v.vlan, host);
        }
    const out = [];
    for (const { host, config } of switches)
      for (const v of config.vxlans) {
        if (v.vlan === undefined) continue;
        const spot: RuleSpot = { host, configPlace: ['vxlans', vxlanKey(v), 'vlan'], subjects: [`vlan:${v.vlan}`] };
        const vni = vnis.against(v.vlan, v.vni);
        const vlan = vlans.against(v.vni, v.vlan);
        if (vni)
          out.push(
            found(
              vlanMeaning,
              spot,
              `VLAN ${v.vlan} is VNI ${v.vni} on ${host} and VNI ${vni.value} on ${vni.host}.`,
              'Use one VNI for the VLAN.',
            ),
          );
        else if (vlan)
          out.push(
            found(
              vlanMeaning,
              spot,
              `VNI ${v.vni} is on VLAN ${v.vlan} of ${host} and on VLAN ${vlan.value} of ${vlan.host}.`,
              'Use one VLAN for the VNI.',
            ),
          );
      }
    return out;
  },
};
