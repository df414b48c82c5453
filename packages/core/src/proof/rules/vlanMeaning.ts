import { vxlanKey } from '../../config/overlay.ts';
import { found, type DesignRule, type RuleSpot } from '../rule.ts';

export const vlanMeaning: DesignRule = {
  id: 'vlan-meaning',
  title: 'A VLAN means the same VNI everywhere',
  severity: 'error',
  source: 'one fabric, one meaning of a VLAN',
  judge: ({ switches }) => {
    const vniOf = new Map<number, { vni: number; host: string }>();
    const vlanOf = new Map<number, { vlan: number; host: string }>();
    const out = [];
    for (const { host, config } of switches)
      for (const v of config.vxlans) {
        if (v.vlan === undefined) continue;
        const spot: RuleSpot = { host, configPlace: ['vxlans', vxlanKey(v), 'vlan'], subjects: [`vlan:${v.vlan}`] };
        const byVlan = vniOf.get(v.vlan);
        const byVni = vlanOf.get(v.vni);
        if (byVlan && byVlan.vni !== v.vni)
          out.push(
            found(
              vlanMeaning,
              spot,
              `VLAN ${v.vlan} is VNI ${v.vni} on ${host} and VNI ${byVlan.vni} on ${byVlan.host}.`,
              'Use one VNI for the VLAN.',
            ),
          );
        else if (byVni && byVni.vlan !== v.vlan)
          out.push(
            found(
              vlanMeaning,
              spot,
              `VNI ${v.vni} is on VLAN ${v.vlan} of ${host} and on VLAN ${byVni.vlan} of ${byVni.host}.`,
              'Use one VLAN for the VNI.',
            ),
          );
        if (!byVlan) vniOf.set(v.vlan, { vni: v.vni, host });
        if (!byVni) vlanOf.set(v.vni, { vlan: v.vlan, host });
      }
    return out;
  },
};
