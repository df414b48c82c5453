import { asksAround } from '../../config/drained.ts';
import { sviKey } from '../../config/interfaces.ts';
import type { Finding } from '../../finding.ts';
import { gatewayTrouble, portTrouble } from '../../network/hostReach.ts';
import type { Leg, NetworkModel } from '../../network/networkModel.ts';
import type { SwitchView } from '../../network/switchView.ts';
import { found, type DesignRule } from '../rule.ts';

const vrfWords = (vrf: string): string => (vrf === '' ? 'no VRF' : `VRF ${vrf}`);

function judgeLeg(view: SwitchView, leg: Leg): Finding[] {
  const { host: server, switch: host, port, vlan, vrf } = leg;
  const subjects = [`vlan:${vlan}`] as const;
  const cut = portTrouble(view, leg);
  if (cut)
    return [
      found(
        serverJoined,
        { host, configPlace: cut.configPlace ?? ['ports', port], subjects },
        `${server} is cut off from VLAN ${vlan}: ${cut.words}.`,
        `Let ${port} carry VLAN ${vlan}, and the bridge too.`,
      ),
    ];
  const svi = view.sviByVlan.get(vlan);
  const place = svi ? ({ configPlace: ['svis', sviKey(svi)] } as const) : {};
  const lost = gatewayTrouble(view, leg);
  if (lost)
    return [
      found(
        serverJoined,
        { host, ...place, subjects },
        `${server} has no way out of VLAN ${vlan}: ${lost.words}.`,
        `Give VLAN ${vlan} its gateway there.`,
      ),
    ];
  const has = svi?.vrf ?? '';
  return vrf === undefined || vrf === has
    ? []
    : [
        found(
          serverJoined,
          { host, ...place, subjects },
          `${server} is in VRF ${vrf}; its gateway on ${host} is in ${vrfWords(has)}.`,
          `Put the gateway of VLAN ${vlan} into ${vrfWords(vrf)}.`,
        ),
      ];
}

/** Is the port shut because others go round its switch (RFC 8326), while the server is carried by another? */
function isCarriedElsewhere(leg: Leg, view: SwitchView, { legs, views }: NetworkModel): boolean {
  if (!asksAround(view.config) || !view.portByName.get(leg.port)?.shut) return false;
  return legs.some((other) => {
    if (other.host !== leg.host || other.vlan !== leg.vlan || other.switch === leg.switch) return false;
    const there = views.get(other.switch);
    return there !== undefined && portTrouble(there, other) === null;
  });
}
export const serverJoined: DesignRule = {
  id: 'server-joined',
  title: 'Every server is in its network and finds its gateway',
  severity: 'error',
  scope: 'network',
  source: 'what a server is connected for: its VLAN on its port, its gateway on the switch, in its VRF',
  reads: ['bgp', 'bridge', 'lags', 'legs', 'ports', 'svis'],
  judge: (network) => {
    const all = network.legs.flatMap((leg) => {
      const view = network.views.get(leg.switch);
      return view && !isCarriedElsewhere(leg, view, network) ? judgeLeg(view, leg) : [];
    });
    // A server with an address of each family is there twice, and cut off once.
    return [...new Map(all.map((f) => [`${f.host} ${f.message}`, f])).values()];
  },
};
