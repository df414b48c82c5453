import { found, type DesignRule } from '../rule.ts';

export const bridgeCarries: DesignRule = {
  id: 'bridge-carries',
  title: 'Server VLANs are on the bridge and have a VNI',
  severity: 'error',
  source: 'a frame on an unknown VLAN is dropped',
  judge: ({ views }) => {
    const out = [];
    for (const [host, { config, vniOfVlan }] of views) {
      const members = new Set(config.bridge?.members);
      const vlans = new Set(config.bridge?.vlans);
      for (const [kind, list] of [
        ['ports', config.ports],
        ['lags', config.lags],
      ] as const)
        for (const p of list) {
          if (!p.bridging) continue;
          const spot = { host, configPath: `${kind}.${p.name}` };
          if (!members.has(p.name))
            out.push(
              found(
                bridgeCarries,
                spot,
                `${host} ${p.name} has VLANs but is not in the bridge.`,
                'Add it to bridge-ports.',
              ),
            );
          for (const vlan of [
            ...(p.bridging.untagged === undefined ? [] : [p.bridging.untagged]),
            ...p.bridging.tagged,
          ])
            if (!vlans.has(vlan))
              out.push(
                found(
                  bridgeCarries,
                  spot,
                  `${host} ${p.name}: VLAN ${vlan} is not on the bridge.`,
                  'Add it to bridge-vids, or choose a network this rack carries.',
                ),
              );
            else if (!vniOfVlan.has(vlan))
              out.push(
                found(
                  bridgeCarries,
                  spot,
                  `${host} ${p.name}: VLAN ${vlan} has no VNI on this switch.`,
                  'Add its VXLAN interface to the bridge.',
                ),
              );
        }
      for (const v of config.vxlans)
        if (!members.has(v.name))
          out.push(
            found(
              bridgeCarries,
              { host, configPath: `vxlans.${v.name}` },
              `${host} ${v.name} is not in the bridge.`,
              'Add it to bridge-ports.',
            ),
          );
        else if (v.vlan !== undefined && !vlans.has(v.vlan))
          out.push(
            found(
              bridgeCarries,
              { host, configPath: `vxlans.${v.name}.bridge-access` },
              `${host} ${v.name}: VLAN ${v.vlan} is not on the bridge.`,
              'Add it to bridge-vids.',
            ),
          );
    }
    return out;
  },
};
