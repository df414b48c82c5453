import { vrfEnd, whyUnheard } from '../../network/networkModel.ts';
import { found, type DesignRule } from '../rule.ts';
import { Usual } from '../usual.ts';

export const l3VniMeets: DesignRule = {
  id: 'l3vni-meets',
  title: 'A VRF has one L3 VNI, imported wherever it is',
  severity: 'error',
  scope: 'network',
  source: 'RFC 9136 §4.4: same L3 VNI, route targets that meet',
  reads: [],
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
      const vnis = new Usual<null, number>();
      for (const c of carriers) vnis.add(null, c.vni, c.host);
      const members = [];
      for (const c of carriers) {
        const v = network.views.get(c.host)!.vrfs.get(vrf)!;
        const usual = vnis.against(null, c.vni);
        if (usual)
          out.push(
            found(
              l3VniMeets,
              { host: c.host, configPlace: ['vrfs', vrf, 'l3Vni'], subjects: [`vrf:${vrf}`] },
              `VRF ${vrf} has L3 VNI ${c.vni} on ${c.host} and ${usual.value} on ${usual.host}.`,
              'Use one L3 VNI for the VRF.',
            ),
          );
        else if (v.broken === null) members.push({ host: c.host, v, text: `${v.imports.join()}|${v.exports.join()}` });
      }
      // One finding per switch, told against one that has what most have; equal targets meet by themselves.
      const texts = new Usual<null, string>();
      for (const m of members) texts.add(null, m.text, m.host);
      const reference = members.find((m) => texts.against(null, m.text) === null);
      for (const m of members) {
        if (!reference || m === reference || m.text === reference.text) continue;
        const why =
          whyUnheard(network, vrfEnd(reference.host, reference.v), vrfEnd(m.host, m.v)) ??
          whyUnheard(network, vrfEnd(m.host, m.v), vrfEnd(reference.host, reference.v));
        if (why)
          out.push(
            found(
              l3VniMeets,
              { host: m.host, configPlace: ['bgp', 'vrfs', vrf, 'imports'], subjects: [`vrf:${vrf}`] },
              `VRF ${vrf}: routes of ${m.host} and ${reference.host} do not meet: ${why.words}.`,
              'Import and export the same route target on all its switches.',
            ),
          );
      }
    }
    return out;
  },
};
