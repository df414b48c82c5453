import { lagKey, lagWords, type LagConfig, type PortConfig } from '../../config/interfaces.ts';
import { vxlanKey, vxlanWords } from '../../config/overlay.ts';
import type { Finding } from '../../finding.ts';
import { tenantsOf } from '../../network/tenants.ts';
import type { SwitchView } from '../../network/switchView.ts';
import type { Trunk } from '../../network/trunks.ts';
import { onceFor } from '../../onceFor.ts';
import { found, hostByHost, type RuleSpot } from '../rule.ts';

export const bridgeCarries = hostByHost({
  id: 'bridge-carries',
  title: 'Server VLANs are on the bridge and lead on, by a VNI or a trunk',
  severity: 'error',
  source: 'a frame on an unknown VLAN is dropped',
  reads: ['bridge', 'lags', 'outsideL3Vni', 'ports', 'staticRoutes', 'trunks', 'vrfs', 'vxlans'],
  judgeHost: (network, host) => {
    const { views, trunks, plan } = network;
    const view = views.get(host)!;
    /** Does a VLAN end at a router on a port, or the whole switch lie outside of the fabric? */
    const ends = (port: string): boolean => {
      const far = plan.end(host, port);
      const farPort = far && views.get(far.host)?.portByName.get(far.port);
      return tenantsOf(network).isOutside(host) || (farPort !== undefined && farPort.bridging === undefined);
    };
    const leads = trunks.length === 0 ? NOWHERE : (trunkVlans(trunks).get(host) ?? NOWHERE);
    return [...serverSide(host, view, leads, ends), ...fabricSide(host, view)];
  },
});

const NOWHERE: ReadonlySet<number> = new Set();
/** VLANs of each switch that a trunk carries on. */
const trunkVlans = onceFor((trunks: readonly Trunk[]): ReadonlyMap<string, ReadonlySet<number>> => {
  const leads = new Map<string, Set<number>>();
  for (const { a, b } of trunks)
    for (const { host, bridging } of [a, b]) {
      const vlans = leads.get(host) ?? new Set();
      for (const vlan of [bridging.untagged ?? [], bridging.tagged].flat()) vlans.add(vlan);
      leads.set(host, vlans);
    }
  return leads;
});

/** A port or LAG with VLANs: in the bridge, and each VLAN of it on the bridge and with a VNI, or on a trunk. */
function serverSide(
  host: string,
  { config, bridge, vniOfVlan }: SwitchView,
  leadsOn: ReadonlySet<number>,
  ends: (port: string) => boolean,
): Finding[] {
  const judge = ({ bridging }: PortConfig | LagConfig, name: string, inBridge: boolean, spot: RuleSpot): Finding[] => {
    if (!bridging) return [];
    const out: Finding[] = [];
    const say = (message: string, cure: string): void =>
      void out.push(found(bridgeCarries, spot, `${host} ${name}${message}`, cure));
    if (!inBridge) say(' has VLANs but is not in the bridge.', 'Add it to bridge-ports.');
    for (const vlan of [...(bridging.untagged === undefined ? [] : [bridging.untagged]), ...bridging.tagged])
      if (!bridge.carries(vlan))
        say(`: VLAN ${vlan} is not on the bridge.`, 'Add it to bridge-vids, or choose a network this rack carries.');
      else if (!vniOfVlan.has(vlan) && !leadsOn.has(vlan) && !ends(name))
        say(`: VLAN ${vlan} has no VNI on this switch.`, 'Add its VXLAN interface to the bridge.');
    return out;
  };
  return [
    ...config.ports.flatMap((p) => judge(p, p.name, bridge.hasPort(p.name), { host, configPlace: ['ports', p.name] })),
    ...config.lags.flatMap((l) => judge(l, lagWords(l), bridge.hasLag(l), { host, configPlace: ['lags', lagKey(l)] })),
  ];
}

function fabricSide(host: string, { config, bridge }: SwitchView): Finding[] {
  return config.vxlans.flatMap((v) => {
    const name = vxlanWords(v);
    if (!bridge.hasVxlan(v))
      return found(
        bridgeCarries,
        { host, configPlace: ['vxlans', vxlanKey(v)] },
        `${host} ${name} is not in the bridge.`,
        'Add it to bridge-ports.',
      );
    return v.vlan !== undefined && !bridge.carries(v.vlan)
      ? found(
          bridgeCarries,
          { host, configPlace: ['vxlans', vxlanKey(v), 'vlan'] },
          `${host} ${name}: VLAN ${v.vlan} is not on the bridge.`,
          'Add it to bridge-vids.',
        )
      : [];
  });
}
