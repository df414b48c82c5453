import { DEFAULT_MTU } from '../../network/interfaces.ts';
import { found, type DesignRule } from '../rule.ts';

export const mtuCarriesVlan: DesignRule = {
  id: 'mtu-carries-vlan',
  title: 'Trunks carry the frames of servers whole',
  severity: 'error',
  scope: 'network',
  source: 'a bridge drops a frame that is larger than the port it leaves by',
  reads: ['ports', 'trunks'],
  judge: ({ trunks, views }) => {
    const ends = trunks.flatMap(({ a, b }) => [a, b]);
    const isTrunk = new Set(ends.map((e) => `${e.host} ${e.place[1]}`));
    /** VLAN → the largest frame a server may send. */
    const sent = new Map<number, { readonly mtu: number; readonly where: string }>();
    if (ends.length > 0)
      for (const [host, { config }] of views)
        for (const p of config.ports) {
          if (!p.bridging || isTrunk.has(`${host} ${p.name}`)) continue;
          for (const vlan of [p.bridging.untagged ?? [], p.bridging.tagged].flat()) {
            const mtu = p.mtu ?? DEFAULT_MTU;
            if (mtu > (sent.get(vlan)?.mtu ?? 0)) sent.set(vlan, { mtu, where: `${host} ${p.name}` });
          }
        }
    return ends.flatMap((e) => {
      const mtu = e.mtu ?? DEFAULT_MTU;
      const vlan = [e.bridging.untagged ?? [], e.bridging.tagged].flat().find((v) => (sent.get(v)?.mtu ?? 0) > mtu);
      if (vlan === undefined) return [];
      const { mtu: needed, where } = sent.get(vlan)!;
      return [
        found(
          mtuCarriesVlan,
          { host: e.host, configPlace: [...e.place], subjects: [`vlan:${vlan}`] },
          `${e.host} ${e.name} has MTU ${mtu}; VLAN ${vlan} on it has frames of ${needed} (${where}).`,
          `Raise the link MTU to ${needed} or more, or lower the MTU of the network.`,
        ),
      ];
    });
  },
};
