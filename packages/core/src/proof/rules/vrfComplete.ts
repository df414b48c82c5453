import { found, type DesignRule } from '../rule.ts';

export const vrfComplete: DesignRule = {
  id: 'vrf-complete',
  title: 'A VRF has all that routing between switches needs',
  severity: 'error',
  scope: 'network',
  source: 'RFC 9135 §5: L3 VNI, its VXLAN, VLAN and interface, BGP block',
  reads: [],
  judge: ({ views }) =>
    [...views].flatMap(([host, view]) =>
      [...view.vrfs.values()]
        .filter((v) => v.broken !== null)
        .map((v) =>
          found(
            vrfComplete,
            { host, configPlace: ['vrfs', v.name], subjects: [`vrf:${v.name}`] },
            `${host}, VRF ${v.name}: ${v.broken}.`,
            'Complete it as on the other switches.',
          ),
        ),
    ),
};
