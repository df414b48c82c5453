import { whyUnheard } from '../../network/networkModel.ts';
import { found, type DesignRule } from '../rule.ts';

export const l3VniMeets: DesignRule = {
  id: 'l3vni-meets',
  title: 'A VRF has one L3 VNI, imported wherever it is',
  severity: 'error',
  source: 'RFC 9136 §4.4: same L3 VNI, route targets that meet',
  judge: (network) => {
    const byVrf = new Map<string, { host: string; vni: number }[]>();
    for (const [vni, carriers] of network.l3Carriers)
      for (const { host, vrf } of carriers) {
        const list = byVrf.get(vrf);
        if (list) list.push({ host, vni });
        else byVrf.set(vrf, [{ host, vni }]);
      }
    const out = [];
    for (const [vrf, carriers] of byVrf) {
      const first = carriers[0]!;
      const members = [];
      for (const c of carriers) {
        const v = network.views.get(c.host)!.vrfs.get(vrf)!;
        if (c.vni !== first.vni)
          out.push(
            found(
              l3VniMeets,
              { host: c.host, configPlace: ['vrfs', vrf, 'l3Vni'], subjects: [`vrf:${vrf}`] },
              `VRF ${vrf} has L3 VNI ${c.vni} on ${c.host} and ${first.vni} on ${first.host}.`,
              'Use one L3 VNI for the VRF.',
            ),
          );
        else if (v.broken === null) members.push({ host: c.host, v, text: `${v.imports.join()}|${v.exports.join()}` });
      }
      // One finding per switch, told against the first member it does not meet; equal targets meet by themselves.
      const reference = members[0];
      for (const m of members) {
        if (!reference || m === reference || m.text === reference.text) continue;
        const why =
          whyUnheard(network, reference.host, m.host, m.v.exports, reference.v.imports, m.v.vtep) ??
          whyUnheard(network, m.host, reference.host, reference.v.exports, m.v.imports, reference.v.vtep);
        if (why !== null)
          out.push(
            found(
              l3VniMeets,
              { host: m.host, configPlace: ['bgp', 'vrfs', vrf, 'imports'], subjects: [`vrf:${vrf}`] },
              `VRF ${vrf}: routes of ${m.host} and ${reference.host} do not meet: ${why}.`,
              'Import and export the same route target on all its switches.',
            ),
          );
      }
    }
    return out;
  },
};
