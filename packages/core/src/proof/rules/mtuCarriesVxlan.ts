import { vxlanKey } from '../../config/overlay.ts';
import { VXLAN_OVERHEAD_IPV4 } from '../../numbers/vni.ts';
import { found, type DesignRule } from '../rule.ts';

const DEFAULT_MTU = 1500;

export const mtuCarriesVxlan: DesignRule = {
  id: 'mtu-carries-vxlan',
  title: 'Fabric links carry tenant frames whole',
  severity: 'error',
  source: 'RFC 7348 §4.3: link MTU ≥ tenant MTU + 50',
  reads: ['ports', 'svis', 'vrfs', 'vxlans'],
  judge: ({ switches, plan }) => {
    let least = Infinity;
    let where = '';
    for (const { host, config } of switches)
      for (const p of config.ports)
        if (!p.bridging && plan.has(`${host} ${p.name}`) && (p.mtu ?? DEFAULT_MTU) < least) {
          least = p.mtu ?? DEFAULT_MTU;
          where = `${host} ${p.name}`;
        }
    const worst = new Map<number, { host: string; vni: number; key: string; mtu: number; hosts: number }>();
    for (const { host, config } of switches)
      for (const vxlan of config.vxlans) {
        const { vlan } = vxlan;
        if (vlan === undefined) continue;
        const svi = config.svis.find((s) => s.vlan === vlan);
        const mtu = Math.max(svi?.mtu ?? 0, vxlan.mtu ?? 0);
        if (mtu === 0 || mtu + VXLAN_OVERHEAD_IPV4 <= least) continue;
        const known = worst.get(vlan);
        if (known) known.hosts++;
        else worst.set(vlan, { host, vni: vxlan.vni, key: vxlanKey(vxlan), mtu, hosts: 1 });
      }
    // An L3 VNI follows the networks of its VRF: it is told apart only where no network says the same.
    const l3 = new Set(switches.flatMap((s) => s.config.vrfs.map((v) => v.l3Vni)));
    const plain = new Set([...worst.values()].filter((w) => !l3.has(w.vni)).map((w) => w.mtu));
    return [...worst]
      .filter(([, w]) => !l3.has(w.vni) || !plain.has(w.mtu))
      .map(([vlan, w]) =>
        found(
          mtuCarriesVxlan,
          { host: w.host, configPlace: ['vxlans', w.key, 'mtu'], subjects: [`vlan:${vlan}`] },
          `VLAN ${vlan} has MTU ${w.mtu} on ${w.hosts} ${w.hosts === 1 ? 'switch' : 'switches'}; with 50 bytes of VXLAN it needs ${w.mtu + VXLAN_OVERHEAD_IPV4}, the links have ${least} (${where}).`,
          `Set the network's MTU to ${least - VXLAN_OVERHEAD_IPV4} or less, or raise the link MTU to ${w.mtu + VXLAN_OVERHEAD_IPV4}.`,
        ),
      );
  },
};
