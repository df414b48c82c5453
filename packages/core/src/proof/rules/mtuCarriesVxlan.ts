import { vxlanKey } from '../../config/overlay.ts';
import { DEFAULT_MTU } from '../../network/interfaces.ts';
import { tenantsOf } from '../../network/tenants.ts';
import { VXLAN_OVERHEAD_IPV4 } from '../../numbers/vni.ts';
import type { SwitchConfig } from '../../config/switchConfig.ts';
import { onceFor } from '../../onceFor.ts';
import { found, type DesignRule } from '../rule.ts';

/** The largest frames of every VLAN with a VNI on a switch, and of all of them. */
const framesOf = onceFor(({ vxlans, svis }: SwitchConfig) => {
  const byVlan = new Map(svis.map((s) => [s.vlan, s.mtu ?? 0]));
  const all = vxlans.flatMap((v) =>
    v.vlan === undefined
      ? []
      : { vlan: v.vlan, vni: v.vni, key: vxlanKey(v), mtu: Math.max(byVlan.get(v.vlan) ?? 0, v.mtu ?? 0) },
  );
  return { all, most: all.reduce((most, f) => Math.max(most, f.mtu), 0) };
});

export const mtuCarriesVxlan: DesignRule = {
  id: 'mtu-carries-vxlan',
  title: 'Fabric links carry tenant frames whole',
  severity: 'error',
  scope: 'network',
  source: 'RFC 7348 §4.3: link MTU ≥ tenant MTU + 50',
  reads: ['ports', 'staticRoutes', 'svis', 'vrfs', 'vxlans'],
  judge: (network) => {
    const { switches, plan } = network;
    let least = Infinity;
    let where = '';
    for (const { host, config } of switches)
      for (const p of tenantsOf(network).isOutside(host) ? [] : config.ports)
        if (
          !p.bridging &&
          p.vrf === undefined &&
          (p.mtu ?? DEFAULT_MTU) < least &&
          plan.end(host, p.name) !== undefined
        ) {
          least = p.mtu ?? DEFAULT_MTU;
          where = `${host} ${p.name}`;
        }
    const worst = new Map<number, { host: string; vni: number; key: string; mtu: number; hosts: number }>();
    for (const { host, config } of switches) {
      const frames = framesOf(config);
      if (frames.most + VXLAN_OVERHEAD_IPV4 <= least) continue;
      for (const { vlan, vni, key, mtu } of frames.all) {
        if (mtu === 0 || mtu + VXLAN_OVERHEAD_IPV4 <= least) continue;
        const known = worst.get(vlan);
        if (known) known.hosts++;
        else worst.set(vlan, { host, vni, key, mtu, hosts: 1 });
      }
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
